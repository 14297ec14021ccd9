package timetable

import (
	"errors"
	"math"
	"strings"
	"testing"
	"time"

	"latelantern/internal/core/fault"
)

// TestPlansAtTheirEdges: what just can be, and what just cannot, each by the field that is wrong.
func TestPlansAtTheirEdges(t *testing.T) {
	good := Plan{Weekdays: []time.Weekday{time.Tuesday}, Every: 1, At: clock(10, 15), Lasts: 90 * time.Minute,
		From: day(2026, 9, 8), Times: 3}
	everyDay := []time.Weekday{0, 1, 2, 3, 4, 5, 6}
	years := Term{First: day(2026, 1, 1), Last: day(2027, 12, 31)}
	for _, c := range []struct {
		name  string
		term  Term
		spoil func(*Plan)
		wrong fault.Code // "" for nothing
	}{
		{"every twelve weeks", autumn, func(p *Plan) { p.Every, p.Times = 12, 1 }, ""},
		{"every week of none", autumn, func(p *Plan) { p.Every = 0 }, "plan.every"},
		{"at midnight", autumn, func(p *Plan) { p.At = 0 }, ""},
		{"a minute before the next", autumn, func(p *Plan) { p.At = clock(23, 59) }, ""},
		{"before midnight", autumn, func(p *Plan) { p.At = -1 }, "plan.starts"},
		{"the shortest", autumn, func(p *Plan) { p.Lasts = 1 }, ""},
		{"a day long", autumn, func(p *Plan) { p.Lasts = 24 * time.Hour }, ""},
		{"longer", autumn, func(p *Plan) { p.Lasts = 24*time.Hour + 1 }, "plan.day_long"},
		{"from the first day", autumn, func(p *Plan) { p.From, p.Weekdays = autumn.First, everyDay }, ""},
		{"from the last", autumn, func(p *Plan) { p.From, p.Weekdays, p.Times = autumn.Last, everyDay, 1 }, ""},
		{"until its first day", autumn, func(p *Plan) { p.Until = p.From }, ""},
		{"until the last day", autumn, func(p *Plan) { p.Until = autumn.Last }, ""},
		{"once", autumn, func(p *Plan) { p.Times = 1 }, ""},
		{"as often as can be", years, func(p *Plan) { p.Weekdays, p.From, p.Times = everyDay, years.First, MaxLectures }, ""},
		{"once more", years, func(p *Plan) { p.Weekdays, p.From, p.Times = everyDay, years.First, MaxLectures+1 },
			"plan.too_many_times"},
		{"as often as can be, by a day", years, func(p *Plan) {
			p.Weekdays, p.From, p.Until = everyDay, years.First, years.First.AddDate(0, 0, MaxLectures-1)
		}, ""},
		{"once more, by a day", years, func(p *Plan) {
			p.Weekdays, p.From, p.Until = everyDay, years.First, years.First.AddDate(0, 0, MaxLectures)
		}, "plan.too_many"},
		{"too short without a break", years, func(p *Plan) { p.From, p.Times = day(2027, 12, 28), 2 }, "plan.short"},
		{"too short for its breaks", autumn, func(p *Plan) { p.Times = 15 }, "plan.short_breaks"},
		{"too short for one day of a break", autumn, func(p *Plan) {
			p.Weekdays, p.From, p.Times = []time.Weekday{time.Thursday}, day(2026, 11, 5), 7
		}, "plan.short_breaks"},
	} {
		p := good
		c.spoil(&p)
		err := p.Check(c.term)
		var f fault.Faults
		switch {
		case c.wrong == "" && err != nil:
			t.Errorf("%s: %v", c.name, err)
		case c.wrong != "" && (!errors.As(err, &f) || len(f) != 1 || f[0].Text.Code != c.wrong):
			t.Errorf("%s: %v, and not %s", c.name, err, c.wrong)
		}
	}
	left := leftOut([]Skipped{{Break: "Regatta"}, {Break: "Regatta"}, {Break: "Ebb"}})
	if left.With["n"] != 3 || left.With["breaks"] != "Regatta, Ebb" {
		t.Errorf("what is left out: %+v", left)
	}
}

func TestTheLongestTerm(t *testing.T) {
	for days, ok := range map[int]bool{0: true, 370: true, 371: false} {
		term := Term{First: day(2026, 1, 1), Last: day(2026, 1, 1).AddDate(0, 0, days)}
		if err := term.Check(); (err == nil) != ok {
			t.Errorf("of %d days: %v", days+1, err)
		}
	}
}

// TestTheSentenceNamesItsDaysInOrder from Monday on, and knows a rhythm of up to four weeks.
func TestTheSentenceNamesItsDaysInOrder(t *testing.T) {
	year := Term{First: day(2026, 1, 1), Last: day(2026, 12, 31)}
	for every, ok := range map[int]bool{1: true, 2: true, 4: true, 5: false} {
		want := Plan{Weekdays: []time.Weekday{time.Monday, time.Wednesday, time.Saturday, time.Sunday}, Every: every,
			From: day(2026, 3, 7), Times: 12} // a Saturday
		days, _ := want.Days(year)
		got, found := Recognise(days, year)
		if found != ok || found && (got.Every != every || len(got.Weekdays) != 4 || got.Weekdays[0] != time.Monday ||
			got.Weekdays[1] != time.Wednesday || got.Weekdays[2] != time.Saturday || got.Weekdays[3] != time.Sunday) {
			t.Errorf("every %d weeks: %+v %v", every, got, found)
		}
	}
}

