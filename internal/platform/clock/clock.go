// Package clock is the time of the college.
package clock

import "time"

// Clock says what time it is. The zero value is the computer's own clock.
type Clock struct {
	ahead time.Duration
	still time.Time
}

// Starting is a clock that shows at now and goes on from there, so that a demonstration
// on a Sunday evening can take place on a Monday morning.
func Starting(at time.Time) Clock { return Clock{ahead: time.Until(at)} }

// Standing is a clock that always shows at, which must not be the zero time.
func Standing(at time.Time) Clock { return Clock{still: at} }

// Now is the time, in UTC, to the microsecond that the database keeps.
func (c Clock) Now() time.Time {
	if !c.still.IsZero() {
		return c.still.UTC().Truncate(time.Microsecond)
	}
	return time.Now().Add(c.ahead).UTC().Truncate(time.Microsecond)
}
