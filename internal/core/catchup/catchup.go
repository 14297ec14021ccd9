// Package catchup knows how far someone has watched a lecture.
package catchup

import "time"

// closing is the least that is left when a lecture counts as seen: the chatter after the
// last sentence. Of a short recording it is a twentieth.
const closing = 5 * time.Second

// Seen reports whether someone who stopped at a published moment has seen all of a
// recording of this length, so that they would begin anew.
func Seen(at, length time.Duration) bool {
	return length > 0 && length-at <= min(closing, length/20)
}
