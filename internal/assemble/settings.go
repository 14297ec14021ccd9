package assemble

import (
	"errors"
	"fmt"
	"net"
	"os"
	"path/filepath"
	"time"
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
		Secure: onOff("SECURE_COOKIES", false), Work: onOff("WORK", true), Worker: text("WORKER", host),
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
