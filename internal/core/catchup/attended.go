package catchup

import (
	"time"

	"latelantern/internal/core/span"
)

// word is how often whoever follows a lecture is heard of: who was last heard of at some moment was still there up to
// as long after it.
const word = 15 * time.Second

// Capture is the clock of what was captured at a desk or in a hall: it stands while the capture is paused.
type Capture struct {
	Began  time.Time
	Pauses []Pause // in order
}

// Pause is a while in which nothing was captured.
type Pause struct {
	At   time.Duration // on the clock of the capture
	Long time.Duration
}

// At is the moment of a capture's clock at which the clock on the wall says t; before it began it is negative.
func (c Capture) At(t time.Time) time.Duration {
	at := t.Sub(c.Began)
	for _, p := range c.Pauses {
		if at <= p.At {
			break
		}
		at = max(p.At, at-p.Long)
	}
	return at
}

// Stay is a while in which someone followed a lecture live, by the clock on the wall.
type Stay struct {
	From, Until time.Time
}

// Attended is what of a capture someone heard who followed it for those stays, on its clock. Where it ends is not
// known here: the last stay can reach beyond.
func (c Capture) Attended(stays []Stay) span.Set {
	var out []span.Span
	for _, s := range stays {
		out = append(out, span.Span{Start: max(0, c.At(s.From)), End: c.At(s.Until.Add(word))})
	}
	return span.Of(out...)
}
