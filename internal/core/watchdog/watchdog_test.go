package watchdog

import (
	"testing"
	"time"
)

var (
	start = time.Date(2026, 10, 14, 10, 15, 0, 0, time.UTC)
	end   = start.Add(90 * time.Minute)
)

func TestNotStarted(t *testing.T) {
	for _, c := range []struct {
		after time.Duration
		want  bool
	}{
		{-time.Hour, false}, {0, false}, {3*time.Minute - 1, false}, {3 * time.Minute, true},
		{90*time.Minute - 1, true}, {90 * time.Minute, false},
	} {
		if got := NotStarted(start, end, start.Add(c.after)); got != c.want {
			t.Errorf("%v after the start: %v", c.after, got)
		}
	}
	// A lecture shorter than that is never late.
	for d := time.Duration(0); d < 10*time.Minute; d += time.Second {
		if NotStarted(start, start.Add(2*time.Minute), start.Add(d)) {
			t.Fatalf("told %v after the start of two minutes", d)
		}
	}
}

func TestGivenUp(t *testing.T) {
	at := func(d time.Duration) time.Time { return end.Add(d) }
	for name, c := range map[string]struct {
		last, now time.Duration // after the planned end
		want      bool
	}{
		"bytes come long after the end":            {2*time.Hour - time.Second, 2 * time.Hour, false},
		"ten minutes past, and silent for one":     {9 * time.Minute, 10 * time.Minute, true},
		"ten minutes past, and silent for less":    {9*time.Minute + 1, 10 * time.Minute, false},
		"nine minutes past, and silent for twenty": {-11 * time.Minute, 9 * time.Minute, false},
		"silent for half an hour in the middle":    {-80 * time.Minute, -50 * time.Minute, true},
		"silent for less in the middle":            {-80*time.Minute + 1, -50 * time.Minute, false},
		"a clock that went back":                   {time.Hour, 0, false},
	} {
		if got := GivenUp(end, at(c.last), at(c.now)); got != c.want {
			t.Errorf("%s: %v", name, got)
		}
	}
}
