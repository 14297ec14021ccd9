package assemble

import (
	"errors"
	"fmt"
	"net"
	netmail "net/mail"
	"net/netip"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"time"

	"latelantern/internal/platform/captioner"
	"latelantern/internal/platform/mail"
)

// Settings is everything that is set from outside.
type Settings struct {
	Address  string    // to serve on, host:port
	Database string    // where PostgreSQL is
	Media    string    // folder of all media
	Secure   bool      // cookies over HTTPS alone
	Work     bool      // also does the jobs
	Worker   string    // name of this worker, the same over restarts
	Clock    time.Time // at which the clock of the college starts; zero for the real time
	Public   string    // address under which people reach the application, without a slash at its end
	Mail     mail.Post
	Small    bool     // small copies are made for slow lines
	Proxies  []string // whose word about who calls is believed: addresses or networks

	Captioner  captioner.Captioner // drafts captions; nil for none
	ReadSlides bool                // what stands on slides is read
}

// FromEnvironment reads the settings. Every wrong one is named in the error, in a sentence.
func FromEnvironment() (Settings, error) {
	var faults []error
	text := func(name, otherwise string) string {
		if v := os.Getenv("LATE_LANTERN_" + name); v != "" {
			return v
		}
		return otherwise
	}
	onOff := func(name string, otherwise bool) bool {
		switch v := text(name, ""); v {
		case "":
			return otherwise
		case "on", "off":
			return v == "on"
		default:
			faults = append(faults, fmt.Errorf("LATE_LANTERN_%s is %q; it can be on or off", name, v))
			return otherwise
		}
	}
	host, err := os.Hostname()
	if err != nil {
		host = "here"
	}
	s := Settings{
		Address: text("ADDRESS", "127.0.0.1:8080"), Database: text("DATABASE", ""), Media: text("MEDIA", filepath.Join("var", "media")),
		Secure: onOff("SECURE_COOKIES", false), Work: onOff("WORK", true), Small: onOff("SMALL_COPIES", true), ReadSlides: onOff("READ_SLIDES", true), Worker: text("WORKER", host),
		Mail: mail.Post{Server: text("MAIL", ""), From: text("MAIL_FROM", ""), User: text("MAIL_USER", ""), Password: text("MAIL_PASSWORD", ""), Plain: onOff("MAIL_PLAIN", false)},
	}
	s.Public = strings.TrimRight(text("URL", "http://"+s.Address), "/")
	if u, err := url.Parse(s.Public); err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" || u.Path != "" {
		faults = append(faults, fmt.Errorf("LATE_LANTERN_URL is %q; it needs the address people enter, such as https://lectures.college.example", s.Public))
	}
	if strings.HasPrefix(s.Public, "https://") && !s.Secure {
		faults = append(faults, errors.New("LATE_LANTERN_URL begins with https:// and LATE_LANTERN_SECURE_COOKIES is not on; set it to on, so that no cookie goes over a plain line"))
	}
	if s.Mail.On() {
		if _, _, err := net.SplitHostPort(s.Mail.Server); err != nil {
			faults = append(faults, fmt.Errorf("LATE_LANTERN_MAIL is %q; it needs a host and a port, such as post.college.example:587", s.Mail.Server))
		}
		if a, err := netmail.ParseAddress(s.Mail.From); err != nil || a.Address != s.Mail.From {
			faults = append(faults, fmt.Errorf("LATE_LANTERN_MAIL_FROM is %q; letters need an address they come from, such as lantern@college.example", s.Mail.From))
		}
	}
	for _, p := range strings.FieldsFunc(text("PROXIES", ""), func(r rune) bool { return r == ',' || r == ' ' }) {
		_, err := netip.ParsePrefix(p)
		if _, err2 := netip.ParseAddr(p); err != nil && err2 != nil {
			faults = append(faults, fmt.Errorf("LATE_LANTERN_PROXIES has %q; it needs addresses or networks, such as 10.0.0.0/8", p))
		}
		s.Proxies = append(s.Proxies, p)
	}
	switch v := text("CAPTIONER", "on"); {
	case v == "off":
	case v == "on":
		s.Captioner = captioner.Sphinx{}
	default:
		if u, err := url.Parse(v); err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" {
			faults = append(faults, fmt.Errorf("LATE_LANTERN_CAPTIONER is %q; it can be on, off, or the address of a server, such as http://words.college.example:9000", v))
		}
		s.Captioner = &captioner.Server{Address: strings.TrimRight(v, "/"), Key: text("CAPTIONER_KEY", ""), Model: text("CAPTIONER_MODEL", "whisper-1")}
	}
	if _, _, err := net.SplitHostPort(s.Address); err != nil {
		faults = append(faults, fmt.Errorf("LATE_LANTERN_ADDRESS is %q; it needs a host and a port, such as 127.0.0.1:8080", s.Address))
	}
	if v := text("CLOCK", ""); v != "" {
		if s.Clock, err = time.Parse(time.RFC3339, v); err != nil {
			faults = append(faults, fmt.Errorf("LATE_LANTERN_CLOCK is %q; it needs a time such as 2026-10-06T10:20:00Z", v))
		}
	}
	return s, errors.Join(faults...)
}

// NeedDatabase complains when no database is set.
func (s Settings) NeedDatabase() error {
	if s.Database == "" {
		return errors.New("LATE_LANTERN_DATABASE is not set; it needs an address such as postgres://latelantern@127.0.0.1:5432/latelantern")
	}
	return nil
}
