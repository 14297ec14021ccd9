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
	}{{0, 0, false}, {5 * s, 0, true}, {20 * s, 15 * s, false}, {25 * s, 15 * s, false}, {30 * s, 15 * s, true}, {60 * s, 45 * s, false}} {
		if p, ok := l.ToPublished(c.source); p != c.published || ok != c.ok {
			t.Errorf("%v -> %v %v, want %v %v", c.source, p, ok, c.published, c.ok)
		}
	}
	if at := l.ToSource(99 * s); at != 60*s {
		t.Errorf("past the end -> %v", at)
	}
}

// listed is a cut list of an hour with some stretches struck.
type listed struct{ List }

func (listed) Generate(r *rand.Rand, _ int) reflect.Value {
	l := New(time.Hour, span.Set{})
	for range r.Intn(8) {
		a := time.Duration(r.Int63n(int64(time.Hour)))
		if next, err := l.Strike(span.Span{Start: a, End: a + time.Duration(r.Int63n(int64(10*time.Minute)))}); err == nil {
			l = next
		}
	}
	return reflect.ValueOf(listed{l})
}

func TestPublishedToSourceAndBackIsTheIdentity(t *testing.T) {
	law := func(l listed, n uint32) bool {
		p := time.Duration(n) * time.Microsecond % l.Published()
		back, ok := l.ToPublished(l.ToSource(p))
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
