package watching

import (
	"slices"
	"testing"
	"time"

	"latelantern/internal/api/page"
	"latelantern/internal/core/span"
)

func TestTold(t *testing.T) {
	at := func(ms ...float64) span.Set {
		var out []span.Span
		for i := 0; i < len(ms); i += 2 {
			out = append(out, span.Span{Start: time.Duration(ms[i] * 1e6), End: time.Duration(ms[i+1] * 1e6)})
		}
		return span.Of(out...)
	}
	for _, c := range []struct {
		name string
		set  span.Set
		want []page.Span
	}{
		{"nothing", at(), []page.Span{}},
		{"one", at(10, 5000), []page.Span{{Start: 10, End: 5000}}},
		{"put together of two", at(10, 5000.3, 5000.4, 9000), []page.Span{{Start: 10, End: 9000}}},
		{"with what hardly lasts behind it", at(10, 5000, 5000.2, 5000.9), []page.Span{{Start: 10, End: 5000}}},
		{"what hardly lasts, alone", at(100, 101), []page.Span{}},
		{"two", at(10, 5000, 5020, 9000), []page.Span{{Start: 10, End: 5000}, {Start: 5020, End: 9000}}},
	} {
		if got := told(c.set); got == nil || !slices.Equal(got, c.want) {
			t.Errorf("%s: %v, want %v", c.name, got, c.want)
		}
	}
}
