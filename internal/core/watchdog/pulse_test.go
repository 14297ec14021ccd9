package watchdog

import (
	"testing"
	"time"
)

func TestPhase(t *testing.T) {
	now := time.Date(2026, 10, 6, 10, 20, 0, 0, time.UTC)
	ago := func(d time.Duration) *time.Time { x := now.Add(-d); return &x }
	for name, c := range map[string]struct {
		p     Pulse
		want  Phase
		until time.Duration // from now; 0 for never
	}{
		"just begun":              {Pulse{Last: now}, Begins, 2 * time.Minute},
		"it runs":                 {Pulse{Last: *ago(time.Second), Held: time.Second}, Runs, 119 * time.Second},
		"a line that stutters":    {Pulse{Last: *ago(119 * time.Second), Held: time.Second}, Runs, time.Second},
		"nothing for two minutes": {Pulse{Last: *ago(2 * time.Minute), Held: time.Second}, Broken, 0},
		"nothing ever came":       {Pulse{Last: *ago(2 * time.Minute)}, Broken, 0},
		"paused for an hour": {Pulse{Last: *ago(time.Hour), Paused: ago(time.Hour), Held: time.Second}, Paused,
			0},
		"paused, with a last piece": {Pulse{Last: *ago(57 * time.Second), Paused: ago(time.Minute), Held: time.Second},
			Paused, 0},
		"gone on unheard": {Pulse{Last: *ago(time.Second), Paused: ago(time.Minute), Held: time.Second}, Runs,
			119 * time.Second},
		"stopped": {Pulse{Last: *ago(time.Hour), Paused: ago(time.Hour), Stopped: ago(time.Minute)}, Over, 0},
	} {
		if got := c.p.Phase(now); got != c.want {
			t.Errorf("%s: %s", name, got)
		}
		until := c.p.Until(now)
		if c.until == 0 && !until.IsZero() || c.until > 0 && !until.Equal(now.Add(c.until)) {
			t.Errorf("%s: until %v", name, until)
		}
	}
}
