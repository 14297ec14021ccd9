package span

import (
	"math/rand"
	"reflect"
	"testing"
	"testing/quick"
	"time"
)

const s = time.Second

func TestSetIsKeptInItsShortestForm(t *testing.T) {
	for _, c := range []struct {
		name string
		in   []Span
		want []Span
	}{
		{"nothing", nil, nil},
		{"only empty and turned spans", []Span{{3 * s, 3 * s}, {5 * s, 2 * s}}, nil},
		{"touching spans are one", []Span{{2 * s, 4 * s}, {0, 2 * s}}, []Span{{0, 4 * s}}},
		{"one inside the other", []Span{{0, 9 * s}, {2 * s, 3 * s}}, []Span{{0, 9 * s}}},
		{"apart stay apart", []Span{{5 * s, 6 * s}, {1 * s, 2 * s}}, []Span{{1 * s, 2 * s}, {5 * s, 6 * s}}},
	} {
		if got := Of(c.in...).Spans(); len(got)+len(c.want) > 0 && !reflect.DeepEqual(got, c.want) {
			t.Errorf("%s: %v, want %v", c.name, got, c.want)
		}
	}
}

func TestContainsIsHalfOpen(t *testing.T) {
	set := Of(Span{1 * s, 2 * s}, Span{4 * s, 5 * s})
	for at, want := range map[time.Duration]bool{0: false, 1 * s: true, 2*s - 1: true, 2 * s: false, 4 * s: true,
		5 * s: false} {
		if set.Contains(at) != want {
			t.Errorf("contains %v = %v", at, !want)
		}
	}
}

// small makes sets of whole seconds below 32, so that a set can be checked moment by moment.
type small struct{ Set }

func (small) Generate(r *rand.Rand, _ int) reflect.Value {
	var in []Span
	for range r.Intn(6) {
		a := time.Duration(r.Intn(32)) * s
		in = append(in, Span{a, a + time.Duration(r.Intn(8))*s})
	}
	return reflect.ValueOf(small{Of(in...)})
}

func TestOperationsAgreeWithMembership(t *testing.T) {
	law := func(a, b small) bool {
		u, d, i := a.Union(b.Set), a.Subtract(b.Set), a.Intersect(b.Set)
		for n := range 40 {
			at := time.Duration(n)*s + s/2
			x, y := a.Contains(at), b.Contains(at)
			if u.Contains(at) != (x || y) || d.Contains(at) != (x && !y) || i.Contains(at) != (x && y) {
				return false
			}
		}
		return u.Equal(b.Union(a.Set)) && d.Len()+i.Len() == a.Len() && Of(d.Spans()...).Equal(d) &&
			Of(i.Spans()...).Equal(i)
	}
	if err := quick.Check(law, &quick.Config{MaxCount: 2000}); err != nil {
		t.Error(err)
	}
}

// TestSpansAtTheirEdges: half-open, and never of a negative length.
func TestSpansAtTheirEdges(t *testing.T) {
	s := Span{2, 5}
	for at, want := range map[time.Duration]bool{1: false, 2: true, 4: true, 5: false} {
		if got := s.Contains(at); got != want {
			t.Errorf("%v contains %d: %v", s, at, got)
		}
	}
	for _, c := range []struct {
		s     Span
		len   time.Duration
		empty bool
	}{{Span{2, 5}, 3, false}, {Span{2, 3}, 1, false}, {Span{2, 2}, 0, true}, {Span{5, 2}, 0, true}, {Span{}, 0, true}} {
		if c.s.Len() != c.len || c.s.Empty() != c.empty {
			t.Errorf("%v is %d long and empty: %v", c.s, c.s.Len(), c.s.Empty())
		}
	}
	for _, c := range []struct {
		o        Span
		overlaps bool
		shared   Span
	}{{Span{4, 9}, true, Span{4, 5}}, {Span{5, 9}, false, Span{}}, {Span{0, 2}, false, Span{}},
		{Span{0, 3}, true, Span{2, 3}}, {Span{7, 9}, false, Span{}}, {Span{3, 4}, true, Span{3, 4}}} {
		if got := s.Intersect(c.o); got != c.shared || s.Overlaps(c.o) != c.overlaps || c.o.Overlaps(s) != c.overlaps {
			t.Errorf("%v and %v share %v, overlap: %v", s, c.o, got, s.Overlaps(c.o))
		}
	}
}

func TestWhereASetEnds(t *testing.T) {
	for _, c := range []struct {
		s     Set
		end   time.Duration
		empty bool
	}{{Set{}, 0, true}, {Of(Span{3, 3}), 0, true}, {Of(Span{2, 5}), 5, false}, {Of(Span{7, 9}, Span{2, 5}), 9, false}} {
		if c.s.End() != c.end || c.s.Empty() != c.empty {
			t.Errorf("%v ends at %d, and is empty: %v", c.s.Spans(), c.s.End(), c.s.Empty())
		}
	}
}
