package ical

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"latelantern/internal/core/fault"

	"github.com/teambition/rrule-go"
)

// mostYears is how long after its start a series can go on.
const mostYears = 20

// series expands the events of one UID: those that repeat or stand alone, and those that
// change a date of them.
func series(masters, changes []event, o Options) ([]Lecture, []Fault) {
	var out []Lecture
	var faults []Fault
	var planned []time.Time // of each that the masters give
	for _, m := range masters {
		if len(out) > MostLectures || len(faults) > MostTold {
			return out, faults // what is told of the file as a whole
		}
		starts, fault := m.starts(o)
		if fault != nil {
			faults = append(faults, *fault)
			continue
		}
		for _, t := range starts {
			planned = append(planned, t.start)
			out = append(out, m.lecture(t.start, t.lasts))
		}
	}
	return apply(masters, changes, planned, out), faults
}

// apply puts the changes of single dates, and of all from one on, in the place of what was planned.
func apply(masters, changes []event, planned []time.Time, out []Lecture) []Lecture {
	// Those that change all later ones come first, from the earliest on, so that a later one holds from where it
	// begins and a change of one alone wins. What was revised last holds.
	slices.SortStableFunc(changes, func(a, b event) int {
		switch {
		case a.later && b.later:
			return cmp.Or(a.recurrence.Compare(*b.recurrence), a.sequence-b.sequence)
		case a.later:
			return -1
		case b.later:
			return 1
		}
		return a.sequence - b.sequence
	})
	for _, c := range changes {
		start := c.zone.utc(c.start)
		moved := c.start.Sub(c.zone.wall(*c.recurrence)) // on the wall, so that the hour stays when summer time ends
		if c.recurrenceOn {
			moved = 0
			for _, was := range planned {
				if sameDay(masters, was, *c.recurrence) {
					moved = c.start.Sub(c.zone.wall(was))
				}
			}
		}
		found := false
		for i, was := range planned {
			same := was.Equal(*c.recurrence) || c.recurrenceOn && sameDay(masters, was, *c.recurrence)
			switch {
			case same:
				found = true
				out[i] = c.lecture(start, c.lasts)
			case c.later && was.After(*c.recurrence):
				out[i] = c.lecture(c.zone.utc(c.zone.wall(was).Add(moved)), c.lasts)
			}
		}
		if !found {
			out = append(out, c.lecture(start, c.lasts))
		}
	}
	return out
}

func sameDay(masters []event, t, day time.Time) bool {
	if len(masters) == 0 {
		return false
	}
	y, m, d := masters[0].zone.wall(t).Date()
	return day.Equal(time.Date(y, m, d, 0, 0, 0, 0, time.UTC))
}

func (e event) lecture(start time.Time, lasts time.Duration) Lecture {
	l := Lecture{UID: e.uid, Series: e.related, Start: start, End: start.Add(lasts), Title: e.title, Hall: e.hall,
		CalledOff: e.off, Line: e.n}
	if l.Series == "" {
		l.Series = e.uid
	}
	return l
}

type occurrence struct {
	start time.Time
	lasts time.Duration
}

// starts is the recurrence set of an event (3.8.5): DTSTART, RRULE and RDATE without EXDATE.
func (e event) starts(o Options) ([]occurrence, *Fault) {
	walls := []time.Time{e.start}
	for _, l := range e.lines {
		switch l.name {
		case "EXRULE":
			return nil, &Fault{l.n, fault.Say("calendar.exrule")}
		case "RRULE":
			more, err := e.repeat(l.value, o)
			if err != nil {
				return nil, &Fault{l.n, fault.Of(err)}
			}
			walls = append(walls, more...)
		}
	}
	var out []occurrence
	for _, w := range walls {
		out = append(out, occurrence{e.zone.utc(w), e.lasts})
	}
	for _, l := range e.lines {
		if l.name != "RDATE" {
			continue
		}
		for _, value := range strings.Split(l.value, ",") {
			x, err := e.added(l, value)
			if err != nil {
				return nil, &Fault{l.n, fault.Of(err)}
			}
			out = append(out, x)
		}
	}
	for _, l := range e.lines {
		if l.name != "EXDATE" {
			continue
		}
		for _, value := range strings.Split(l.value, ",") {
			if value = strings.TrimSpace(value); value == "" {
				continue
			}
			wall, z, day, err := e.when(l, value)
			if err != nil {
				return nil, &Fault{l.n, fault.Of(err)}
			}
			out = slices.DeleteFunc(out, func(x occurrence) bool {
				if day {
					return e.zone.wall(x.start).Format(time.DateOnly) == wall.Format(time.DateOnly)
				}
				return x.start.Equal(z.utc(wall))
			})
		}
	}
	slices.SortFunc(out, func(a, b occurrence) int { return a.start.Compare(b.start) })
	out = slices.CompactFunc(out, func(a, b occurrence) bool { return a.start.Equal(b.start) })
	if len(out) > most {
		return nil, &Fault{e.n, fault.Say("calendar.dates", "n", len(out), "most", most)}
	}
	return out, nil
}

