package news

import (
	"errors"
	"strings"
	"testing"
	"time"

	"latelantern/internal/core/fault"
)

func TestDue(t *testing.T) {
	came := time.Date(2026, 10, 19, 9, 0, 0, 0, time.UTC)
	for name, x := range map[string]struct {
		often Often
		last  time.Time
		after time.Duration // the time it came; -1 for never
	}{
		"the first of all":                 {Daily, time.Time{}, 0},
		"one went an hour ago":             {Daily, came.Add(-time.Hour), 23 * time.Hour},
		"one went a day ago to the second": {Daily, came.Add(-24 * time.Hour), 0},
		"one went meanwhile":               {Daily, came.Add(time.Hour), 25 * time.Hour},
		"at once":                          {AtOnce, came.Add(-time.Second), 0},
		"weekly":                           {Weekly, came.Add(-24 * time.Hour), 6 * 24 * time.Hour},
		"never":                            {Never, time.Time{}, -1},
		"no choice at all":                 {"", time.Time{}, -1},
	} {
		due, any := x.often.Due(came, x.last)
		if any != (x.after >= 0) || any && !due.Equal(came.Add(x.after)) {
			t.Errorf("%s: %v %v", name, due, any)
		}
	}
}

func TestCheck(t *testing.T) {
	for template, want := range map[string]fault.Code{
		"": "", " \n": "", "{recordings}": "", "Hello {name}: {recordings} of {course}. {unseen}, {catch_up}": "",
		"Hello {name}":           "news.without_recordings",
		"{recordings} {teacher}": "news.unknown_word",
		"{recordings} {}":        "news.unknown_word",
		"{recordings}" + strings.Repeat("ä", Longest-12): "",
		"{recordings}" + strings.Repeat("ä", Longest-11): "news.long",
	} {
		if err := Check(template); fault.Of(err).Code != want || (err == nil) != (want == "") {
			t.Errorf("%.40q: %v", template, err)
		}
	}
	if with := fault.Of(Check("{recordings} {Name}")).With["word"]; with != "Name" {
		t.Errorf("the word is %q", with)
	}
	if !errors.Is(Check("x"), fault.Code("news.without_recordings")) {
		t.Error("the error is not known by its code")
	}
}

func TestFill(t *testing.T) {
	got := Fill("{name}: {recordings}{other", map[Word]string{Name: "A {course} B", Recordings: "R"})
	if got != "A {course} B: R{other" {
		t.Errorf("%q", got)
	}
}
