package timetable

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"latelantern/internal/core/fault"
)

// MaxLectures is how many lectures one plan can hold: more than any term has days.
const MaxLectures = 400

// Plan is lectures that repeat by the week, as its sentence says it.
type Plan struct {
	Weekdays   []time.Weekday // at least one
	Every      int            // weeks from one to the next: 1 for each week, at most 12
	At         time.Duration  // time of day at which they begin, in the zone of the college
	Lasts      time.Duration  // at most a day
	From       Day            // no lecture before it
	Times      int            // how many, when Until is zero
	Until      Day            // no lecture after it
	OverBreaks bool           // also on days of a break
}

// Skipped is a day that a plan leaves out because it lies in a break.
type Skipped struct {
	Day   Day
	Break string
}

// Check reports everything that is wrong with p in a term, each fault at its field.
func (p Plan) Check(t Term) error {
	var f fault.Faults
	f.When(len(p.Weekdays) == 0, "weekdays", "plan.weekdays")
	f.When(p.Every < 1 || p.Every > 12, "every", "plan.every")
	f.When(p.At < 0 || p.At >= 24*time.Hour, "starts", "plan.starts")
	f.When(p.Lasts <= 0, "ends", "plan.turned")
	f.When(p.Lasts > 24*time.Hour, "ends", "plan.day_long")
	switch {
	case p.From.IsZero():
		f.Add("from", "plan.from")
	case p.From.Before(t.First):
		f.Add("from", "plan.before_term", "day", fault.Day{Time: t.First})
	case p.From.After(t.Last):
		f.Add("from", "plan.from_after_term", "day", fault.Day{Time: t.Last})
	}
	switch {
	case p.Until.IsZero() && p.Times < 1:
		f.Add("times", "plan.times")
	case p.Until.IsZero() && p.Times > MaxLectures:
		f.Add("times", "plan.too_many_times", "most", MaxLectures, "n", p.Times)
	case !p.Until.IsZero() && p.Until.Before(p.From):
		f.Add("until", "plan.until_turned")
	case p.Until.After(t.Last):
		f.Add("until", "plan.until_after_term", "day", fault.Day{Time: t.Last})
	}
	if len(f) > 0 {
		return f
	}
	days, skipped := p.Days(t)
	switch {
	case len(days) == 0 && len(skipped) > 0:
		f.Add("until", "plan.all_breaks")
	case len(days) == 0:
		f.Add("until", "plan.no_days")
	case p.Until.IsZero() && len(days) < p.Times && len(skipped) > 0:
		f.Add("times", "plan.short_breaks", "n", len(days), "of", p.Times, "day", fault.Day{Time: t.Last}, "out",
			leftOut(skipped))
	case p.Until.IsZero() && len(days) < p.Times:
		f.Add("times", "plan.short", "n", len(days), "of", p.Times, "day", fault.Day{Time: t.Last})
	case len(days) > MaxLectures:
		f.Add("until", "plan.too_many", "most", MaxLectures)
	}
	return f.Err()
}

// leftOut says how many days of a plan lie in a break, and in which.
func leftOut(skipped []Skipped) fault.Text {
	var names []string
	for _, s := range skipped {
		if !slices.Contains(names, s.Break) {
			names = append(names, s.Break)
		}
	}
	return fault.Say("plan.left_out", "n", len(skipped), "breaks", strings.Join(names, ", "))
}

// Days lists the days of p that lie in the term, in order, and those that it leaves out for
// a break. A plan with Times may end early, at the last day of the term.
func (p Plan) Days(t Term) (held []Day, skipped []Skipped) {
	last := t.Last
	if !p.Until.IsZero() && p.Until.Before(last) {
		last = p.Until
	}
	every := max(1, p.Every)
	first := Monday(p.From)
	for d := p.From; !d.After(last) && len(held) <= MaxLectures; d = d.AddDate(0, 0, 1) {
		if p.Until.IsZero() && len(held) == p.Times {
			break
		}
		weeks := int(Monday(d).Sub(first).Hours()+12) / (7 * 24)
		if weeks%every != 0 || !slices.Contains(p.Weekdays, d.Weekday()) {
			continue
		}
		if name, in := t.InBreak(d); in && !p.OverBreaks {
			skipped = append(skipped, Skipped{d, name})
			continue
		}
		held = append(held, d)
	}
	return held, skipped
}

// Slot is when the lecture of a day begins and ends. The hands of the college's clock count
// for its beginning, so that a plan keeps its hour when summer time ends; its length is real time.
func (p Plan) Slot(d Day, zone *time.Location) (start, end time.Time) {
	start = On(d, p.At, zone)
	return start, start.Add(p.Lasts)
}

// On is a time of day on a date in a zone, in UTC.
func On(d Day, at time.Duration, zone *time.Location) time.Time {
	return time.Date(d.Year(), d.Month(), d.Day(), 0, int(at.Minutes()), 0, 0, zone).UTC()
}

// ClockOf is the time of day of t in a zone.
func ClockOf(t time.Time, zone *time.Location) time.Duration {
	h, m, _ := t.In(zone).Clock()
	return time.Duration(h)*time.Hour + time.Duration(m)*time.Minute
}

// InBreak is the break that d lies in.
func (t Term) InBreak(d Day) (name string, in bool) {
	for _, b := range t.Breaks {
		if !d.Before(b.First) && !d.After(b.Last) {
			return b.Name, true
		}
	}
	return "", false
}

// Contains reports whether d lies in the term.
func (t Term) Contains(d Day) bool { return !d.Before(t.First) && !d.After(t.Last) }

// Check reports everything that is wrong with the term itself.
func (t Term) Check() error {
	var f fault.Faults
	f.When(t.First.IsZero(), "first_day", "day.first")
	f.When(t.Last.IsZero(), "last_day", "day.last")
	if len(f) == 0 {
		f.When(t.Last.Before(t.First), "last_day", "term.turned")
		f.When(t.Last.Sub(t.First) > 370*24*time.Hour, "last_day", "term.long")
	}
	for i, b := range t.Breaks {
		field := fmt.Sprintf("breaks.%d", i)
		switch {
		case b.First.IsZero() || b.Last.IsZero():
			f.Add(field, "break.days")
		case b.Last.Before(b.First):
			f.Add(field, "break.turned")
		case b.Name == "":
			f.Add(field, "break.name")
		case len(f) == 0 && (!t.Contains(b.First) || !t.Contains(b.Last)):
			f.Add(field, "break.outside")
		}
		for _, earlier := range t.Breaks[:i] {
			f.When(!b.First.After(earlier.Last) && !b.Last.Before(earlier.First), field, "break.overlaps", "name",
				earlier.Name)
		}
	}
	return f.Err()
}

// Recognise finds the sentence of a plan that is held on exactly these days, which must be in
// order; ok is false when no weekly plan is. The rest of the plan is up to the caller.
func Recognise(days []Day, t Term) (p Plan, ok bool) {
	if len(days) == 0 {
		return Plan{}, false
	}
	p = Plan{From: days[0], Times: len(days)}
	for _, d := range days {
		if !slices.Contains(p.Weekdays, d.Weekday()) {
			p.Weekdays = append(p.Weekdays, d.Weekday())
		}
	}
	slices.SortFunc(p.Weekdays, func(a, b time.Weekday) int { return (int(a)+6)%7 - (int(b)+6)%7 })
	for p.Every = 1; p.Every <= 4; p.Every++ {
		for _, p.OverBreaks = range []bool{false, true} {
			if held, _ := p.Days(t); slices.EqualFunc(held, days, Day.Equal) {
				return p, true
			}
		}
	}
	return Plan{}, false
}
