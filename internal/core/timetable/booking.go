package timetable

import (
	"cmp"
	"slices"
	"time"
)

// Booking is a lecture as it takes up a hall, its lecturers and its course. Start and End
// are half-open: one that ends when another begins does not clash with it.
type Booking struct {
	ID         string // "" for one that is not kept yet
	Course     string
	Hall       string // "" for none
	Lecturers  []string
	Start, End time.Time
}

// Clash says that a booking cannot stand beside another, and why.
type Clash struct {
	With     Booking
	Hall     bool // the hall is taken
	Course   bool // the course is elsewhere
	Lecturer string
}

// Any reports whether there is a clash at all.
func (c Clash) Any() bool { return c.Hall || c.Course || c.Lecturer != "" }

func between(a, b Booking) Clash {
	c := Clash{With: b}
	if !a.Start.Before(b.End) || !b.Start.Before(a.End) || a.ID != "" && a.ID == b.ID {
		return c
	}
	c.Hall = a.Hall != "" && a.Hall == b.Hall
	c.Course = a.Course == b.Course
	for _, l := range a.Lecturers {
		if slices.Contains(b.Lecturers, l) {
			c.Lecturer = l
			break
		}
	}
	return c
}

// Clashes finds for each of the new bookings what it clashes with, in order of time: among
// those that stand, and among the other new ones. One that stands and has the ID of a new
// one is that one before its change, and counts no more.
func Clashes(added, standing []Booking) [][]Clash {
	replaced := map[string]bool{}
	for _, b := range added {
		if b.ID != "" {
			replaced[b.ID] = true
		}
	}
	type place struct {
		Booking
		at int // among the added, or -1
	}
	all := make([]place, 0, len(added)+len(standing))
	for i, b := range added {
		all = append(all, place{b, i})
	}
	for _, b := range standing {
		if !replaced[b.ID] {
			all = append(all, place{b, -1})
		}
	}
	slices.SortStableFunc(all, func(a, b place) int {
		return cmp.Or(a.Start.Compare(b.Start), a.End.Compare(b.End))
	})
	out := make([][]Clash, len(added))
	var open []place // those that may still go on
	for _, x := range all {
		open = slices.DeleteFunc(open, func(o place) bool { return !x.Start.Before(o.End) })
		for _, o := range open {
			if x.at < 0 && o.at < 0 {
				continue
			}
			if c := between(x.Booking, o.Booking); c.Any() {
				if x.at >= 0 {
					out[x.at] = append(out[x.at], c)
				}
				if o.at >= 0 {
					c.With = x.Booking
					out[o.at] = append(out[o.at], c)
				}
			}
		}
		open = append(open, x)
	}
	return out
}

// Held is a lecture that stands in a plan.
type Held struct {
	ID         string
	Start, End time.Time
	Moved      bool // by hand, away from where its plan had it
	Captured   bool // it has happened, so it stays where it was
}

// Shift is how lectures move: from the day they are on by some days, and to another time of
// day and another length where those are given.
type Shift struct {
	Days  int
	At    *time.Duration
	Lasts *time.Duration // more than 0
}

// Move is where a lecture goes.
type Move struct {
	ID         string
	Start, End time.Time
	Stays      bool // it is left where it is: it was captured, or moved by hand before
}

// ShiftOne moves one lecture.
func ShiftOne(h Held, s Shift, zone *time.Location) Move {
	at, lasts := ClockOf(h.Start, zone), h.End.Sub(h.Start)
	if s.At != nil {
		at = *s.At
	}
	if s.Lasts != nil {
		lasts = *s.Lasts
	}
	start := On(DayOf(h.Start, zone).AddDate(0, 0, s.Days), at, zone)
	return Move{ID: h.ID, Start: start, End: start.Add(lasts)}
}

// ShiftLater moves the lecture named first and every later one of its plan, which held lists
// in order. Days move only those on the same day of the week as the first; time of day
// and length change for all. Each keeps its own week. One that was captured, or that was moved by
// hand, stays where it is, but for the first itself.
func ShiftLater(held []Held, first string, s Shift, zone *time.Location) []Move {
	at := slices.IndexFunc(held, func(h Held) bool { return h.ID == first })
	if at < 0 {
		return nil
	}
	weekday := DayOf(held[at].Start, zone).Weekday()
	var out []Move
	for i, h := range held[at:] {
		if i > 0 && (h.Captured || h.Moved) {
			out = append(out, Move{h.ID, h.Start, h.End, true})
			continue
		}
		x := s
		if DayOf(h.Start, zone).Weekday() != weekday {
			x.Days = 0
		}
		out = append(out, ShiftOne(h, x, zone))
	}
	return out
}

// Nearest picks the one lecture that someone means who asks for "the lecture" at a time: the
// one under way, else the next of the same day, else the last of that day, else the
// next of any day. It is -1 when none is left. Those called off must be left out before.
func Nearest(bookings []Booking, now time.Time, zone *time.Location) int {
	today := DayOf(now, zone)
	best, rank := -1, 5
	better := func(i, r int) {
		if r < rank || r == rank && (r == 2) != bookings[i].Start.Before(bookings[best].Start) {
			best, rank = i, r
		}
	}
	for i, b := range bookings {
		switch onDay := DayOf(b.Start, zone).Equal(today); {
		case !b.Start.After(now) && now.Before(b.End):
			better(i, 0)
		case onDay && b.Start.After(now):
			better(i, 1)
		case onDay:
			better(i, 2)
		case b.Start.After(now):
			better(i, 3)
		}
	}
	return best
}
