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
	for at, want := range map[time.Duration]bool{0: false, 1 * s: true, 2*s - 1: true, 2 * s: false, 4 * s: true, 5 * s: false} {
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
		return u.Equal(b.Union(a.Set)) && d.Len()+i.Len() == a.Len() && Of(d.Spans()...).Equal(d) && Of(i.Spans()...).Equal(i)
	}
	if err := quick.Check(law, &quick.Config{MaxCount: 2000}); err != nil {
		t.Error(err)
	}
}
