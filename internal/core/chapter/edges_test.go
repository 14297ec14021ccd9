package chapter

import (
	"errors"
	"reflect"
	"strings"
	"testing"
	"time"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/span"
)

// TestHowLongAChapterIsAtLeast: a fortieth of what is kept, within ten seconds and a minute and a half.
func TestHowLongAChapterIsAtLeast(t *testing.T) {
	for length, want := range map[time.Duration]time.Duration{
		0: 10 * s, 400 * s: 10 * s, 401 * s: 10*s + 25*time.Millisecond, 2000 * s: 50 * s, 3600 * s: 90 * s,
		3601 * s: 90 * s, 9000 * s: 90 * s,
	} {
		if got := least(length); got != want {
			t.Errorf("of %v it is %v, want %v", length, got, want)
		}
	}
}

// TestSlidesJustApart: one that begins as late after another as a chapter is long makes the next.
func TestSlidesJustApart(t *testing.T) {
	kept := span.Of(span.Span{End: 400 * s})
	slides := []Chapter{{0, "One"}, {10 * s, "Two"}, {20*s - 1, "Too soon"}, {399 * s, "The last"}}
	want := []Chapter{{0, "One"}, {10 * s, "Two"}, {399 * s, "The last"}}
	if got := Propose(nil, slides, kept); !reflect.DeepEqual(got, want) {
		t.Errorf("chapters are %v, want %v", got, want)
	}
}

func TestTitlesThatAreTooLong(t *testing.T) {
	for n, want := range map[int]int{1: 1, MaxTitle: MaxTitle, MaxTitle + 1: MaxTitle, 4 * MaxTitle: MaxTitle} {
		got := []rune(Clean(strings.Repeat("é", n)))
		if len(got) != want || (got[len(got)-1] == '…') != (n > MaxTitle) {
			t.Errorf("of %d characters %d are kept: %s", n, len(got), string(got))
		}
	}
}

// TestOneFaultAtATime is told, and as many and as long chapters as may be are none.
func TestOneFaultAtATime(t *testing.T) {
	many := func(n int) []Chapter {
		var out []Chapter
		for i := range n {
			out = append(out, Chapter{time.Duration(i), "x"})
		}
		return out
	}
	for name, c := range map[string]struct {
		list []Chapter
		ok   bool
	}{
		"as many as may be":  {many(MaxChapters), true},
		"one more":           {many(MaxChapters + 1), false},
		"as long as may be":  {[]Chapter{{0, strings.Repeat("é", MaxTitle)}}, true},
		"one longer":         {[]Chapter{{0, strings.Repeat("é", MaxTitle+1)}}, false},
		"two faults of one":  {[]Chapter{{-1, ""}}, false},
		"faults of two":      {[]Chapter{{-1, ""}, {0, ""}}, false},
		"at the last moment": {[]Chapter{{time.Hour - 1, "x"}}, true},
		"at the end":         {[]Chapter{{time.Hour, "x"}}, false},
	} {
		_, err := Check(c.list, time.Hour)
		var wrong fault.Faults
		if (err == nil) != c.ok || err != nil && (!errors.As(err, &wrong) || len(wrong) != 1) {
			t.Errorf("%s: %v", name, err)
		}
	}
}
