package assemble

import (
	"strings"
	"testing"
	"time"
)

func TestSettings(t *testing.T) {
	for _, name := range []string{"ADDRESS", "DATABASE", "MEDIA", "SECURE_COOKIES", "WORK", "WORKER", "CLOCK", "URL",
		"MAIL", "PROXIES", "LANGUAGE"} {
		t.Setenv("LATE_LANTERN_"+name, "")
	}
	s, err := FromEnvironment()
	if err != nil || s.Address != "127.0.0.1:8080" || s.Secure || !s.Work || !s.Clock.IsZero() || s.Worker == "" ||
		s.Public != "http://127.0.0.1:8080" || s.Mail.On() || s.Proxies != nil || s.Language != "en" {
		t.Errorf("without any: %+v %v", s, err)
	}
	if s.NeedDatabase() == nil {
		t.Error("a missing database is not noticed")
	}
	t.Setenv("LATE_LANTERN_CLOCK", "2026-10-06T10:20:00Z")
	t.Setenv("LATE_LANTERN_SECURE_COOKIES", "on")
	t.Setenv("LATE_LANTERN_WORK", "off")
	t.Setenv("LATE_LANTERN_DATABASE", "postgres://somewhere/x")
	t.Setenv("LATE_LANTERN_URL", "https://lectures.college.example/")
	t.Setenv("LATE_LANTERN_MAIL", "post.college.example:587")
	t.Setenv("LATE_LANTERN_MAIL_FROM", "lantern@college.example")
	t.Setenv("LATE_LANTERN_PROXIES", "10.0.0.1, 10.1.0.0/16")
	t.Setenv("LATE_LANTERN_LANGUAGE", "de")
	s, err = FromEnvironment()
	if err != nil || !s.Secure || s.Work || !s.Clock.Equal(time.Date(2026, 10, 6, 10, 20, 0, 0, time.UTC)) ||
		s.NeedDatabase() != nil {
		t.Errorf("set: %+v %v", s, err)
	}
	if s.Public != "https://lectures.college.example" || !s.Mail.On() || s.Mail.Plain || len(s.Proxies) != 2 || s.Language != "de" {
		t.Errorf("set: %+v", s)
	}
}

// TestNoCookieGoesOverAPlainLine: an address of HTTPS with cookies that go anywhere is no setting.
func TestNoCookieGoesOverAPlainLine(t *testing.T) {
	t.Setenv("LATE_LANTERN_URL", "https://lectures.college.example")
	for secure, fault := range map[string]bool{"": true, "off": true, "on": false} {
		t.Setenv("LATE_LANTERN_SECURE_COOKIES", secure)
		if _, err := FromEnvironment(); (err != nil) != fault ||
			fault && !strings.Contains(err.Error(), "LATE_LANTERN_SECURE_COOKIES is not on; set it to on") {
			t.Errorf("secure cookies %q: %v", secure, err)
		}
	}
}

// TestWrongSettingsAreNamed says each wrong one in a sentence, all at once.
func TestWrongSettingsAreNamed(t *testing.T) {
	t.Setenv("LATE_LANTERN_ADDRESS", "8080")
	t.Setenv("LATE_LANTERN_SECURE_COOKIES", "yes please")
	t.Setenv("LATE_LANTERN_CLOCK", "noon")
	t.Setenv("LATE_LANTERN_URL", "lectures.college.example")
	t.Setenv("LATE_LANTERN_MAIL", "post")
	t.Setenv("LATE_LANTERN_MAIL_FROM", "Late Lantern")
	t.Setenv("LATE_LANTERN_PROXIES", "anyone")
	t.Setenv("LATE_LANTERN_LANGUAGE", "la")
	_, err := FromEnvironment()
	if err == nil {
		t.Fatal("wrong settings are taken")
	}
	for _, words := range []string{`LATE_LANTERN_ADDRESS is "8080"; it needs a host and a port`,
		`LATE_LANTERN_SECURE_COOKIES is "yes please"; it can be on or off`,
		`LATE_LANTERN_CLOCK is "noon"; it needs a time`,
		`LATE_LANTERN_URL is "lectures.college.example"; it needs the address people enter`,
		`LATE_LANTERN_MAIL is "post"; it needs a host and a port`,
		`LATE_LANTERN_MAIL_FROM is "Late Lantern"; letters need an address`,
		`LATE_LANTERN_LANGUAGE is "la"; it can be one of de, en`,
		`LATE_LANTERN_PROXIES has "anyone"; it needs addresses`} {
		if !strings.Contains(err.Error(), words) {
			t.Errorf("%q is not said: %v", words, err)
		}
	}
}
