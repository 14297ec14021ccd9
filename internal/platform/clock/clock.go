// Package clock is the time of the college.
package clock

import "time"

// Clock says what time it is. The zero value is the computer's own clock.
type Clock struct {
	ahead time.Duration
}

// Ahead is a clock that runs the given number of days before or behind the computer's, so
// that a demonstration on a Sunday can take place on a Monday.
func Ahead(days int) Clock { return Clock{time.Duration(days) * 24 * time.Hour} }

// Now is the time, in UTC, to the microsecond that the database keeps.
func (c Clock) Now() time.Time { return time.Now().Add(c.ahead).UTC().Truncate(time.Microsecond) }
