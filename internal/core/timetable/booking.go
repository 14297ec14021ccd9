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

// keys are what a booking takes up: two that overlap clash if they share any of them.
func (b Booking) keys() []string {
	out := []string{"course " + b.Course}
	if b.Hall != "" {
		out = append(out, "hall "+b.Hall)
	}
	for _, l := range b.Lecturers {
		out = append(out, "lecturer "+l)
	}
	return out
}

// placed is a booking in the order of time.
type placed struct {
	Booking
	at int // among the added, or -1
}

// taken is what goes on with one key at a moment of the sweep.
type taken struct {
	until time.Time // the last end of any booking
	quiet []placed  // added ones that a later one may still clash with
	open  []placed  // those that may still go on, as long as clashes are told
}

// sweep goes through bookings in the order of their starts.
type sweep struct {
	by       map[string]*taken
	left     int // clashes that are still told
	found    [][]Clash
	clashing []bool
}

// Clashes finds which of the new bookings clash: with those that stand, or with other new ones. One that stands and has
// the ID of a new one is that one before its change, and counts no more. With what each clashes is told in order of
// time, up to most pairs of all together: so many at one time could clash that to tell all grows with their square.
func Clashes(added, standing []Booking, most int) (found [][]Clash, clashing []bool) {
	replaced := map[string]bool{}
	for _, b := range added {
		if b.ID != "" {
			replaced[b.ID] = true
		}
	}
	all := make([]placed, 0, len(added)+len(standing))
	for i, b := range added {
		all = append(all, placed{b, i})
	}
	for _, b := range standing {
		if !replaced[b.ID] {
			all = append(all, placed{b, -1})
		}
	}
	slices.SortStableFunc(all, func(a, b placed) int {
		return cmp.Or(a.Start.Compare(b.Start), a.End.Compare(b.End))
	})
	s := sweep{map[string]*taken{}, most, make([][]Clash, len(added)), make([]bool, len(added))}
	for _, x := range all {
		if s.left > 0 {
			s.tell(x)
		}
		s.mark(x)
	}
	return s.found, s.clashing
}

// mark finds out whether x clashes with anything that goes on, and with it what is still quiet, each at most once.
func (s *sweep) mark(x placed) {
	for _, key := range x.keys() {
		t := s.by[key]
		if t == nil {
			t = &taken{}
			s.by[key] = t
		}
		if x.at >= 0 && x.Start.Before(t.until) {
			s.clashing[x.at] = true
		}
		for _, o := range t.quiet {
			if x.Start.Before(o.End) {
				s.clashing[o.at] = true
			}
		}
		t.quiet = t.quiet[:0]
		if x.at >= 0 {
			t.quiet = append(t.quiet, x)
		}
		if t.until.Before(x.End) {
			t.until = x.End
		}
		if s.left > 0 {
			t.open = append(t.open, x)
		} else {
			t.open = nil
		}
	}
}

// tell tells of x and of each one that goes on what they clash with, as long as any are told.
func (s *sweep) tell(x placed) {
	var with []placed
	for _, key := range x.keys() {
		t := s.by[key]
		if t == nil {
			continue
		}
		t.open = slices.DeleteFunc(t.open, func(o placed) bool { return !x.Start.Before(o.End) })
		for _, o := range t.open {
			again := slices.ContainsFunc(with,
				func(w placed) bool { return w.at == o.at && w.ID == o.ID && w.Start.Equal(o.Start) })
			if (x.at >= 0 || o.at >= 0) && !again {
				with = append(with, o)
			}
		}
	}
	for _, o := range with {
		c := between(x.Booking, o.Booking)
		if !c.Any() || s.left <= 0 {
			continue
		}
		s.left--
		if x.at >= 0 {
			s.found[x.at] = append(s.found[x.at], c)
		}
		if o.at >= 0 {
			c.With = x.Booking
			s.found[o.at] = append(s.found[o.at], c)
		}
	}
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
