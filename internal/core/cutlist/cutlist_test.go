package cutlist

import (
	"errors"
	"math/rand"
	"reflect"
	"testing"
	"testing/quick"
	"time"

	"latelantern/internal/core/span"
)

const s = time.Second

func TestStrikeRefusesWhatCannotBe(t *testing.T) {
	half, _ := New(60*s, span.Set{}).Strike(span.Span{Start: 0, End: 30 * s})
	for _, c := range []struct {
		name string
		list List
		at   span.Span
		want error
	}{
		{"end before start", half, span.Span{Start: 40 * s, End: 35 * s}, ErrTurned},
		{"no length", half, span.Span{Start: 40 * s, End: 40 * s}, ErrTooShort},
		{"after the end", half, span.Span{Start: 61 * s, End: 70 * s}, ErrOutside},
		{"before the start", half, span.Span{Start: -9 * s, End: -2 * s}, ErrOutside},
		{"the rest", half, span.Span{Start: 30 * s, End: 60 * s}, ErrNothingLeft},
		{"all but a blink", half, span.Span{Start: 30 * s, End: 60*s - Shortest/2}, ErrNothingLeft},
		{"all but half a second", half, span.Span{Start: 30 * s, End: 60*s - s/2}, ErrNothingLeft},
	} {
		got, err := c.list.Strike(c.at)
		if !errors.Is(err, c.want) {
			t.Errorf("%s: %v, want %v", c.name, err, c.want)
		}
		if !got.Struck().Equal(c.list.Struck()) {
			t.Errorf("%s: a refused strike changed the list", c.name)
		}
	}
}

func TestStrikeTakesRemnantsAndClips(t *testing.T) {
	l, err := New(60*s, span.Set{}).Strike(span.Span{Start: 100 * time.Millisecond, End: 10 * s})
	if err != nil {
		t.Fatal(err)
	}
	l, err = l.Strike(span.Span{Start: 50 * s, End: 90 * s})
	if err != nil {
		t.Fatal(err)
	}
	want := span.Of(span.Span{End: 10 * s}, span.Span{Start: 50 * s, End: 60 * s})
	if !l.Struck().Equal(want) {
		t.Errorf("struck %v, want %v", l.Struck(), want)
	}
}

func TestStruckMomentsMapToTheirCut(t *testing.T) {
	l := New(60*s, span.Of(span.Span{End: 5 * s}, span.Span{Start: 20 * s, End: 30 * s}))
	for _, c := range []struct {
		source, published time.Duration
		ok                bool
	}{{0, 0, false}, {5 * s, 0, true}, {20 * s, 15 * s, false}, {25 * s, 15 * s, false}, {30 * s, 15 * s, true},
		{60 * s, 45 * s, false}} {
		if p, ok := l.Carrier().Moment(c.source); p != c.published || ok != c.ok {
			t.Errorf("%v -> %v %v, want %v %v", c.source, p, ok, c.published, c.ok)
		}
	}
	if at := l.Carrier().Source(99 * s); at != 60*s {
		t.Errorf("past the end -> %v", at)
	}
}

// listed is a cut list of an hour with some stretches struck.
type listed struct{ List }

func (listed) Generate(r *rand.Rand, _ int) reflect.Value {
	l := New(time.Hour, span.Set{})
	for range r.Intn(8) {
		a := time.Duration(r.Int63n(int64(time.Hour)))
		if next, err := l.Strike(span.Span{Start: a,
			End: a + time.Duration(r.Int63n(int64(10*time.Minute)))}); err == nil {
			l = next
		}
	}
	return reflect.ValueOf(listed{l})
}

func TestPublishedToSourceAndBackIsTheIdentity(t *testing.T) {
	law := func(l listed, n uint32) bool {
		p := time.Duration(n) * time.Microsecond % l.Published()
		back, ok := l.Carrier().Moment(l.Carrier().Source(p))
		return ok && back == p
	}
	if err := quick.Check(law, &quick.Config{MaxCount: 3000}); err != nil {
		t.Error(err)
	}
}

