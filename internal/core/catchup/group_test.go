package catchup

import (
	"slices"
	"testing"
	"time"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
)

func minutes(of ...float64) span.Set {
	var out []span.Span
	for i := 0; i+1 < len(of); i += 2 {
		out = append(out, span.Span{Start: time.Duration(of[i] * float64(time.Minute)),
			End: time.Duration(of[i+1] * float64(time.Minute))})
	}
	return span.Of(out...)
}

// TestAGroup of students stands with a lecture as each of them does.
func TestAGroup(t *testing.T) {
	c, whole := cutlist.CarrierOf(minutes(0, 40, 50, 60)), time.Hour
	for name, x := range map[string]struct {
		attended, watched span.Set
		known             bool
		want              Group
	}{
		"never heard of it":          {want: Group{Students: 1}},
		"was there":                  {attended: minutes(0, 60), want: Group{Students: 1, There: 1}},
		"was out while it is struck": {attended: minutes(0, 41, 49, 60), want: Group{Students: 1, There: 1}},
		"was out for a moment":       {attended: minutes(0, 20, 20.2, 60), want: Group{Students: 1, There: 1}},
		"left early":                 {attended: minutes(0, 50), want: Group{Students: 1}},
		"left early and saw a little": {attended: minutes(0, 50), watched: minutes(50, 51),
			want: Group{Students: 1, Begun: 1}},
		"left early and saw the rest": {attended: minutes(0, 50), watched: minutes(50, 60),
			want: Group{Students: 1, CaughtUp: 1}},
		"left early and watched again": {attended: minutes(0, 50), watched: minutes(0, 40),
			want: Group{Students: 1}},
		"saw all of it":        {watched: minutes(0, 40, 50, 60), want: Group{Students: 1, CaughtUp: 1}},
		"was there and saw it": {attended: minutes(0, 60), watched: minutes(0, 60), want: Group{Students: 1, There: 1}},
		"says they know it":    {known: true, want: Group{Students: 1, CaughtUp: 1}},
	} {
		var g Group
		g.Add(c, whole, x.attended, x.watched, x.known)
		if g != x.want {
			t.Errorf("%s: %+v, want %+v", name, g, x.want)
		}
	}
}

// TestTheCurve counts people by minutes, and tells nothing of a few.
func TestTheCurve(t *testing.T) {
	sets := []span.Set{minutes(0, 2.5), minutes(0, 2), minutes(0.5, 4.5), minutes(2.4, 4.6), minutes(1, 4.4)}
	for _, x := range []struct {
		bin, end time.Duration
		want     []int
	}{
		{time.Minute, 4*time.Minute + 30*time.Second, []int{3, 4, 4, 3, 3}},
		{2 * time.Minute, 4 * time.Minute, []int{4, 3}},
		{time.Minute, time.Minute, []int{3}},
		{time.Minute, 0, nil},
		{0, time.Minute, nil},
	} {
		if got := Curve(sets, x.bin, x.end); !slices.Equal(got, x.want) {
			t.Errorf("%v of %v: %v, want %v", x.bin, x.end, got, x.want)
		}
	}
	parts := []span.Set{minutes(0, 1, 3, 4), minutes(0, 1, 3, 4), minutes(0, 0.4, 2.6, 3.5)}
	if got := Curve(parts, time.Minute, 4*time.Minute); !slices.Equal(got, []int{0, 0, 0, 3}) {
		t.Errorf("of parts: %v", got)
	}
	if got := Curve(sets[:2], time.Minute, 2*time.Minute); !slices.Equal(got, []int{0, 0}) {
		t.Errorf("of two people: %v", got)
	}
}
