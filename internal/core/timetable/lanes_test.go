package timetable

import (
	"math/rand/v2"
	"slices"
	"testing"
	"time"
)

func TestLanes(t *testing.T) {
	at := func(from, to int) Booking {
		day := time.Date(2026, 10, 14, 0, 0, 0, 0, time.UTC)
		return Booking{Start: day.Add(time.Duration(from) * time.Minute), End: day.Add(time.Duration(to) * time.Minute)}
	}
	for name, c := range map[string]struct {
		list []Booking
		want []Lane
	}{
		"none":              {nil, []Lane{}},
		"one after another": {[]Booking{at(0, 60), at(60, 120)}, []Lane{{0, 1}, {0, 1}}},
		"two at once":       {[]Booking{at(0, 60), at(30, 90)}, []Lane{{0, 2}, {1, 2}}},
		"a chain": {[]Booking{at(0, 60), at(30, 90), at(70, 120), at(120, 130)},
			[]Lane{{0, 2}, {1, 2}, {0, 2}, {0, 1}}},
		"out of order": {[]Booking{at(30, 40), at(0, 60)}, []Lane{{1, 2}, {0, 2}}},
	} {
		if got := Lanes(c.list); !slices.Equal(got, c.want) {
			t.Errorf("%s: %v, want %v", name, got, c.want)
		}
	}
	// Two that overlap never share a lane, and know of the same number of lanes.
	r := rand.New(rand.NewPCG(1, 2))
	for range 300 {
		var list []Booking
		for range r.IntN(12) {
			from := r.IntN(300)
			list = append(list, at(from, from+1+r.IntN(120)))
		}
		lanes := Lanes(list)
		for i, a := range list {
			if lanes[i].At >= lanes[i].Of {
				t.Fatalf("lane %+v of %v", lanes[i], list)
			}
			for j, b := range list {
				if i != j && a.Start.Before(b.End) && b.Start.Before(a.End) &&
					(lanes[i].At == lanes[j].At || lanes[i].Of != lanes[j].Of) {
					t.Fatalf("%v and %v stand at %+v and %+v", a, b, lanes[i], lanes[j])
				}
			}
		}
	}
}
