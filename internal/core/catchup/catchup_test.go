package catchup

import (
	"testing"
	"time"
)

func TestSeen(t *testing.T) {
	for _, c := range []struct {
		name       string
		at, length time.Duration
		want       bool
	}{
		{"nothing to see", 0, 0, false},
		{"not begun", 0, time.Hour, false},
		{"six seconds left of an hour", time.Hour - 6*time.Second, time.Hour, false},
		{"five seconds left of an hour", time.Hour - 5*time.Second, time.Hour, true},
		{"three seconds left of eight", 5 * time.Second, 8 * time.Second, false},
		{"the end of eight seconds", 7700 * time.Millisecond, 8 * time.Second, true},
		{"of a moment, its end", 1, 1, true},
		{"a twentieth left of twenty seconds", 19 * time.Second, 20 * time.Second, true},
		{"a little more than that left", 19*time.Second - 1, 20 * time.Second, false},
		{"beyond the end, after it was trimmed again", 2 * time.Hour, time.Hour, true},
	} {
		if got := Seen(c.at, c.length); got != c.want {
			t.Errorf("%s: %v", c.name, got)
		}
	}
}
