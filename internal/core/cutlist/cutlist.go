// Package cutlist holds what is struck from a recording and translates between the
// two clocks this gives: source time, which runs through everything captured, and
// published time, which runs through what is kept. Nothing is ever destroyed: a cut
// list is a remark about a recording.
package cutlist

import (
	"fmt"
	"time"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/span"
)

// Shortest is the least that can be struck or restored, and that stands between two cuts.
const Shortest = 200 * time.Millisecond

// Least is the least that must be kept of a recording: less is a slip.
const Least = time.Second

// The ways in which a change can be refused.
var (
	ErrTurned      = fault.Code("cut.turned")
	ErrTooShort    = fault.Code("cut.too_short")
	ErrOutside     = fault.Code("cut.outside")
	ErrNothingLeft = fault.Code("cut.nothing_left")
)

// List is what is struck of a recording of a known length. The zero value is a recording of no length.
type List struct {
	length time.Duration
	struck span.Set
}

// New is a list for a recording of the given length, with the given moments struck.
// What lies outside the recording is dropped.
func New(length time.Duration, struck span.Set) List {
	return List{length, struck.Intersect(span.Of(span.Span{End: length}))}
}

// Length is the length of the source.
func (l List) Length() time.Duration { return l.length }

// Struck is the set of struck moments, in source time.
func (l List) Struck() span.Set { return l.struck }

// Kept is the set of moments that are published, in source time.
func (l List) Kept() span.Set { return span.Of(span.Span{End: l.length}).Subtract(l.struck) }

// Published is the length of what is kept.
func (l List) Published() time.Duration { return l.length - l.struck.Len() }

// Strike takes s out. It clips s to the recording and refuses what is turned round
// (ErrTurned), too short (ErrTooShort), outside (ErrOutside) or all that is left but for less than Least
// (ErrNothingLeft). A kept remnant shorter than Shortest beside the new cut goes with it.
func (l List) Strike(s span.Span) (List, error) {
	s, err := l.clip(s)
	if err != nil {
		return l, fmt.Errorf("strike %v to %v: %w", s.Start, s.End, err)
	}
	next := List{l.length, l.struck.Union(span.Of(s))}
	for _, k := range next.Kept().Spans() {
		if k.Len() < Shortest && (k.End == s.Start || k.Start == s.End) {
			next.struck = next.struck.Union(span.Of(k))
		}
	}
	if next.Published() < Least {
		return l, fmt.Errorf("strike %v to %v: %w", s.Start, s.End, ErrNothingLeft)
	}
	return next, nil
}

// Restore puts s back. It refuses as Strike does, but for ErrNothingLeft.
func (l List) Restore(s span.Span) (List, error) {
	s, err := l.clip(s)
	if err != nil {
		return l, fmt.Errorf("restore %v to %v: %w", s.Start, s.End, err)
	}
	return List{l.length, l.struck.Subtract(span.Of(s))}, nil
}

func (l List) clip(s span.Span) (span.Span, error) {
	switch in := s.Intersect(span.Span{End: l.length}); {
	case s.End < s.Start:
		return s, ErrTurned
	case s.Len() < Shortest:
		return s, ErrTooShort
	case in.Empty():
		return s, ErrOutside
	default:
		return in, nil
	}
}

// Keep is a list of the same recording that keeps what is given and nothing else. It refuses to
// leave less than Least (ErrNothingLeft).
func (l List) Keep(kept span.Set) (List, error) {
	next := List{l.length, span.Of(span.Span{End: l.length}).Subtract(kept)}
	if next.Published() < Least {
		return l, fmt.Errorf("keep %v: %w", kept.Len(), ErrNothingLeft)
	}
	return next, nil
}

// ErrNoEdge says that no struck stretch begins or ends there.
var ErrNoEdge = fault.Code("cut.no_edge")

// ErrEdge says that an edge cannot go so far: it would meet the next one.
var ErrEdge = fault.Code("cut.edge")

// Move moves the edge of a struck stretch, by as little as one likes. What is struck and what is
// kept beside it stay at least Shortest long (ErrEdge); an edge at either end of the recording
// does not move (ErrNoEdge).
func (l List) Move(edge, to time.Duration) (List, error) {
	struck := l.struck.Spans()
	for i, s := range struck {
		before, after := time.Duration(0), l.length
		if i > 0 {
			before = struck[i-1].End + Shortest
		}
		if i+1 < len(struck) {
			after = struck[i+1].Start - Shortest
		}
		moved := s
		switch {
		case s.Start == edge && edge > 0:
			moved.Start = to
		case s.End == edge && edge < l.length:
			moved.End = to
		default:
			continue
		}
		if moved.Len() < Shortest || moved.Start < before || moved.End > after {
			return l, fmt.Errorf("move an edge from %v to %v: %w", edge, to, ErrEdge)
		}
		next := List{l.length, l.struck.Subtract(span.Of(s)).Union(span.Of(moved))}
		if next.Published() < Least {
			return l, fmt.Errorf("move an edge from %v to %v: %w", edge, to, ErrNothingLeft)
		}
		return next, nil
	}
	return l, ErrNoEdge
}
