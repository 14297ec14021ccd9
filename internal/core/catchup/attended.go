package catchup

import (
	"time"

	"latelantern/internal/core/span"
	"latelantern/internal/core/wall"
)

// word is how often whoever follows a lecture is heard of: who was last heard of at some moment was still there up to
// as long after it.
const word = 15 * time.Second

// Stay is a while in which someone followed a lecture live, by the clock on the wall.
type Stay struct {
	From, Until time.Time
}

// Attended is what of a capture someone heard who followed it for those stays, on its clock. Where it ends is not
// known here: the last stay can reach beyond.
func Attended(c wall.Clock, stays []Stay) span.Set {
	var out []span.Span
	for _, s := range stays {
		out = append(out, span.Span{Start: max(0, c.At(s.From)), End: c.At(s.Until.Add(word))})
	}
	return span.Of(out...)
}
