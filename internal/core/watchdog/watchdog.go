// Package watchdog knows what is forgotten: a capture that nobody started, and one to which
// nothing comes any more.
package watchdog

import "time"

// Late is how long after its planned start a lecture may be without a capture before people are told.
const Late = 3 * time.Minute

// NotStarted reports whether people should be told now that a lecture planned for [start, end)
// is not captured.
func NotStarted(start, end, now time.Time) bool {
	return !now.Before(start.Add(Late)) && now.Before(end)
}

// How long nothing may come of a capture before it is given up: a piece comes every second.
const (
	Silence = 30 * time.Minute // at any time
	Hush    = time.Minute      // once the planned end has been past for Overtime
)

// Overtime is how long after the planned end a capture may be silent for less than Silence.
const Overtime = 10 * time.Minute

// GivenUp reports whether a capture is over, though nobody stopped it: of a lecture planned
// until end, when the last bytes came at last.
func GivenUp(end, last, now time.Time) bool {
	silent := now.Sub(last)
	return silent >= Silence || silent >= Hush && !now.Before(end.Add(Overtime))
}
