package timetable

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/texts"
)

var autumn = Term{day(2026, 9, 7), day(2026, 12, 18),
	[]Break{{day(2026, 10, 12), day(2026, 10, 18), "Regatta"}, {day(2026, 11, 5), day(2026, 11, 5), "Founders' day"}}}

func clock(h, m int) time.Duration {
	return time.Duration(h)*time.Hour + time.Duration(m)*time.Minute
}

func place(t *testing.T, name string) *time.Location {
	t.Helper()
	zone, err := time.LoadLocation(name)
	if err != nil {
		t.Fatal(err)
	}
	return zone
}

func dates(days []Day) string {
	var out []string
	for _, d := range days {
		out = append(out, d.Format("0102"))
	}
	return strings.Join(out, " ")
}

func TestDaysOfAPlan(t *testing.T) {
	for _, c := range []struct {
		name    string
		plan    Plan
		want    string
		skipped int
	}{
		{"two days a week, a break inside",
			Plan{Weekdays: []time.Weekday{time.Tuesday, time.Thursday}, From: day(2026, 9, 29), Times: 7},
			"0929 1001 1006 1008 1020 1022 1027", 2},
		{"over the break",
			Plan{Weekdays: []time.Weekday{time.Tuesday}, From: day(2026, 10, 6), Times: 3, OverBreaks: true},
			"1006 1013 1020", 0},
		{"a single day off",
			Plan{Weekdays: []time.Weekday{time.Thursday}, From: day(2026, 10, 29), Until: day(2026, 11, 12)},
			"1029 1112", 1},
		{"from a day that is none of them",
			Plan{Weekdays: []time.Weekday{time.Monday}, From: day(2026, 9, 9), Times: 2}, "0914 0921", 0},
		{"every other week counts from the week of the first day",
			Plan{Weekdays: []time.Weekday{time.Monday, time.Friday}, Every: 2, From: day(2026, 9, 11), Times: 4},
			"0911 0921 0925 1005", 0},
		{"the last day of a month, and of the plan",
			Plan{Weekdays: []time.Weekday{time.Wednesday}, From: day(2026, 9, 30), Until: day(2026, 9, 30)}, "0930", 0},
		{"to the last day of the term",
			Plan{Weekdays: []time.Weekday{time.Friday}, From: day(2026, 12, 4), Until: day(2026, 12, 18)},
			"1204 1211 1218", 0},
		{"Sundays", Plan{Weekdays: []time.Weekday{time.Sunday}, From: day(2026, 9, 7), Times: 2}, "0913 0920", 0},
		{"over the end of summer time",
			Plan{Weekdays: []time.Weekday{time.Sunday, time.Monday}, From: day(2026, 10, 24), Times: 4},
			"1025 1026 1101 1102", 0},
	} {
		held, skipped := c.plan.Days(autumn)
		if dates(held) != c.want || len(skipped) != c.skipped {
			t.Errorf("%s: %s and %d skipped, want %s and %d", c.name, dates(held), len(skipped), c.want, c.skipped)
		}
	}
}

// TestAPlanKeepsItsHour when summer time ends, and each lecture its length.
func TestAPlanKeepsItsHour(t *testing.T) {
	zone := place(t, "Europe/Berlin")
	p := Plan{Weekdays: []time.Weekday{time.Tuesday}, At: clock(10, 15), Lasts: 90 * time.Minute,
		From: day(2026, 10, 20), Times: 2}
	held, _ := p.Days(autumn)
	for i, want := range []string{"2026-10-20T08:15:00Z", "2026-10-27T09:15:00Z"} {
		start, end := p.Slot(held[i], zone)
		if start.Format(time.RFC3339) != want || end.Sub(start) != p.Lasts || ClockOf(start, zone) != p.At {
			t.Errorf("%s to %s, want %s", start, end, want)
		}
	}
	// An hour that the night of the change leaves out is not lost.
	start, end := Plan{At: clock(2, 30), Lasts: time.Hour}.Slot(day(2026, 3, 29), zone)
	if end.Sub(start) != time.Hour || DayOf(start, zone) != day(2026, 3, 29) {
		t.Errorf("%s to %s", start, end)
	}
}