// added reads one value of RDATE: a time, or a period (3.3.9) with a length of its own.
func (e event) added(l line, value string) (occurrence, error) {
	from, to, period := strings.Cut(value, "/")
	wall, z, day, err := e.when(l, from)
	if err != nil {
		return occurrence{}, err
	}
	if day {
		return occurrence{}, fault.Say("calendar.rdate_hour")
	}
	x := occurrence{z.utc(wall), e.lasts}
	if !period {
		return x, nil
	}
	if d, ok := readDuration(to); ok {
		x.lasts = d
	} else if wall, z, _, err := e.when(l, to); err == nil {
		x.lasts = z.utc(wall).Sub(x.start)
	} else {
		return x, fault.Say("calendar.period", "value", value)
	}
	if x.lasts < time.Minute || x.lasts > 24*time.Hour {
		return x, fault.Say("calendar.rdate_length")
	}
	return x, nil
}

// noDate says that a rule never matches.
const noDate fault.Code = "calendar.no_date"

// repeat expands RRULE (3.3.10) on the wall of the zone, so that the hour stays when summer
// time ends. Its error is a fault.Text.
func (e event) repeat(value string, o Options) ([]time.Time, error) {
	r, err := readRule(value)
	if err != nil {
		return nil, err
	}
	if r.Freq > rrule.DAILY || !at(r.Byhour, e.start.Hour()) || !at(r.Byminute, e.start.Minute()) ||
		!at(r.Bysecond, e.start.Second()) {
		return nil, fault.Say("calendar.within_day")
	}
	r.Byhour, r.Byminute, r.Bysecond = nil, nil, nil
	if r.Count > most {
		return nil, fault.Say("calendar.count", "n", r.Count, "most", most)
	}
	farthest, end := e.start.AddDate(mostYears, 0, 0), r.Until
	switch {
	case !end.IsZero():
		// In UTC (with Z), as a time on the wall, or as a day, which counts whole.
		if r.untilUTC {
			end = e.zone.wall(end)
		} else if r.untilDay {
			end = end.Add(24*time.Hour - time.Second)
		}
	case r.Count > 0:
	case o.Until.IsZero():
		return nil, fault.Say("calendar.endless")
	default:
		end = e.zone.wall(o.Until)
	}
	r.Dtstart, r.Until = e.start, end
	var out []time.Time
	var over fault.Text
	err = r.each(mostYears+1, func(t time.Time) bool {
		if t.After(farthest) {
			over = fault.Say("calendar.years", "most", mostYears)
		} else if out = append(out, t); len(out) > most {
			over = fault.Say("calendar.times", "most", most)
		}
		return over.None()
	})
	switch {
	case err != nil:
		return nil, fault.Say("calendar.rule_fault", "why", err.Error())
	case !over.None():
		return nil, over
	case len(out) == 0 && !end.IsZero() && end.Before(e.start):
		return nil, fault.Say("calendar.until")
	case len(out) == 0:
		return nil, fault.Say(noDate)
	case r.Count > 0 && len(out) < r.Count:
		return nil, fault.Say("calendar.short", "of", r.Count, "n", len(out))
	}
	return out, nil
}

// at reports whether a part of a rule says nothing but what the start says.
func at(values []int, start int) bool {
	return len(values) == 0 || len(values) == 1 && values[0] == start
}
