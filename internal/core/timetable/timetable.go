// Package timetable knows terms with their weeks and breaks, plans and the lectures they
// make, and which lectures clash.
package timetable

import (
	"time"
)

// Day is a date without a clock or a zone: midnight UTC of that date.
type Day = time.Time

// DayOf is the date that t falls on in the zone of the college.
func DayOf(t time.Time, zone *time.Location) Day {
	y, m, d := t.In(zone).Date()
	return time.Date(y, m, d, 0, 0, 0, 0, time.UTC)
}

// Break is a run of days without teaching; First and Last both belong to it.
type Break struct {
	First, Last Day
	Name        string
}

// Term is a stretch of teaching; First and Last both belong to it.
type Term struct {
	First, Last Day
	Breaks      []Break
}

// Week is one row of a calendar: seven days from a Monday.
type Week struct {
	Monday Day
	Number int    // of teaching, from 1; 0 in a week that is wholly a break
	Break  string // its name, when Number is 0
}

// Monday is the Monday on or before d.
func Monday(d Day) Day { return d.AddDate(0, 0, -(int(d.Weekday())+6)%7) }

// Weeks lists the weeks of the term in order. They are numbered from the first week of
// teaching; a week all of whose teaching days (Monday to Friday, inside the term) lie in
// breaks is not counted.
func (t Term) Weeks() []Week {
	var out []Week
	number := 0
	for m := Monday(t.First); !m.After(t.Last); m = m.AddDate(0, 0, 7) {
		w := Week{Monday: m}
		if name, off := t.off(m); off {
			w.Break = name
		} else {
			number++
			w.Number = number
		}
		out = append(out, w)
	}
	return out
}

// WeekOf is the week that d falls in; ok is false outside the term.
func (t Term) WeekOf(d Day) (w Week, ok bool) {
	monday := Monday(d)
	for _, w := range t.Weeks() {
		if w.Monday.Equal(monday) {
			return w, true
		}
	}
	return Week{}, false
}

// off reports whether the week from monday has no day of teaching, and the name of the break.
func (t Term) off(monday Day) (name string, off bool) {
	for i := range 5 {
		d := monday.AddDate(0, 0, i)
		if d.Before(t.First) || d.After(t.Last) {
			continue
		}
		b, in := t.InBreak(d)
		if !in {
			return "", false
		}
		name = b
	}
	return name, name != ""
}

// When the night begins, when nobody looks after what comes in any more, and when it ends; on
// the clock of the college.
const (
	dusk = 18
	dawn = 8
)

// Night is the night before the day of now, or the one that now lies in: [from, until). After
// the end of a working day it is the night that begins.
func Night(now time.Time, zone *time.Location) (from, until time.Time) {
	day := DayOf(now, zone)
	if now.In(zone).Hour() >= dusk {
		day = day.AddDate(0, 0, 1)
	}
	return On(day.AddDate(0, 0, -1), dusk*time.Hour, zone), On(day, dawn*time.Hour, zone)
}