func TestAPlanThatCannotBe(t *testing.T) {
	good := Plan{Weekdays: []time.Weekday{time.Tuesday}, Every: 1, At: clock(10, 15), Lasts: 90 * time.Minute,
		From: day(2026, 9, 8), Times: 11}
	if err := good.Check(autumn); err != nil {
		t.Fatal(err)
	}
	for field, c := range map[string]struct {
		spoil func(*Plan)
		says  string
	}{
		"weekdays": {func(p *Plan) { p.Weekdays = nil }, "at least one day"},
		"every":    {func(p *Plan) { p.Every = 13 }, "every 12 weeks"},
		"starts":   {func(p *Plan) { p.At = 24 * time.Hour }, "10:15"},
		"ends":     {func(p *Plan) { p.Lasts = 0 }, "after the start"},
		"from":     {func(p *Plan) { p.From = day(2026, 9, 6) }, "begins on 7 September 2026"},
		"times":    {func(p *Plan) { p.Times = 10000 }, "at most 400 lectures, and this would be 10000"},
		"until":    {func(p *Plan) { p.Until = day(2026, 9, 7) }, "before the first"},
	} {
		p := good
		c.spoil(&p)
		var f fault.Faults
		if err := p.Check(autumn); !errors.As(err, &f) || len(f) != 1 || f[0].Field != field ||
			!strings.Contains(texts.English.Say(f[0].Text), c.says) {
			t.Errorf("%s: %+v", field, err)
		}
	}
	for says, spoil := range map[string]func(*Plan){
		"Only 14 of 15 fit in":  func(p *Plan) { p.Times = 15 },
		"The term ends on":      func(p *Plan) { p.Until = day(2026, 12, 19) },
		"lies in a break":       func(p *Plan) { p.From, p.Until = day(2026, 10, 13), day(2026, 10, 14) },
		"lies between these":    func(p *Plan) { p.From, p.Until = day(2026, 10, 21), day(2026, 10, 22) },
		"Choose an earlier day": func(p *Plan) { p.From = day(2027, 1, 4) },
		"lasts at most a day":   func(p *Plan) { p.Lasts = 25 * time.Hour },
		"at least once":         func(p *Plan) { p.Times = 0 },
	} {
		p := good
		spoil(&p)
		if err := p.Check(autumn); err == nil || !strings.Contains(texts.English.Error(err), says) {
			t.Errorf("%q is not said: %v", says, err)
		}
	}
}

func TestATermThatCannotBe(t *testing.T) {
	if err := autumn.Check(); err != nil {
		t.Fatal(err)
	}
	for says, x := range map[string]Term{
		"before the first one":  {First: day(2026, 9, 7), Last: day(2026, 9, 6)},
		"Choose the last day":   {First: day(2026, 9, 7)},
		"at most a year":        {First: day(2026, 9, 7), Last: day(2028, 9, 7)},
		"within the term":       {autumn.First, autumn.Last, []Break{{day(2026, 12, 18), day(2026, 12, 19), "x"}}},
		"before its first one":  {autumn.First, autumn.Last, []Break{{day(2026, 10, 2), day(2026, 10, 1), "x"}}},
		"Give the break a name": {autumn.First, autumn.Last, []Break{{day(2026, 10, 1), day(2026, 10, 2), ""}}},
		"overlaps the break tea": {autumn.First, autumn.Last,
			[]Break{{day(2026, 10, 1), day(2026, 10, 2), "tea"}, {day(2026, 10, 2), day(2026, 10, 3), "cake"}}},
		"the last day of the bre": {autumn.First, autumn.Last, []Break{{First: day(2026, 10, 1), Name: "x"}}},
	} {
		if err := x.Check(); err == nil || !strings.Contains(texts.English.Error(err), says) {
			t.Errorf("%q is not said: %v", says, err)
		}
	}
}

// TestRecogniseFindsTheSentence: the days that any plan makes give back a plan of the same days.
func TestRecogniseFindsTheSentence(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 500 {
		p := Plan{Every: 1 + r.IntN(3), From: autumn.First.AddDate(0, 0, r.IntN(40)), Times: 1 + r.IntN(12),
			OverBreaks: r.IntN(2) == 0}
		for w := range time.Weekday(7) {
			if r.IntN(3) == 0 {
				p.Weekdays = append(p.Weekdays, w)
			}
		}
		held, _ := p.Days(autumn)
		found, ok := Recognise(held, autumn)
		again, _ := found.Days(autumn)
		if ok != (len(held) > 0) || !slices.EqualFunc(held, again, Day.Equal) {
			t.Fatalf("%+v held on %s: recognised %v as %+v on %s", p, dates(held), ok, found, dates(again))
		}
	}
	if _, ok := Recognise([]Day{day(2026, 9, 7), day(2026, 9, 8), day(2026, 9, 22)}, autumn); ok {
		t.Error("days without a pattern are recognised")
	}
}

