package splice

import (
	"errors"
	"slices"
	"time"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
)

// Kind is how a step of a plan gets its bytes.
type Kind string

const (
	Copy   Kind = "copy"   // one whole segment as it is, at another time
	Encode Kind = "encode" // pictures decoded and encoded anew
	Carry  Kind = "carry"  // encoded samples as they are, in a new segment
)

// Step is one segment of a published track.
type Step struct {
	Kind     Kind
	Stretch  int   // the kept stretch it belongs to
	First    int   // the segments [First, Last) of the source are needed for it
	Last     int   //
	From, To int   // it shows the samples [From, To), numbered in order of presentation
	Source   int64 // source time at which it begins, in ticks
	Out      int64 // published time at which it begins
	Dur      int64
}

// Plan is a published track.
type Plan struct {
	Steps     []Step
	Stretches []cutlist.Stretch // as they could be kept: snapped to pictures
	Dur       int64             // ticks
}

// near is how far behind a picture a cut may lie and still fall on it: less than half a
// picture at any usual rate, more than the millisecond that cuts are rounded to.
const near = 2 * time.Millisecond

// held is how long a picture must stay for a cut to fall inside it rather than on the
// next. Below it lie the usual rates; above it a still screen that sent no new picture.
const held = 110 * time.Millisecond

// ErrNothing says that no sample lies in what is to be kept.
var ErrNothing = errors.New("nothing is left to publish")

// cut is a place to cut: a moment, and the first picture shown at or after it.
type cut struct {
	at    int64
	frame int
}

func (x *Index) snap(d time.Duration) cut {
	t := x.Ticks(d)
	n := x.FrameFrom(t - x.Ticks(near))
	if n == len(x.shown) {
		return cut{min(t, x.End()), n}
	}
	if next := x.Shown(n).PTS; n == 0 || next-t <= x.Ticks(held) {
		return cut{next, n}
	}
	return cut{t, n}
}

// Pictures plans the published pictures for the kept stretches of x. Every boundary falls
// on a picture, but for stills that stay longer than held, which are cut in between.
// Stretches without a picture are left out; when none is left the error is ErrNothing.
func Pictures(x *Index, kept []span.Span) (Plan, error) {
	var p Plan
	keys := x.Keys()
	for _, k := range kept {
		a, b := x.snap(k.Start), x.snap(k.End)
		if a.at >= b.at {
			continue
		}
		p.Stretches = append(p.Stretches,
			cutlist.Stretch{Source: span.Span{Start: x.Time(a.at), End: x.Time(b.at)}, At: x.Time(p.Dur)})
		stretch := len(p.Stretches) - 1
		add := func(s Step) {
			s.Stretch = stretch
			s.Out = p.Dur
			p.Dur += s.Dur
			p.Steps = append(p.Steps, s)
		}
		if a.frame > 0 && (a.frame == len(x.shown) || x.Shown(a.frame).PTS > a.at) {
			a.frame-- // the still that stands at a
		}
		whole, _ := slices.BinarySearch(keys, a.at) // first segment that begins at or after a
		last := lastAtOrBefore(keys, b.at)          // the segment that b cuts, or begins
		if b.at >= x.End() {
			last = len(keys)
		}
		if whole > last { // both cuts in one segment
			add(x.encode(a.frame, b.frame, a.at, b.at))
			continue
		}
		if whole < len(keys) && keys[whole] > a.at {
			add(x.encode(a.frame, x.FrameFrom(keys[whole]), a.at, keys[whole]))
		} else if whole == len(keys) {
			add(x.encode(a.frame, b.frame, a.at, b.at))
		}
		for i := whole; i < last; i++ {
			end := x.End()
			if i+1 < len(keys) {
				end = keys[i+1]
			}
			add(Step{Kind: Copy, First: i, Last: i + 1, From: x.FrameFrom(keys[i]), To: x.FrameFrom(end),
				Source: keys[i], Dur: end - keys[i]})
		}
		if last < len(keys) && keys[last] < b.at {
			s := x.encode(x.FrameFrom(keys[last]), b.frame, keys[last], b.at)
			if x.inOrder(s.From, s.To) {
				s.Kind = Carry
			}
			add(s)
		}
	}
	if len(p.Steps) == 0 {
		return p, ErrNothing
	}
	return p, nil
}

func (x *Index) encode(from, to int, at, end int64) Step {
	return Step{Kind: Encode, First: x.segmentOf(from), Last: x.segmentOf(to-1) + 1, From: from, To: to, Source: at,
		Dur: end - at}
}

// segmentOf is the segment that holds the n-th sample shown.
func (x *Index) segmentOf(n int) int {
	i, found := slices.BinarySearchFunc(x.Segments, x.shown[n], func(s Segment, at int) int { return s.First - at })
	if !found {
		i--
	}
	return i
}

// inOrder reports whether the samples shown as [from, to) are decoded in that very order,
// so that what follows them can be left away.
func (x *Index) inOrder(from, to int) bool {
	for i := from; i < to; i++ {
		if x.shown[i] != x.shown[from]+i-from {
			return false
		}
	}
	return true
}

// lastAtOrBefore is the number of the last key at or before t; 0 when all are later.
func lastAtOrBefore(keys []int64, t int64) int {
	i, found := slices.BinarySearch(keys, t)
	if found {
		return i
	}
	return max(0, i-1)
}
