package assemble

import (
	"errors"
	"fmt"
	"maps"
	"net"
	netmail "net/mail"
	"net/netip"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"latelantern/internal/core/texts"
	"latelantern/internal/platform/blobs"
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
	Language string   // of letters to those who have chosen none
	Small    bool     // small copies are made for slow lines
	Proxies  []string // whose word about who calls is believed: addresses or networks

	Store blobs.Keeper // of the bytes; the folder of all media when nil

	Captioner  captioner.Captioner // drafts captions; nil for none
	ReadSlides bool                // what stands on slides is read
}

// environment reads variables, and notes what is wrong with them.
type environment struct {
	faults []error
}

func (e *environment) wrong(format string, args ...any) {
	e.faults = append(e.faults, fmt.Errorf(format, args...))
}

// text is the value of a variable of ours.
func (e *environment) text(name, otherwise string) string {
	if v := os.Getenv("LATE_LANTERN_" + name); v != "" {
		return v
	}
	return otherwise
}

func (e *environment) onOff(name string, otherwise bool) bool {
	switch v := e.text(name, ""); v {
	case "":
	case "on", "off":
		return v == "on"
	default:
		e.wrong("LATE_LANTERN_%s is %q; it can be on or off", name, v)
	}
	return otherwise
}

// FromEnvironment reads the settings. Every wrong one is named in the error, in a sentence.
func FromEnvironment() (Settings, error) {
	host, err := os.Hostname()
	if err != nil {
		host = "here"
	}
	e := &environment{}
	s := Settings{
		Address: e.text("ADDRESS", "127.0.0.1:8080"), Database: e.text("DATABASE", ""),
		Media:  e.text("MEDIA", filepath.Join("var", "media")),
		Secure: e.onOff("SECURE_COOKIES", false), Work: e.onOff("WORK", true), Small: e.onOff("SMALL_COPIES", true),
		ReadSlides: e.onOff("READ_SLIDES", true), Worker: e.text("WORKER", host), Language: e.text("LANGUAGE", "en"),
		Mail: mail.Post{Server: e.text("MAIL", ""), From: e.text("MAIL_FROM", ""), User: e.text("MAIL_USER", ""),
			Password: e.text("MAIL_PASSWORD", ""), Plain: e.onOff("MAIL_PLAIN", false)},
	}
	if _, _, err := net.SplitHostPort(s.Address); err != nil {
		e.wrong("LATE_LANTERN_ADDRESS is %q; it needs a host and a port, such as 127.0.0.1:8080", s.Address)
	}
	s.Public = e.public(s)
	e.checkMail(s.Mail)
	if texts.Languages[s.Language] == nil {
		e.wrong("LATE_LANTERN_LANGUAGE is %q; it can be one of %s", s.Language,
			strings.Join(slices.Sorted(maps.Keys(texts.Languages)), ", "))
	}
	s.Proxies = e.proxies()
	s.Captioner = e.captioner()
	if v := e.text("CLOCK", ""); v != "" {
		if s.Clock, err = time.Parse(time.RFC3339, v); err != nil {
			e.wrong("LATE_LANTERN_CLOCK is %q; it needs a time such as 2026-10-06T10:20:00Z", v)
		}
	}
	return s, errors.Join(e.faults...)
}

// web reports whether an address is one of the web.
func web(u *url.URL, err error) bool {
	return err == nil && u.Host != "" && (u.Scheme == "http" || u.Scheme == "https")
}

func (e *environment) public(s Settings) string {
	out := strings.TrimRight(e.text("URL", "http://"+s.Address), "/")
	if u, err := url.Parse(out); !web(u, err) || u.Path != "" {
		e.wrong("LATE_LANTERN_URL is %q; it needs the address people enter, such as https://lectures.college.example", out)
	}
	if strings.HasPrefix(out, "https://") && !s.Secure {
		e.wrong("LATE_LANTERN_URL begins with https:// and LATE_LANTERN_SECURE_COOKIES is not on; " +
			"set it to on, so that no cookie goes over a plain line")
	}
	return out
}

func (e *environment) checkMail(post mail.Post) {
	if !post.On() {
		return
	}
	if _, _, err := net.SplitHostPort(post.Server); err != nil {
		e.wrong("LATE_LANTERN_MAIL is %q; it needs a host and a port, such as post.college.example:587", post.Server)
	}
	if a, err := netmail.ParseAddress(post.From); err != nil || a.Address != post.From {
		e.wrong("LATE_LANTERN_MAIL_FROM is %q; letters need an address they come from, such as lantern@college.example",
			post.From)
	}
}

func (e *environment) proxies() (list []string) {
	for p := range strings.FieldsFuncSeq(e.text("PROXIES", ""), func(r rune) bool { return r == ',' || r == ' ' }) {
		_, err := netip.ParsePrefix(p)
		if _, err2 := netip.ParseAddr(p); err != nil && err2 != nil {
			e.wrong("LATE_LANTERN_PROXIES has %q; it needs addresses or networks, such as 10.0.0.0/8", p)
		}
		list = append(list, p)
	}
	return list
}

// captioner is who drafts captions; nil for nobody.
func (e *environment) captioner() captioner.Captioner {
	v := e.text("CAPTIONER", "on")
	switch v {
	case "off":
		return nil
	case "on":
		return captioner.Sphinx{}
	}
	if u, err := url.Parse(v); !web(u, err) {
		e.wrong("LATE_LANTERN_CAPTIONER is %q; it can be on, off, or the address of a server, "+
			"such as http://words.college.example:9000", v)
	}
	return &captioner.Server{Address: strings.TrimRight(v, "/"), Key: e.text("CAPTIONER_KEY", ""),
		Model: e.text("CAPTIONER_MODEL", "whisper-1")}
}

// NeedDatabase complains when no database is set.
func (s Settings) NeedDatabase() error {
	if s.Database == "" {
		return errors.New("LATE_LANTERN_DATABASE is not set; it needs an address such as postgres://latelantern@127.0.0.1:5432/latelantern")
	}
	return nil
}