func bookings(specs ...string) []Booking {
	var out []Booking
	for _, s := range specs {
		var b Booking
		var from, to int
		var who string
		if _, err := fmt.Sscanf(s, "%s %s %s %s %d %d", &b.ID, &b.Course, &b.Hall, &who, &from, &to); err != nil {
			panic(err)
		}
		if b.Hall == "-" {
			b.Hall = ""
		}
		if b.ID == "new" {
			b.ID = ""
		}
		b.Lecturers = strings.Split(who, ",")
		b.Start, b.End = day(2026, 9, 8).Add(clock(from, 0)), day(2026, 9, 8).Add(clock(to, 0))
		out = append(out, b)
	}
	return out
}

func TestClashes(t *testing.T) {
	for _, c := range []struct {
		name            string
		added, standing []Booking
		want            []string // for each added: what it clashes with and why
	}{
		{"one after the other", bookings("new A kelp ann 10 12"), bookings("1 B kelp ann 12 13", "2 B kelp ann 8 10"),
			[]string{""}},
		{"the hall", bookings("new A kelp ann 10 12"), bookings("1 B kelp bo 11 13"), []string{"1:hall"}},
		{"the lecturer", bookings("new A kelp ann,bo 10 12"), bookings("1 B loft bo 9 11"), []string{"1:bo"}},
		{"the course", bookings("new A kelp ann 10 12"), bookings("1 A loft bo 11 12"), []string{"1:course"}},
		{"no hall is no hall to clash in", bookings("new A - ann 10 12"), bookings("1 B - bo 10 12"), []string{""}},
		{"itself before a change", bookings("1 A kelp ann 11 13"), bookings("1 A kelp ann 10 12"), []string{""}},
		{"moved onto another of the same change", bookings("1 A kelp ann 11 13", "2 A kelp ann 12 14"),
			bookings("2 A kelp ann 15 16"), []string{"2:hall:course:ann", "1:hall:course:ann"}},
		{"moved to where another of the same change was", bookings("1 A kelp ann 11 13", "2 A kelp ann 14 16"),
			bookings("2 A kelp ann 11 12"), []string{"", ""}},
		{"those without a name are no one's before", bookings("new A kelp ann 11 13"),
			append(bookings("new B kelp bo 12 14"), bookings("2 C loft cy 11 12")...), []string{":hall"}},
		{"a long one over several", bookings("new A kelp ann 8 18"),
			bookings("1 B kelp bo 8 9", "2 B loft bo 9 10", "3 C kelp cy 17 19"), []string{"1:hall 3:hall"}},
	} {
		got, _ := Clashes(c.added, c.standing, 1000)
		for i, want := range c.want {
			var words []string
			for _, x := range got[i] {
				w := x.With.ID
				if x.Hall {
					w += ":hall"
				}
				if x.Course {
					w += ":course"
				}
				if x.Lecturer != "" {
					w += ":" + x.Lecturer
				}
				words = append(words, w)
			}
			if strings.Join(words, " ") != want {
				t.Errorf("%s: the new one at %d clashes with %q, want %q", c.name, i, words, want)
			}
		}
	}
}

// TestClashesAgreeWithComparingAll: the sweep finds what comparing every pair finds.
func TestClashesAgreeWithComparingAll(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	random := func(n int, id string) []Booking {
		var out []Booking
		for i := range n {
			at := day(2026, 9, 8).Add(time.Duration(r.IntN(40)) * 15 * time.Minute)
			out = append(out,
				Booking{fmt.Sprint(id, i), fmt.Sprint(r.IntN(4)), fmt.Sprint(r.IntN(3)),
					[]string{fmt.Sprint(r.IntN(4))}, at, at.Add(time.Duration(1+r.IntN(12)) * 15 * time.Minute)})
		}
		return out
	}
	for range 200 {
		added, standing := random(8, "a"), random(20, "s")
		got, clashing := Clashes(added, standing, 1000)
		for i, a := range added {
			want := 0
			for _, b := range append(slices.Clone(standing), added...) {
				if between(a, b).Any() {
					want++
				}
			}
			if len(got[i]) != want || clashing[i] != (want > 0) {
				t.Fatalf("%d clashes, want %d; said to clash: %v", len(got[i]), want, clashing[i])
			}
		}
		of := func(found [][]Clash) int {
			pairs := map[string]bool{}
			for i, list := range found {
				for _, c := range list {
					pairs[min(added[i].ID, c.With.ID)+" "+max(added[i].ID, c.With.ID)] = true
				}
			}
			return len(pairs)
		}
		whole := of(got)
		for _, most := range []int{0, 1, 2, 3, whole, whole + 1} {
			told, all := Clashes(added, standing, most)
			if n := of(told); n != min(most, whole) || !slices.Equal(all, clashing) {
				t.Fatalf("%d told of %d pairs at most; which clash: %v, want %v", n, most, all, clashing)
			}
		}
	}
}

