package naming

import (
	"strings"
	"testing"
	"time"
)

func TestTitle(t *testing.T) {
	day := time.Date(2026, 10, 14, 10, 15, 0, 0, time.UTC)
	for _, c := range []struct {
		in   Lecture
		want string
	}{
		{Lecture{"TID 210", 7, day, false, "Spring tides", 1}, "TID 210, week 7 · Wed 14 Oct · Spring tides"},
		{Lecture{"TID 210", 0, day, false, "  ", 1}, "TID 210 · Wed 14 Oct"},
		{Lecture{"TID 210", 7, day, false, "Spring\n tides", 2}, "TID 210, week 7 · Wed 14 Oct · Spring tides · part 2"},
		{Lecture{"TID 210", 9, day, true, "Neap tides", 1}, "TID 210, week 9 · Neap tides"},
	} {
		if got := Title(c.in); got != c.want {
			t.Errorf("%q, want %q", got, c.want)
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
