package cutlist

import (
	"errors"
	"testing"
	"time"

	"latelantern/internal/core/span"
)

const (
	second = time.Second
	moment = time.Nanosecond
)

func of(spans ...span.Span) span.Set { return span.Of(spans...) }

// TestRemnantsGoWithTheCut only where they lie beside it, and only when they are shorter than the shortest stretch.
func TestRemnantsGoWithTheCut(t *testing.T) {
	for name, c := range map[string]struct {
		before span.Set
		strike span.Span
		want   span.Set
	}{
		"a remnant before it": {of(span.Span{End: 5 * second}),
			span.Span{Start: 5*second + Shortest - moment, End: 9 * second}, of(span.Span{End: 9 * second})},
		"as much as may stay": {of(span.Span{End: 5 * second}),
			span.Span{Start: 5*second + Shortest, End: 9 * second},
			of(span.Span{End: 5 * second}, span.Span{Start: 5*second + Shortest, End: 9 * second})},
		"a remnant after it": {of(span.Span{Start: 9 * second, End: 12 * second}),
			span.Span{Start: 5 * second, End: 9*second - Shortest + moment},
			of(span.Span{Start: 5 * second, End: 12 * second})},
		"as much as may stay after": {of(span.Span{Start: 9 * second, End: 12 * second}),
			span.Span{Start: 5 * second, End: 9*second - Shortest},
			of(span.Span{Start: 5 * second, End: 9*second - Shortest}, span.Span{Start: 9 * second, End: 12 * second})},
		"a remnant somewhere else": {of(span.Span{Start: moment, End: second}),
			span.Span{Start: 5 * second, End: 9 * second},
			of(span.Span{Start: moment, End: second}, span.Span{Start: 5 * second, End: 9 * second})},
		"as short as a cut may be": {of(), span.Span{Start: 5 * second, End: 5*second + Shortest},
			of(span.Span{Start: 5 * second, End: 5*second + Shortest})},
		"what is left is just enough": {of(), span.Span{End: 20*second - Least}, of(span.Span{End: 20*second - Least})},
	} {
		got, err := New(20*second, c.before).Strike(c.strike)
		if err != nil || !got.Struck().Equal(c.want) {
			t.Errorf("%s: struck is %v (%v), want %v", name, got.Struck().Spans(), err, c.want.Spans())
		}
	}
}

// TestHowFarAnEdgeMoves: up to what is beside it, and not by a moment more.
func TestHowFarAnEdgeMoves(t *testing.T) {
	list := New(20*second,
		of(span.Span{Start: 2 * second, End: 4 * second}, span.Span{Start: 8 * second, End: 12 * second}))
	ends := New(20*second, of(span.Span{End: 4 * second}, span.Span{Start: 16 * second, End: 20 * second}))
	for name, c := range map[string]struct {
		list     List
		edge, to time.Duration
		want     error
	}{
		"to the one before":              {list, 8 * second, 4*second + Shortest, nil},
		"nearer to it":                   {list, 8 * second, 4*second + Shortest - moment, ErrEdge},
		"to the one after":               {list, 4 * second, 8*second - Shortest, nil},
		"nearer to that":                 {list, 4 * second, 8*second - Shortest + moment, ErrEdge},
		"to the beginning":               {list, 2 * second, 0, nil},
		"beyond it":                      {list, 2 * second, -moment, ErrEdge},
		"to the end":                     {list, 12 * second, 20 * second, nil},
		"beyond that":                    {list, 12 * second, 20*second + moment, ErrEdge},
		"until the shortest is left":     {list, 12 * second, 8*second + Shortest, nil},
		"until less is left":             {list, 12 * second, 8*second + Shortest - moment, ErrEdge},
		"the beginning itself":           {ends, 0, second, ErrNoEdge},
		"the end itself":                 {ends, 20 * second, 19 * second, ErrNoEdge},
		"until just enough is published": {ends, 4 * second, 16*second - max(Least, Shortest), nil},
		"where no edge is":               {list, 3 * second, 5 * second, ErrNoEdge},
	} {
		got, err := c.list.Move(c.edge, c.to)
		if !errors.Is(err, c.want) || c.want == nil && err != nil {
			t.Errorf("%s: %v, want %v", name, err, c.want)
		}
		if err != nil && !got.Struck().Equal(c.list.Struck()) {
			t.Errorf("%s: it was refused, and is %v", name, got.Struck().Spans())
		}
	}
	if _, err := list.Restore(span.Span{Start: 3 * second, End: 2 * second}); !errors.Is(err, ErrTurned) {
		t.Errorf("restore what is turned round: %v", err)
	}
	if _, err := list.Keep(of(span.Span{End: Least})); err != nil {
		t.Errorf("keep just enough: %v", err)
	}
	if _, err := list.Keep(of(span.Span{End: Least - moment})); !errors.Is(err, ErrNothingLeft) {
		t.Errorf("keep too little: %v", err)
	}
}

// TestACarrierOfNothing, and moments at its edges.
func TestACarrierOfNothing(t *testing.T) {
	var none Carrier
	if none.Length() != 0 || none.Source(5*second) != 0 {
		t.Errorf("nothing is %v long, and begins at %v", none.Length(), none.Source(5*second))
	}
	c := CarrierOf(of(span.Span{Start: 2 * second, End: 4 * second}, span.Span{Start: 8 * second, End: 9 * second}))
	for at, want := range map[time.Duration]time.Duration{
		-second: 2 * second, 0: 2 * second, 2*second - moment: 4*second - moment, 2 * second: 8 * second,
		3 * second: 9 * second, 7 * second: 9 * second,
	} {
		if got := c.Source(at); got != want {
			t.Errorf("what is published at %v is of %v, want %v", at, got, want)
		}
	}
	if c.Length() != 3*second {
		t.Errorf("it is %v long", c.Length())
	}
}
