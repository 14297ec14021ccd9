package naming

import (
	"strings"
	"testing"
	"time"

	"latelantern/internal/core/texts"
)

func TestTitle(t *testing.T) {
	day := time.Date(2026, 10, 14, 10, 15, 0, 0, time.UTC)
	full := Lecture{"TID 210", "Reading the Tides", 7, day, false, "Spring\n tides", 1}
	change := func(do func(*Lecture)) Lecture {
		l := full
		do(&l)
		return l
	}
	second := change(func(l *Lecture) { l.Part = 2 })
	outside := change(func(l *Lecture) { l.Week = 0 })
	ahead := change(func(l *Lecture) { l.Ahead = true })
	silent := change(func(l *Lecture) { l.Subject = " " })
	const asked = "{course} week {week}: {subject} ({date})"
	for _, c := range []struct {
		pattern string
		in      Lecture
		want    string
	}{
		{"", full, "TID 210, week 7 · Wed 14 Oct · Spring tides"},
		{"", change(func(l *Lecture) { l.Week, l.Subject = 0, "" }), "TID 210 · Wed 14 Oct"},
		{"", second, "TID 210, week 7 · Wed 14 Oct · Spring tides · part 2"},
		{"", ahead, "TID 210, week 7 · Spring tides"},
		{asked, full, "TID 210 week 7: Spring tides (Wed 14 Oct)"},
		{asked, outside, "TID 210: Spring tides (Wed 14 Oct)"},
		{asked, silent, "TID 210 week 7 (Wed 14 Oct)"},
		{asked, ahead, "TID 210 week 7: Spring tides"},
		{asked, second, "TID 210 week 7: Spring tides (Wed 14 Oct) · part 2"},
		{"{subject}", silent, ""},
		{"Week {Week} - { subject }, {part} [{name}]", second, "Week 7 - Spring tides, part 2 [Reading the Tides]"},
		{"Week {week} - {subject}, {part} [{name}]", full, "Week 7 - Spring tides [Reading the Tides]"},
		{"({week}) {subject}", outside, "Spring tides"},
		{"{course} {week}", change(func(l *Lecture) { l.Week = 1 }), "TID 210 1"},
		{"{week}. {subject}", full, "7. Spring tides"},
		{"{week}. {subject}", outside, "Spring tides"},
		{"{course} ({name})x{week}", outside, "TID 210 (Reading the Tides)"},
		{"{subject} ( ) [] tonight", full, "Spring tides tonight"},
		{"(a) {subject} (b)", full, "(a) Spring tides (b)"},
		{"(a {subject} [b (c", full, "a Spring tides b c"},
		{"{subject}", change(func(l *Lecture) { l.Subject = strings.Repeat("å", MaxLength) }),
			strings.Repeat("å", MaxLength)},
		{strings.Repeat("x", MaxPattern-6) + "{week}", full, strings.Repeat("x", MaxPattern-6) + "7"},
		{"{subject} of {name}", change(func(l *Lecture) { l.Subject = strings.Repeat("å", 300) }),
			strings.Repeat("å", MaxLength-1) + "…"},
	} {
		p, err := Parse(c.pattern)
		if err != nil {
			t.Errorf("%q: %v", c.pattern, err)
		}
		if got := p.Title(c.in); got != c.want {
			t.Errorf("%q makes %q, want %q", c.pattern, got, c.want)
		}
	}
}

func TestPatternsThatAreNone(t *testing.T) {
	for text, want := range map[string]string{
		"{course} {weak}":                     "knows no {weak}. It knows {course}, {name}, {week}",
		"{course":                             "{ in the pattern without a }",
		"{course {week}":                      "{ in the pattern without a }",
		"course} {week}":                      "} in the pattern without a {",
		"Lecture":                             "the same title",
		"{part}":                              "the same title",
		strings.Repeat("x", 193) + "{course}": "may have 200 characters; this one has 201",
	} {
		if _, err := Parse(text); err == nil || !strings.Contains(texts.English.Error(err), want) {
			t.Errorf("%.30q: %v", text, err)
		}
	}
}

func TestClean(t *testing.T) {
	if got, err := Clean("  The  tide\nturns "); err != nil || got != "The tide turns" {
		t.Errorf("%q %v", got, err)
	}
	for _, bad := range []string{"", " \t\n", strings.Repeat("å", MaxLength+1)} {
		if got, err := Clean(bad); err == nil {
			t.Errorf("%d characters were kept: %.20q", len(bad), got)
		}
	}
	if _, err := Clean(strings.Repeat("å", MaxLength)); err != nil {
		t.Errorf("the longest title: %v", err)
	}
}