func TestShifts(t *testing.T) {
	zone := place(t, "Europe/Berlin")
	p := Plan{Weekdays: []time.Weekday{time.Tuesday, time.Thursday}, At: clock(10, 15), Lasts: 90 * time.Minute,
		From: day(2026, 10, 20), Times: 6}
	days, _ := p.Days(autumn)
	var held []Held
	for i, d := range days {
		start, end := p.Slot(d, zone)
		held = append(held, Held{ID: fmt.Sprint(i), Start: start, End: end})
	}
	at, lasts := clock(14, 0), 45*time.Minute
	show := func(moves []Move) string {
		var out []string
		for _, m := range moves {
			x := m.ID + ":" + m.Start.In(zone).Format("0102T1504") +
				fmt.Sprintf("+%d", int(m.End.Sub(m.Start).Minutes()))
			if m.Stays {
				x += "!"
			}
			out = append(out, x)
		}
		return strings.Join(out, " ")
	}
	for _, c := range []struct {
		name  string
		held  func([]Held)
		first string
		shift Shift
		want  string
	}{
		{"the hour of all later ones, over the end of summer time", nil, "1", Shift{At: &at},
			"1:1022T1400+90 2:1027T1400+90 3:1029T1400+90 4:1103T1400+90 5:1110T1400+90"},
		{"another day of the week, for the same days alone", nil, "2", Shift{Days: 1},
			"2:1028T1015+90 3:1029T1015+90 4:1104T1015+90 5:1111T1015+90"},
		{"all of them", nil, "0", Shift{Days: 1, Lasts: &lasts},
			"0:1021T1015+45 1:1022T1015+45 2:1028T1015+45 3:1029T1015+45 4:1104T1015+45 5:1111T1015+45"},
		{"shorter", nil, "4", Shift{Lasts: &lasts}, "4:1103T1015+45 5:1110T1015+45"},
		{"those captured or moved by hand stay", func(h []Held) {
			h[3].Captured, h[4].Moved = true,
				true
		}, "2", Shift{At: &at}, "2:1027T1400+90 3:1029T1015+90! 4:1103T1015+90! 5:1110T1400+90"},
		{"the first moves even when it was moved before", func(h []Held) { h[5].Moved = true }, "5", Shift{Days: -1},
			"5:1109T1015+90"},
		{"one that is not there", nil, "9", Shift{Days: 1}, ""},
	} {
		h := slices.Clone(held)
		if c.held != nil {
			c.held(h)
		}
		if got := show(ShiftLater(h, c.first, c.shift, zone)); got != c.want {
			t.Errorf("%s:\n%s, want\n%s", c.name, got, c.want)
		}
	}
	if got := show([]Move{ShiftOne(held[0], Shift{Days: 7, At: &at, Lasts: &lasts}, zone)}); got != "0:1027T1400+45" {
		t.Errorf("one alone: %s", got)
	}
}

func TestNearest(t *testing.T) {
	at := func(d, h int) Booking {
		start := day(2026, 9, d).Add(clock(h, 0))
		return Booking{Start: start, End: start.Add(time.Hour)}
	}
	list := []Booking{at(7, 9), at(8, 9), at(8, 13), at(10, 9)}
	for _, c := range []struct {
		d, h, m, want int
	}{
		{8, 9, 30, 1}, {8, 8, 0, 1}, {8, 10, 0, 2}, {8, 11, 0, 2}, {8, 15, 0, 2}, {9, 9, 0, 3}, {10, 10, 30, 3},
		{11, 8, 0, -1}, {7, 12, 0, 0}, {1, 0, 0, 0},
	} {
		if got := Nearest(list, day(2026, 9, c.d).Add(clock(c.h, c.m)), time.UTC); got != c.want {
			t.Errorf("on the %dth at %d:%02d it is %d, want %d", c.d, c.h, c.m, got, c.want)
		}
	}
	if Nearest(nil, day(2026, 9, 8), time.UTC) != -1 {
		t.Error("without any")
	}
}
