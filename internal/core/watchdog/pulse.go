package watchdog

import "time"

// Phase is how a capture stands, for everyone whom it concerns.
type Phase string

// The phases of a capture, in the order in which they usually come.
const (
	Begins Phase = "begins" // nothing of it can be watched yet
	Runs   Phase = "runs"
	Paused Phase = "paused" // by whoever captures
	Broken Phase = "broken" // nothing comes any more, and nobody said why
	Over   Phase = "over"
)

// BrokenAfter is how long nothing may come before a capture is told to be broken off: a piece comes every second.
const BrokenAfter = 2 * time.Minute

// flush is how long after a pause the last bytes before it may still come.
const flush = 10 * time.Second

// Pulse is what is known of a capture.
type Pulse struct {
	Last    time.Time     // when bytes last came, or it was begun
	Paused  *time.Time    // since when; nil while it is not
	Stopped *time.Time    // nil while it is not
	Held    time.Duration // how much of it can be watched
}

// Phase says how the capture stands.
func (p Pulse) Phase(now time.Time) Phase {
	switch {
	case p.Stopped != nil:
		return Over
	case p.Paused != nil && p.Last.Before(p.Paused.Add(flush)):
		return Paused
	case now.Sub(p.Last) >= BrokenAfter:
		return Broken
	case p.Held == 0:
		return Begins
	}
	return Runs
}

// Until is when the phase changes by itself if nothing more comes; the zero time for never.
func (p Pulse) Until(now time.Time) time.Time {
	switch p.Phase(now) {
	case Begins, Runs:
		return p.Last.Add(BrokenAfter)
	}
	return time.Time{}
}
