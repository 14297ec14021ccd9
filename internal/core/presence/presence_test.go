package presence

import (
	"math/rand/v2"
	"testing"
	"time"
)

var ten = time.Date(2026, 10, 14, 10, 0, 0, 0, time.UTC)

func at(minutes float64) time.Time { return ten.Add(time.Duration(minutes * float64(time.Minute))) }

func TestTheLineOfSomebody(t *testing.T) {
	h := Held{at(0), at(90)}
	stay := func(from, until float64) Stay { return Stay{at(from), at(until)} }
	for _, c := range []struct {
		name  string
		stays []Stay
		state State
		late  float64
		early float64
		there float64
	}{
		{"nobody", nil, Absent, 0, 0, 0},
		{"all the time", []Stay{stay(0, 90)}, Present, 0, 0, 90},
		{"before and after as well", []Stay{stay(-10, 120)}, Present, 0, 0, 90},
		{"only before", []Stay{stay(-10, -1)}, Absent, 0, 0, 0},
		{"only after", []Stay{stay(91, 100)}, Absent, 0, 0, 0},
		{"just in time", []Stay{stay(4.9, 90)}, Present, 0, 0, 85.1},
		{"late", []Stay{stay(5, 90)}, Late, 5, 0, 85},
		{"until just before the end", []Stay{stay(0, 89.5)}, Present, 0, 0, 90},
		{"left early", []Stay{stay(0, 70)}, Early, 0, 20, 70},
		{"late, and left early", []Stay{stay(20, 70)}, Both, 20, 20, 50},
		{"went out and came back", []Stay{stay(0, 20), stay(40, 90)}, Present, 0, 0, 70},
		{"in any order, and over each other", []Stay{stay(30, 90), stay(0, 40), stay(10, 20)}, Present, 0, 0, 90},
		{"a line that broke for a moment", []Stay{stay(0, 20), stay(20.5, 90)}, Present, 0, 0, 90},
		{"heard of once", []Stay{stay(50, 50)}, Both, 50, 40, 0},
		{"a stay that ends before it begins", []Stay{stay(50, 10)}, Absent, 0, 0, 0},
	} {
		got := Of(h, c.stays, Usual)
		minutes := func(d time.Duration) float64 { return float64(d.Round(6*time.Second)) / float64(time.Minute) }
		if got.State != c.state || minutes(got.Late) != c.late || minutes(got.Early) != c.early ||
			minutes(got.There) != c.there {
			t.Errorf("%s: %+v", c.name, got)
		}
	}
	half := Rules{Late: time.Minute, Early: time.Minute, Least: 50}
	if got := Of(h, []Stay{stay(0, 30)}, half); got.State != Absent || got.There != 30*time.Minute {
		t.Errorf("a third where half is wanted: %+v", got)
	}
	if got := Of(Held{at(0), at(0)}, []Stay{stay(0, 30)}, Usual); got.State != Unknown {
		t.Errorf("before it began: %+v", got)
	}
}

func TestWhenALectureWasHeld(t *testing.T) {
	p := func(m float64) *time.Time { x := at(m); return &x }
	for _, c := range []struct {
		name           string
		began, stopped *time.Time
		now            float64
		from, until    float64
	}{
		{"without a capture", nil, nil, 200, 0, 90},
		{"captured early", p(-5), p(95), 200, 0, 90},
		{"begun late", p(6), p(80), 200, 6, 80},
		{"it runs", p(1), nil, 30, 1, 30},
		{"nobody stopped it", p(0), nil, 200, 0, 90},
		{"captured the day before", p(-900), p(-850), 200, 0, 90},
		{"captured after it", p(100), p(160), 200, 0, 90},
		{"still to come", nil, nil, -10, 0, -10},
	} {
		got := Hours(at(0), at(90), c.began, c.stopped, at(c.now))
		if !got.From.Equal(at(c.from)) || !got.Until.Equal(at(c.until)) {
			t.Errorf("%s: %v", c.name, got)
		}
	}
}

// TestMoreIsNeverLess: whoever was there for one stay more is no later, leaves no earlier, and was there no shorter;
// and nobody is there longer than the lecture.
func TestMoreIsNeverLess(t *testing.T) {
	random := rand.New(rand.NewPCG(25, 6))
	h := Held{at(0), at(90)}
	states := map[State]int{}
	for range 20_000 {
		r := Rules{Late: time.Duration(random.IntN(20)) * time.Minute,
			Early: time.Duration(random.IntN(20)) * time.Minute, Least: random.IntN(80) * random.IntN(2)}
		var stays []Stay
		for range random.IntN(5) {
			from := random.Float64()*120 - 20
			stays = append(stays, Stay{at(from), at(from + random.Float64()*60)})
		}
		from := random.Float64()*120 - 20
		less := Of(h, stays, r)
		more := Of(h, append(stays, Stay{at(from), at(from + random.Float64()*60)}), r)
		states[more.State]++
		if more.There < less.There || more.There > 90*time.Minute {
			t.Fatalf("%v of %v", more.There, less.There)
		}
		if less.State.There() && (!more.State.There() || more.Late > less.Late || more.Early > less.Early) {
			t.Fatalf("%+v became %+v", less, more)
		}
		if more.Late > 0 != (more.State == Late || more.State == Both) ||
			more.Early > 0 != (more.State == Early || more.State == Both) {
			t.Fatalf("%+v", more)
		}
	}
	for _, s := range []State{Present, Late, Early, Both, Absent} {
		if states[s] < 200 {
			t.Errorf("%q was tried %d times alone", s, states[s])
		}
	}
}

func TestStatesByHand(t *testing.T) {
	for s, there := range map[State]bool{Present: true, Late: true, Early: true, Both: true, Absent: false,
		Excused: false} {
		if !s.Valid() || s.There() != there {
			t.Errorf("%q: %v %v", s, s.Valid(), s.There())
		}
	}
	for s, want := range map[State][2]bool{Present: {}, Absent: {}, Late: {true, false}, Early: {false, true},
		Both: {true, true}} {
		if s.CameLate() != want[0] || s.WentEarly() != want[1] {
			t.Errorf("%q: %v %v", s, s.CameLate(), s.WentEarly())
		}
	}
	if Unknown.Valid() || State("ill").Valid() {
		t.Error("what is no state can be given")
	}
}