// TestHowMuchOfARecordingLiesInALecture, in minutes from its start; the lecture lasts an hour.
func TestHowMuchOfARecordingLiesInALecture(t *testing.T) {
	h := Slot{Start: at("10:00"), End: at("11:00")}
	for _, c := range []struct {
		from, until int
		want        float64
	}{
		{0, 60, 1},
		{10, 50, 1},
		{-10, 50, (60 + 50) / 2.0 / 60},
		{10, 70, (60 + 50) / 2.0 / 60},
		{-15, 60, 1},
		{-60, 120, 1}, // longer than the lecture: as if it were as long
		{-40, 20, (35 + 20) / 2.0 / 60},
		{-44, 14, (29 + 14) / 2.0 / 58},
		{-45, 15, (30 + 15) / 2.0 / 60}, // its middle is where a lecture may begin
		{-46, 14, 0},
		{60, 90, 15 / 30.0},
		{75, 105, 0}, // its middle is where it may end no more
		{74, 104, (16 + 0) / 2.0 / 30},
		{90, 120, 0},
		{-60, -15, 0},
		{-30, -10, 0},
		{-20, -5, 10 / 2.0 / 15},
		{20, 20, 0},
		{30, 20, 0},
		{-46, 16, (31 + 16) / 2.0 / 60}, // longer: its middle does not count
	} {
		got := share(h.Start.Add(time.Duration(c.from)*time.Minute), h.Start.Add(time.Duration(c.until)*time.Minute), h)
		if math.Abs(got-c.want) > 1e-9 {
			t.Errorf("from %d to %d: %v, want %v", c.from, c.until, got, c.want)
		}
	}
	if got := share(h.Start, h.End, Slot{Start: h.Start, End: h.Start}); got != 0 {
		t.Errorf("in a lecture of no length: %v", got)
	}
}

func TestDatesThatJustCanBe(t *testing.T) {
	for words, want := range map[string]string{
		"20260101": "2026-01-01 00:00:00", "20261231": "2026-12-31 00:00:00", "20260001": "", "20261301": "",
		"20260100": "", "20260132": "", "20260130": "2026-01-30 00:00:00", "20260131": "2026-01-31 00:00:00",
		"20260101_235959": "2026-01-01 23:59:59 clock", "20260101_240000": "", "20260101_220000": "2026-01-01 22:00:00 clock",
		"20260101_2300": "2026-01-01 23:00:00 clock", "20260101_0000": "2026-01-01 00:00:00 clock",
		"20260113_0900": "2026-01-13 09:00:00 clock", "20261109": "2026-11-09 00:00:00", "20260230_1000": ""} {
		got := ""
		if when, clock, ok := NamedTime(words, shore); ok {
			if got = when.Format(time.DateTime); clock {
				got += " clock"
			}
		} else if strings.Contains(words, "0001") && clock {
			t.Errorf("%q has a clock", words)
		}
		if got != want {
			t.Errorf("%q: %q, want %q", words, got, want)
		}
	}
	for _, words := range []string{"", "20260001_1000", "20260132_1000", "20260101_240000"} {
		if _, clock, _ := NamedTime(words, shore); clock {
			t.Errorf("%q has a clock", words)
		}
	}
}

func TestNamesThatTellSomething(t *testing.T) {
	for name, want := range map[string]bool{"": false, "b2": false, "B 2": false, "tid": true, "Tid 210": true, "ebb": false} {
		if got := names(fold("A b2 Tid-210 of long ago"), name); got != want {
			t.Errorf("%q is named: %v", name, got)
		}
	}
}

// TestTheLastDayOfATermThatIsNoWeek: of the days of teaching of a week only those in the term count.
func TestTheLastDayOfATermThatIsNoWeek(t *testing.T) {
	term := Term{First: day(2026, 9, 9), Last: day(2026, 9, 22), // from a Wednesday to a Tuesday
		Breaks: []Break{{day(2026, 9, 9), day(2026, 9, 11), "Flood"}, {day(2026, 9, 21), day(2026, 9, 22), "Ebb"}}}
	var got []string
	for _, w := range term.Weeks() {
		got = append(got, w.Monday.Format("0102")+w.Break)
	}
	if strings.Join(got, " ") != "0907Flood 0914 0921Ebb" {
		t.Errorf("%q", got)
	}
	term.Breaks[0].Last = day(2026, 9, 10)
	if w := term.Weeks()[0]; w.Break != "" {
		t.Errorf("a week with a Friday of teaching is %+v", w)
	}
	term.Breaks[0] = Break{day(2026, 9, 12), day(2026, 9, 13), "Weekend"}
	if w := term.Weeks()[0]; w.Break != "" {
		t.Errorf("a week whose Saturday is free is %+v", w)
	}
}
