package cutlist

import (
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"latelantern/internal/core/span"
)

// random is a list as anyone might make it: some strikes and restores of any length.
func random(r *rand.Rand) List {
	const ms = time.Millisecond
	l := New(time.Duration(5_000+r.IntN(3_600_000))*ms, span.Set{})
	for range r.IntN(12) {
		from := time.Duration(r.Int64N(int64(l.Length())))
		s := span.Span{Start: from.Round(ms), End: (from + time.Duration(r.IntN(400_000))*ms).Round(ms)}
		change := l.Strike
		if r.IntN(4) == 0 {
			change = l.Restore
		}
		if next, err := change(s); err == nil {
			l = next
		}
	}
	return l
}

func randomSpan(r *rand.Rand, within time.Duration) span.Span {
	from := time.Duration(r.Int64N(int64(within)))
	return span.Span{Start: from, End: from + 1 + time.Duration(r.Int64N(int64(within)/8))}
}

// TestCarriedThroughAnyCuts holds the laws of carrying for random lists.
func TestCarriedThroughAnyCuts(t *testing.T) {
	r := rand.New(rand.NewPCG(6, 26))
	for range 2000 {
		l := random(r)
		c := l.Carrier()
		if c.Length() != l.Published() {
			t.Fatalf("%v is published, and the list says %v", c.Length(), l.Published())
		}

		// A moment is carried as the list says it, and comes back unless it was struck.
		m := time.Duration(r.Int64N(int64(l.Length())))
		p, ok := c.Moment(m)
		if want := m - l.Struck().Intersect(span.Of(span.Span{End: m})).Len(); p != want ||
			ok == l.Struck().Contains(m) {
			t.Fatalf("%v is carried to %v, %v; want %v", m, p, ok, want)
		}
		if ok && c.Source(p) != m {
			t.Fatalf("%v comes back as %v", m, c.Source(p))
		}
		q := time.Duration(r.Int64N(int64(l.Published())))
		if back, ok := c.Moment(c.Source(q)); back != q || !ok {
			t.Fatalf("%v of what is published comes back as %v", q, back)
		}

		// A stretch is as long as what is kept of it, and order is kept.
		s := randomSpan(r, l.Length())
		at, ok := c.Span(s)
		left := l.Kept().Intersect(span.Of(s)).Len()
		if at.Len() != left || ok != (left > 0) {
			t.Fatalf("%v of %v is kept, and %v is carried", left, s, at)
		}
		if later, both := c.Span(span.Span{Start: s.End, End: s.End + s.Len()}); both && ok && later.Start < at.End {
			t.Fatalf("%v is carried before the end of %v", later, at)
		}

		// What was seen comes back to what is kept, whatever the cuts: no more, no less.
		seen := span.Of(randomSpan(r, l.Published()),
			randomSpan(r, l.Published())).Intersect(span.Of(span.Span{End: l.Published()}))
		source := c.SourceSet(seen)
		if source.Len() != seen.Len() || !c.Set(source).Equal(seen) || !source.Subtract(l.Kept()).Empty() {
			t.Fatalf("seen %v, of the source %v, which is %v", seen, source, c.Set(source))
		}

		// A later trim and its restore shift nothing.
		if next, err := l.Strike(randomSpan(r, l.Length())); err == nil {
			back := New(l.Length(), next.Struck().Intersect(l.Struck()))
			if again := back.Carrier(); !slices.Equal(again, c) {
				t.Fatalf("carried by %v after a trim and its restore, by %v before", again, c)
			}
			if fewer := next.Carrier().Set(next.Kept()); fewer.Len() != next.Published() {
				t.Fatalf("%v of %v is carried", fewer.Len(), next.Published())
			}
		}

		// Slides and chapters fill what is published from the first that begins in time on.
		moments := []time.Duration{0}
		for range r.IntN(20) {
			moments = append(moments, time.Duration(r.Int64N(int64(l.Length()))))
		}
		slices.Sort(moments)
		var end time.Duration
		for _, x := range c.Standing(slices.Compact(moments)) {
			if x.At.Start != end || x.At.Empty() {
				t.Fatalf("number %d stands at %v after %v", x.Of, x.At, end)
			}
			end = x.At.End
		}
		if end != l.Published() {
			t.Fatalf("slides stand until %v of %v", end, l.Published())
		}
	}
}

// TestACaptionOverACutCloses over it, and one that is struck is gone.
func TestACaptionOverACutCloses(t *testing.T) {
	const s = time.Second
	l := New(100*s, span.Of(span.Span{Start: 10 * s, End: 20 * s}))
	c := l.Carrier()
	for name, x := range map[string]struct {
		in, want span.Span
		ok       bool
	}{
		"before the cut":    {span.Span{Start: 2 * s, End: 4 * s}, span.Span{Start: 2 * s, End: 4 * s}, true},
		"over its start":    {span.Span{Start: 8 * s, End: 12 * s}, span.Span{Start: 8 * s, End: 10 * s}, true},
		"over all of it":    {span.Span{Start: 8 * s, End: 25 * s}, span.Span{Start: 8 * s, End: 15 * s}, true},
		"inside":            {span.Span{Start: 12 * s, End: 14 * s}, span.Span{}, false},
		"over its end":      {span.Span{Start: 18 * s, End: 22 * s}, span.Span{Start: 10 * s, End: 12 * s}, true},
		"beyond everything": {span.Span{Start: 120 * s, End: 122 * s}, span.Span{}, false},
	} {
		if got, ok := c.Span(x.in); got != x.want || ok != x.ok {
			t.Errorf("%s: %v, %v; want %v, %v", name, got, ok, x.want, x.ok)
		}
	}
	if got := c.Standing([]time.Duration{0, 12 * s, 15 * s}); len(got) != 2 ||
		got[1] != (Standing{2, span.Span{Start: 10 * s, End: 90 * s}}) {
		t.Errorf("of slides in a cut stand %v", got)
	}
}
