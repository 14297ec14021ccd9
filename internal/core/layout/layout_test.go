package layout

import (
	"math/rand/v2"
	"reflect"
	"testing"
	"time"

	"latelantern/internal/core/span"
)

const s = time.Second

func at(from, to time.Duration) span.Span { return span.Span{Start: from * s, End: to * s} }

func TestLay(t *testing.T) {
	for name, c := range map[string]struct {
		parts []Part
		want  []Piece
		holes []span.Span
	}{
		"nothing":             {nil, nil, nil},
		"nothing to show yet": {[]Part{{0, 0, 0}}, nil, nil},
		"one":                 {[]Part{{0, 60 * s, 0}}, []Piece{{0, at(0, 60)}}, nil},
		"a crash and a return": {[]Part{{0, 60 * s, 0}, {200 * s, 50 * s, 0}},
			[]Piece{{0, at(0, 60)}, {1, at(200, 250)}}, []span.Span{at(60, 200)}},
		"as told in no order": {[]Part{{200 * s, 50 * s, 0}, {0, 60 * s, 0}},
			[]Piece{{1, at(0, 60)}, {0, at(200, 250)}}, []span.Span{at(60, 200)}},
		"two computers at once": {[]Part{{0, 60 * s, 0}, {30 * s, 60 * s, 0}}, []Piece{{0, at(0, 60)}, {1, at(60, 90)}},
			nil},
		"one inside another": {[]Part{{0, 60 * s, 0}, {30 * s, 10 * s, 0}}, []Piece{{0, at(0, 60)}}, nil},
		"one around a hole": {[]Part{{10 * s, 10 * s, 0}, {15 * s, 60 * s, 0}, {30 * s, 5 * s, 0}},
			[]Piece{{0, at(10, 20)}, {1, at(20, 75)}}, []span.Span{at(0, 10)}},
	} {
		got := Lay(c.parts)
		if !reflect.DeepEqual(got, c.want) {
			t.Errorf("%s: %v, want %v", name, got, c.want)
		}
		if h := holes(got).Spans(); len(h)+len(c.holes) > 0 && !reflect.DeepEqual(h, c.holes) {
			t.Errorf("%s: holes %v, want %v", name, h, c.holes)
		}
	}
}

// TestLayLaws holds for any parts: pieces never overlap, cover all that the parts cover, lie
// inside their own parts, and with the holes make up the whole.
func TestLayLaws(t *testing.T) {
	random := rand.New(rand.NewPCG(4, 4))
	for range 500 {
		var parts []Part
		var all []span.Span
		for range 1 + random.IntN(6) {
			p := Part{time.Duration(random.IntN(100)) * s, time.Duration(random.IntN(40)) * s,
				time.Duration(random.IntN(50)) * s}
			parts = append(parts, p)
			all = append(all, span.Span{Start: p.Start, End: p.Start + p.Length})
		}
		pieces := Lay(parts)
		var sum, end time.Duration
		for _, p := range pieces {
			if p.At.Start < end || p.At.Len() <= 0 {
				t.Fatalf("%v of %v", pieces, parts)
			}
			end = p.At.End
			sum += p.At.Len()
			if own := parts[p.Part]; p.At.Start < own.Start || p.At.End > own.Start+own.Length {
				t.Fatalf("%v lies outside %v", p, own)
			}
			if w := Within(p, parts, span.Of(p.At)).Spans(); len(w) != 1 ||
				w[0].Start-parts[p.Part].From != p.At.Start-parts[p.Part].Start || w[0].Len() != p.At.Len() {
				t.Fatalf("%v is %v of its part", p, w)
			}
		}
		if want := span.Of(all...); !reflect.DeepEqual(Covered(pieces).Spans(), want.Spans()) || sum != want.Len() {
			t.Fatalf("%v covers %v, want %v", pieces, Covered(pieces), want)
		}
		if len(pieces) > 0 && holes(pieces).Len()+sum != end {
			t.Fatalf("holes %v and pieces %v", holes(pieces), pieces)
		}
	}
}

// holes is where nothing is, from zero to the end of the last piece.
func holes(pieces []Piece) span.Set {
	covered := Covered(pieces)
	return span.Of(span.Span{End: covered.End()}).Subtract(covered)
}
