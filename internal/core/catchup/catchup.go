// Package catchup knows what someone still has to catch up of the lectures that they can watch, and in which order.
//
// What somebody has of a lecture lies on the clock of its source, so that it holds whatever is struck later; what they
// are told lies on the clock of what is published.
package catchup

import (
	"time"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
)

// closing is the least that is left when a lecture counts as seen: the chatter after the
// last sentence. Of a short recording it is a twentieth.
const closing = 5 * time.Second

// Seen reports whether someone who stopped at a published moment has seen all of a
// recording of this length, so that they would begin anew.
func Seen(at, length time.Duration) bool {
	return length > 0 && length-at <= min(closing, length/20)
}

// slight is what nobody needs to catch up: less than this between two things that they have. Of a short lecture it is
// a fifth of all that was captured.
const slight = 20 * time.Second

// Account is what someone has of a lecture. Its sets lie on the clock of what is published, share no moment, and
// together are all of it.
type Account struct {
	Attended span.Set // followed live
	Watched  span.Set // not that, but watched since
	Slight   span.Set // neither, and too short to speak of
	Missed   span.Set // left to catch up
}

// Reckon says what someone has of a lecture that c publishes, of which attended was followed live and watched since,
// both on the clock of its source, which lasts whole.
//
// How long a gap is decides each for itself, by what of it is published. So a later trim makes none longer, and names
// nothing as missed that was not before.
func Reckon(c cutlist.Carrier, whole time.Duration, attended, watched span.Set) Account {
	var out Account
	out.Attended = c.Set(attended)
	out.Watched = c.Set(watched.Subtract(attended))
	seen := attended.Union(watched)
	all := span.Of(span.Span{End: max(whole, sourceEnd(c), seen.End())})
	least := min(slight, whole/5)
	for _, gap := range all.Subtract(seen).Spans() {
		kept := c.Set(span.Of(gap))
		if kept.Len() < least {
			out.Slight = out.Slight.Union(kept)
		} else {
			out.Missed = out.Missed.Union(kept)
		}
	}
	return out
}

// sourceEnd is where on the clock of the source the last of what is published ends.
func sourceEnd(c cutlist.Carrier) time.Duration {
	if len(c) == 0 {
		return 0
	}
	return c[len(c)-1].Source.End
}