func TestStrikeThenRestoreIsTheIdentity(t *testing.T) {
	law := func(l listed, a, n uint32) bool {
		at := span.Span{Start: time.Duration(a) * time.Microsecond % time.Hour}
		at.End = min(at.Start+Shortest+time.Duration(n)*time.Microsecond%(5*time.Minute), time.Hour)
		if !l.Struck().Intersect(span.Of(at)).Empty() {
			return true // only what was kept is put back as it was
		}
		struck, err := l.Strike(at)
		if err != nil {
			return true
		}
		taken := struck.Struck().Subtract(l.Struck())
		back := struck
		for _, x := range taken.Spans() {
			if x.Len() < Shortest {
				return true
			}
			if back, err = back.Restore(x); err != nil {
				return false
			}
		}
		return back.Struck().Equal(l.Struck()) && struck.Published() == l.Published()-taken.Len()
	}
	if err := quick.Check(law, &quick.Config{MaxCount: 3000}); err != nil {
		t.Error(err)
	}
}

func TestMove(t *testing.T) {
	const s, ms = time.Second, time.Millisecond
	l := New(60*s, span.Of(span.Span{End: 5 * s}, span.Span{Start: 20 * s, End: 30 * s},
		span.Span{Start: 40 * s, End: 41 * s}))
	for _, c := range []struct {
		name     string
		edge, to time.Duration
		want     span.Span
		err      error
	}{
		{"by a picture", 20 * s, 20*s + 40*ms, span.Span{Start: 20*s + 40*ms, End: 30 * s}, nil},
		{"the end, back", 30 * s, 29*s + 900*ms, span.Span{Start: 20 * s, End: 29*s + 900*ms}, nil},
		{"the first end", 5 * s, 6 * s, span.Span{End: 6 * s}, nil},
		{"over its other edge", 20 * s, 31 * s, span.Span{}, ErrEdge},
		{"onto the next stretch", 30 * s, 40 * s, span.Span{}, ErrEdge},
		{"over the next stretch", 30 * s, 45 * s, span.Span{}, ErrEdge},
		{"before the beginning", 20 * s, -s, span.Span{}, ErrEdge},
		{"the beginning itself", 0, s, span.Span{}, ErrNoEdge},
		{"where no edge is", 21 * s, 22 * s, span.Span{}, ErrNoEdge},
	} {
		got, err := l.Move(c.edge, c.to)
		if !errors.Is(err, c.err) {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		if c.err != nil {
			if !got.Struck().Equal(l.Struck()) {
				t.Errorf("%s: refused, and changed all the same", c.name)
			}
			continue
		}
		found := false
		for _, x := range got.Struck().Spans() {
			found = found || x == c.want
		}
		if !found || len(got.Struck().Spans()) != 3 {
			t.Errorf("%s: %v", c.name, got.Struck().Spans())
		}
		if back, err := got.Move(c.to, c.edge); err != nil || !back.Struck().Equal(l.Struck()) {
			t.Errorf("%s, there and back: %v %v", c.name, back.Struck().Spans(), err)
		}
	}
}

func TestKeep(t *testing.T) {
	const s = time.Second
	l := New(60*s, span.Of(span.Span{End: 5 * s}))
	got, err := l.Keep(span.Of(span.Span{Start: 2 * s, End: 10 * s}, span.Span{Start: 50 * s, End: 90 * s}))
	if want := span.Of(span.Span{End: 2 * s}, span.Span{Start: 10 * s, End: 50 * s}); err != nil ||
		!got.Struck().Equal(want) {
		t.Errorf("%v %v", got.Struck().Spans(), err)
	}
	if _, err := l.Keep(span.Of(span.Span{Start: 2 * s, End: 2*s + s/2})); !errors.Is(err, ErrNothingLeft) {
		t.Errorf("half a second: %v", err)
	}
}
