// Package layout lays the parts of one lecture on one clock.
//
// A lecture may be captured in several parts: the computer failed and came back, someone
// began a second time, two computers captured at once. Each part knows when it began and
// how long it is. Together they are one recording: where two overlap the one that began
// first is shown, and where there is none a hole stays open.
package layout

import (
	"cmp"
	"slices"
	"time"

	"latelantern/internal/core/span"
)

// Part is what was captured without a break, on the clock of the recording.
type Part struct {
	Start  time.Duration // 0 or more
	Length time.Duration // 0 while nothing of it can be shown
	From   time.Duration // how far into its capture it begins
}

// Piece is a stretch of the recording and the part that is shown there.
type Piece struct {
	Part int // its number among the parts
	At   span.Span
}

// Shown is a stretch of a recording, and the capture and the main track that are shown there, by
// their UUIDs.
type Shown struct {
	Capture, Track [16]byte
	Start          time.Duration // of the capture's clock, on that of the recording
	At             span.Span     // on the clock of the recording
}

// Lay tells which part is shown when, in order of time.
func Lay(parts []Part) []Piece {
	order := make([]int, len(parts))
	for i := range parts {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(parts[a].Start, parts[b].Start) })
	var out []Piece
	var covered span.Set
	for _, n := range order {
		whole := span.Of(span.Span{Start: parts[n].Start, End: parts[n].Start + parts[n].Length})
		for _, at := range whole.Subtract(covered).Spans() {
			out = append(out, Piece{n, at})
		}
		covered = covered.Union(whole)
	}
	slices.SortFunc(out, func(a, b Piece) int { return cmp.Compare(a.At.Start, b.At.Start) })
	return out
}

// Covered is where something is shown.
func Covered(pieces []Piece) span.Set {
	var all []span.Span
	for _, p := range pieces {
		all = append(all, p.At)
	}
	return span.Of(all...)
}

// Within is the part of s that lies in a piece, on the clock of the capture that is shown there.
func Within(p Piece, parts []Part, s span.Set) span.Set {
	var out []span.Span
	for _, x := range s.Intersect(span.Of(p.At)).Spans() {
		by := parts[p.Part].From - parts[p.Part].Start
		out = append(out, span.Span{Start: x.Start + by, End: x.End + by})
	}
	return span.Of(out...)
}

// Place is where a moment of a capture is shown in a recording, both on their own clocks; ok is false where it is not.
func Place(pieces []Shown, capture [16]byte, at time.Duration) (in time.Duration, ok bool) {
	for _, p := range pieces {
		in = p.Start + at
		if p.Capture == capture && p.At.Start <= in && in < p.At.End {
			return in, true
		}
	}
	return 0, false
}
