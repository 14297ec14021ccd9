package timetable

import (
	"math/rand/v2"
	"testing"
	"time"
)

// Two terms: eleven weeks of teaching from a Monday with a week off after the second, and nine from a Wednesday with a
// day off in the third.
var (
	fall = Term{First: day(2026, 9, 7), Last: day(2026, 11, 27),
		Breaks: []Break{{First: day(2026, 9, 21), Last: day(2026, 9, 25), Name: "Regatta"}}}
	lent = Term{First: day(2027, 2, 3), Last: day(2027, 4, 2),
		Breaks: []Break{{First: day(2027, 2, 16), Last: day(2027, 2, 16), Name: "Pancakes"}}}
)

func TestWhichDayOfAnotherTerm(t *testing.T) {
	for _, c := range []struct {
		name string
		day  Day
		want Day // zero for none
	}{
		{"the second Monday", day(2026, 9, 14), day(2027, 2, 8)},
		{"after the week off there is week three", day(2026, 9, 30), day(2027, 2, 17)},
		{"a Saturday", day(2026, 9, 19), day(2027, 2, 13)},
		{"in the first week, before the other term begins", day(2026, 9, 8), Day{}},
		{"in the first week, on its first day", day(2026, 9, 9), day(2027, 2, 3)},
		{"in a week off", day(2026, 9, 22), Day{}},
		{"on a day that is off there", day(2026, 9, 29), Day{}},
		{"on the last day of the other", day(2026, 11, 13), day(2027, 4, 2)},
		{"a day after that", day(2026, 11, 14), Day{}},
		{"in a week that the other does not have", day(2026, 11, 16), Day{}},
		{"before the term", day(2026, 9, 6), Day{}},
		{"after the term", day(2026, 12, 1), Day{}},
	} {
		got, ok := fall.Carry(c.day, lent)
		if ok != !c.want.IsZero() || ok && !got.Equal(c.want) {
			t.Errorf("%s: %v %v, want %v", c.name, got, ok, c.want)
		}
	}
}

func TestMomentsNearATerm(t *testing.T) {
	london, lima := place(t, "Europe/London"), place(t, "America/Lima")
	from, to := Dated{fall, london}, Dated{lent, lima}
	// On a day that is there; on the second day of a term; in a week off, as far from the first day; a week before;
	// thirty days after.
	for _, c := range []struct{ at, want time.Time }{
		{time.Date(2026, 9, 14, 9, 30, 0, 0, london), time.Date(2027, 2, 8, 9, 30, 0, 0, lima)},
		{time.Date(2026, 9, 8, 9, 0, 0, 0, london), time.Date(2027, 2, 4, 9, 0, 0, 0, lima)},
		{time.Date(2026, 9, 22, 0, 0, 0, 0, london), time.Date(2027, 2, 18, 0, 0, 0, 0, lima)},
		{time.Date(2026, 8, 31, 12, 0, 0, 0, london), time.Date(2027, 1, 27, 12, 0, 0, 0, lima)},
		{time.Date(2026, 12, 27, 18, 0, 0, 0, london), time.Date(2027, 5, 2, 18, 0, 0, 0, lima)},
	} {
		if got := from.Near(c.at, to); !got.Equal(c.want) {
			t.Errorf("%v: %v, want %v", c.at, got, c.want)
		}
	}
}

// TestThereAndBack: a day that can be carried comes back to where it was, and is in a week of the same number.
func TestThereAndBack(t *testing.T) {
	dice := rand.New(rand.NewPCG(3, 4))
	carried := 0
	for range 4000 {
		from, to := someTerm(dice), someTerm(dice)
		d := from.First.AddDate(0, 0, dice.IntN(130))
		there, ok := from.Carry(d, to)
		if !ok {
			continue
		}
		carried++
		a, _ := from.WeekOf(d)
		b, ok := to.WeekOf(there)
		if !ok || a.Number != b.Number || d.Weekday() != there.Weekday() {
			t.Fatalf("%v in week %d of %+v is %v in week %d of %+v", d, a.Number, from, there, b.Number, to)
		}
		// A day within a break in the middle of a week has no way back.
		if _, off := from.InBreak(d); off || !from.Contains(d) {
			continue
		}
		if back, ok := to.Carry(there, from); !ok || !back.Equal(d) {
			t.Fatalf("%v of %+v is %v of %+v, and that is %v", d, from, there, to, back)
		}
	}
	if carried < 1000 {
		t.Fatalf("only %d were carried", carried)
	}
}

func someTerm(dice *rand.Rand) Term {
	first := day(2026, 1, 1).AddDate(0, 0, dice.IntN(300))
	t := Term{First: first, Last: first.AddDate(0, 0, 60+dice.IntN(60))}
	if dice.IntN(2) == 0 {
		off := first.AddDate(0, 0, dice.IntN(50))
		t.Breaks = []Break{{First: off, Last: off.AddDate(0, 0, dice.IntN(10))}}
	}
	return t
}
