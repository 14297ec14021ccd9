package catchup

import (
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"latelantern/internal/core/span"
)

func TestSorted(t *testing.T) {
	day := func(n int) time.Time { return time.Date(2026, 10, n, 10, 0, 0, 0, time.UTC) }
	tides := Missing{Next: day(21)}
	boats := Missing{Next: day(20)}
	over := Missing{}
	on := func(m Missing, at time.Time) Missing { m.Starts = at; return m }
	all := []Missing{on(tides, day(1)), on(boats, day(2)), on(tides, day(3)), on(boats, day(5)), on(over, day(4)),
		on(boats, time.Time{}), on(tides, day(3))}
	for by, want := range map[Order][]int{ByDate: {0, 1, 2, 6, 4, 3, 5}, ByNext: {3, 1, 5, 2, 6, 0, 4}} {
		if got := Sorted(all, by); !slices.Equal(got, want) {
			t.Errorf("by %s: %v, want %v", by, got, want)
		}
	}
}

func TestPlan(t *testing.T) {
	minutes := func(m ...int) Missing {
		for i := range m {
			m[i] *= 60
		}
		return Missing{Missed: set(m...)}
	}
	step := func(of, from, to int, whole bool) Step {
		at := span.Span{Start: time.Duration(from) * time.Minute, End: time.Duration(to) * time.Minute}
		return Step{of, at, whole}
	}
	three := []Missing{minutes(0, 30), minutes(5, 15, 20, 60), minutes(10, 18)}
	for _, c := range []struct {
		name  string
		have  int
		speed float64
		want  []Step
	}{
		{"all of it fits", 88, 1, []Step{step(0, 0, 30, true), step(1, 5, 15, true), step(1, 20, 60, true),
			step(2, 10, 18, true)}},
		{"whole stretches in order, and a later one that fits", 48, 1, []Step{step(0, 0, 30, true),
			step(1, 5, 15, true), step(2, 10, 18, true)}},
		{"what is left goes to the beginning of another", 50, 1, []Step{step(0, 0, 30, true), step(1, 5, 15, true),
			step(1, 20, 22, false), step(2, 10, 18, true)}},
		{"less than a minute is not begun", 41, 1, []Step{step(0, 0, 30, true), step(1, 5, 15, true),
			step(1, 20, 21, false)}},
		{"at twice the speed twice as much", 24, 2, []Step{step(0, 0, 30, true), step(1, 5, 15, true),
			step(2, 10, 18, true)}},
		{"the first is too long", 12, 1, []Step{step(0, 0, 2, false), step(1, 5, 15, true)}},
		{"no time at all", 0, 1, nil},
		{"less than none", -5, 1, nil},
	} {
		if got := Plan(three, time.Duration(c.have)*time.Minute, c.speed); !slices.Equal(got, c.want) {
			t.Errorf("%s: %v, want %v", c.name, got, c.want)
		}
	}
	if got := Plan(three, 40*time.Minute+59*time.Second, 1); len(got) != 2 {
		t.Errorf("59 s that are left were given to %v", got[len(got)-1])
	}
	if got := Plan(nil, time.Hour, 1); len(got) != 0 {
		t.Errorf("of nothing: %v", got)
	}
}

// TestPlansFit holds for whatever is missed: a plan takes no longer than there is time, names nothing twice and nothing
// that is not missed, and stands in order.
func TestPlansFit(t *testing.T) {
	r := rand.New(rand.NewPCG(24, 2))
	for range 3000 {
		all := make([]Missing, 1+r.IntN(6))
		for i := range all {
			all[i].Missed = anywhere(r, 6)
		}
		have, speed := time.Duration(r.IntN(7200))*time.Second, Slowest+r.Float64()*(Fastest-Slowest)
		var sum time.Duration
		last := Step{Of: -1}
		for _, s := range Plan(all, have, speed) {
			if s.Of < last.Of || s.Of == last.Of && s.At.Start < last.At.End {
				t.Fatalf("%v comes after %v", s, last)
			}
			if one := span.Of(s.At); !one.Subtract(all[s.Of].Missed).Empty() || s.At.Empty() {
				t.Fatalf("%v is not missed", s)
			}
			sum, last = sum+s.At.Len(), s
		}
		if float64(sum) > float64(have)*speed+1 {
			t.Fatalf("%v were planned for %v at %.2f", sum, have, speed)
		}
	}
}

func TestSpeed(t *testing.T) {
	for _, c := range []struct {
		played, took time.Duration
		want         float64
	}{
		{0, 0, 1},
		{90 * time.Second, 59 * time.Second, 1},
		{90 * time.Second, time.Minute, 1.5},
		{10 * time.Second, time.Minute, Slowest},
		{time.Hour, time.Minute, Fastest},
	} {
		if got := Speed(c.played, c.took); got != c.want {
			t.Errorf("%v in %v: %v, want %v", c.played, c.took, got, c.want)
		}
	}
}
