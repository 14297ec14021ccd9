// Package wall brings the clock on the wall to the clock of what is captured, which stands while a capture is paused.
package wall

import "time"

// Clock is the clock of what was captured at a desk or in a hall.
type Clock struct {
	Began  time.Time
	Pauses []Pause // in order
}

// Pause is a while in which nothing was captured.
type Pause struct {
	At   time.Duration // on the clock of the capture
	Long time.Duration
}

// At is the moment of the capture's clock at which the clock on the wall says t; before it began it is negative.
func (c Clock) At(t time.Time) time.Duration {
	at := t.Sub(c.Began)
	for _, p := range c.Pauses {
		if at <= p.At {
			break
		}
		at = max(p.At, at-p.Long)
	}
	return at
}
