package lattice

import (
	"slices"
	"time"

	"latelantern/internal/core/span"
)

// Unsure is below which share a word that was drafted is more likely another.
const Unsure = 0.5

// slack is how far from the time of a word in the draft it may have been heard, and longest how long a word lasts.
const (
	slack   = 200 * time.Millisecond
	longest = 3 * time.Second
)

// Share is how likely it is that a word was said at a time: of what was heard of it about then, which is in order of
// when it begins, the likeliest. ok is false where it was not heard at all, so that nothing is known.
func Share(heard []Heard, word string, at span.Span) (share float64, ok bool) {
	about := span.Span{Start: at.Start - slack, End: at.End + slack}
	from, _ := slices.BinarySearchFunc(heard, about.Start-longest, func(h Heard, t time.Duration) int {
		return int(h.Start - t)
	})
	for _, h := range heard[from:] {
		if h.Start >= about.End {
			break
		}
		if h.Word == word && h.End > about.Start {
			share, ok = max(share, h.Share), true
		}
	}
	return share, ok
}
