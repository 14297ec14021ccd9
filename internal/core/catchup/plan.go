package catchup

import (
	"cmp"
	"slices"
	"time"

	"latelantern/internal/core/span"
)

// Missing is a lecture of which something is left to catch up.
type Missing struct {
	Starts time.Time // of the lecture; zero for one without a date
	Next   time.Time // when its course comes together next; zero for not any more
	Missed span.Set  // on the clock of what is published
}

// Order is in which order someone catches up.
type Order string

// Orders of catching up.
const (
	ByDate Order = "date" // the oldest lecture first
	ByNext Order = "next" // what the next lecture builds on first: the course that comes next, its last lecture first
)

// Sorted gives the places of lectures in the order in which they are caught up. Those that say nothing of their order
// stay as they are, and those without a date come last.
func Sorted(all []Missing, by Order) []int {
	out := make([]int, len(all))
	for i := range out {
		out[i] = i
	}
	slices.SortStableFunc(out, func(i, j int) int {
		a, b := all[i], all[j]
		if by == ByNext {
			return cmp.Or(later(a.Next, b.Next), dateless(a.Starts, b.Starts), b.Starts.Compare(a.Starts))
		}
		return later(a.Starts, b.Starts)
	})
	return out
}

// later puts what has no time after what has.
func later(a, b time.Time) int {
	return cmp.Or(dateless(a, b), a.Compare(b))
}

func dateless(a, b time.Time) int {
	switch {
	case a.IsZero() == b.IsZero():
		return 0
	case a.IsZero():
		return 1
	}
	return -1
}

// Step is a stretch that someone watches to catch up.
type Step struct {
	Of    int       // the place of its lecture among all
	At    span.Span // on the clock of what is published
	Whole bool      // all of that stretch; else its beginning
}

// leastStep is the shortest beginning of a stretch that is worth to be begun.
const leastStep = time.Minute

// Plan is what fits into the time that someone has at a speed: whole stretches first, in the order of the lectures as
// they are given; what is left of the time goes to the beginning of the first that did not fit.
func Plan(all []Missing, have time.Duration, speed float64) []Step {
	left := time.Duration(float64(max(0, have)) * speed)
	var out []Step
	var begun *Step
	for i, m := range all {
		for _, at := range m.Missed.Spans() {
			if at.Len() <= left {
				out, left = append(out, Step{i, at, true}), left-at.Len()
			} else if begun == nil {
				begun = &Step{i, at, false}
			}
		}
	}
	if begun == nil || left < min(leastStep, begun.At.Len()) {
		return out
	}
	begun.At.End = begun.At.Start + left
	place := slices.IndexFunc(out, func(s Step) bool {
		return s.Of > begun.Of || s.Of == begun.Of && s.At.Start > begun.At.Start
	})
	if place < 0 {
		place = len(out)
	}
	return slices.Insert(out, place, *begun)
}

// enough is from how much on it is known how fast someone watches.
const enough = time.Minute

// Slowest and Fastest are between which speeds a lecture is played.
const (
	Slowest = 0.5
	Fastest = 3.0
)

// Speed is how fast someone watches who played so much in the time it took; 1 while hardly anything is known.
func Speed(played, took time.Duration) float64 {
	if took < enough {
		return 1
	}
	return min(Fastest, max(Slowest, float64(played)/float64(took)))
}
