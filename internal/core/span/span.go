// Package span does arithmetic on stretches of media time.
//
// A Span is half-open: it contains its Start and not its End, so that two spans which
// meet share no moment. A Set is any number of moments, kept as the fewest spans that
// say it. Both are values: no operation changes its operands.
package span

import (
	"cmp"
	"slices"
	"time"
)

// Span is the stretch [Start, End) of media time. The zero value is empty.
type Span struct {
	Start, End time.Duration
}

// Empty reports whether s contains no moment.
func (s Span) Empty() bool { return s.End <= s.Start }

// Len is how long s lasts; never negative.
func (s Span) Len() time.Duration { return max(0, s.End-s.Start) }

// Contains reports whether the moment t lies in s.
func (s Span) Contains(t time.Duration) bool { return s.Start <= t && t < s.End }

// Overlaps reports whether s and o share a moment.
func (s Span) Overlaps(o Span) bool { return !s.Intersect(o).Empty() }

// Intersect is what s and o share; the zero Span when they share nothing.
func (s Span) Intersect(o Span) Span {
	r := Span{max(s.Start, o.Start), min(s.End, o.End)}
	if r.Empty() {
		return Span{}
	}
	return r
}

// Set is a set of moments. The zero value is the empty set.
type Set struct {
	spans []Span // sorted, not empty, neither overlapping nor touching
}

// Of is the set of all moments in the given spans; empty spans add nothing.
func Of(spans ...Span) Set {
	in := slices.DeleteFunc(slices.Clone(spans), Span.Empty)
	slices.SortFunc(in, func(a, b Span) int { return cmp.Compare(a.Start, b.Start) })
	var out []Span
	for _, s := range in {
		if last := len(out) - 1; last >= 0 && s.Start <= out[last].End {
			out[last].End = max(out[last].End, s.End)
			continue
		}
		out = append(out, s)
	}
	return Set{out}
}

// Spans lists the set as sorted spans that neither overlap nor touch.
func (s Set) Spans() []Span { return slices.Clone(s.spans) }

// Empty reports whether the set contains no moment.
func (s Set) Empty() bool { return len(s.spans) == 0 }

// Len is the total length of the set.
func (s Set) Len() time.Duration {
	var sum time.Duration
	for _, x := range s.spans {
		sum += x.Len()
	}
	return sum
}

// Contains reports whether the moment t is in the set.
func (s Set) Contains(t time.Duration) bool {
	at, found := slices.BinarySearchFunc(s.spans, t,
		func(x Span, t time.Duration) int { return cmp.Compare(x.Start, t) })
	return found || at > 0 && s.spans[at-1].Contains(t)
}

// Equal reports whether both sets contain the same moments.
func (s Set) Equal(o Set) bool { return slices.Equal(s.spans, o.spans) }

// Union is every moment that is in s or in o.
func (s Set) Union(o Set) Set { return Of(append(s.Spans(), o.spans...)...) }

// Subtract is every moment of s that is not in o.
func (s Set) Subtract(o Set) Set {
	var out []Span
	for _, x := range s.spans {
		for _, y := range o.spans {
			if y.End <= x.Start || x.End <= y.Start {
				continue
			}
			if x.Start < y.Start {
				out = append(out, Span{x.Start, y.Start})
			}
			x.Start = min(y.End, x.End)
		}
		if !x.Empty() {
			out = append(out, x)
		}
	}
	return Set{out}
}

// Intersect is every moment that is in both s and o.
func (s Set) Intersect(o Set) Set {
	var out []Span
	for _, x := range s.spans {
		for _, y := range o.spans {
			if z := x.Intersect(y); !z.Empty() {
				out = append(out, z)
			}
		}
	}
	return Set{out}
}

// End is where the last stretch ends; 0 for the empty set.
func (s Set) End() time.Duration {
	if len(s.spans) == 0 {
		return 0
	}
	return s.spans[len(s.spans)-1].End
}

// Shift is s, moved by d.
func (s Set) Shift(d time.Duration) Set {
	out := s.Spans()
	for i := range out {
		out[i].Start += d
		out[i].End += d
	}
	return Set{out}
}
