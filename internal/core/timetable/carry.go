package timetable

import "time"

// Carry is the day of another term that d is in this one: the same weekday of the same week of teaching. It is false
// for a day outside the weeks of this term or in a week without teaching, for one that the other term does not have,
// and for one that lies in a break there.
func (t Term) Carry(d Day, to Term) (Day, bool) {
	week, ok := t.WeekOf(d)
	if !ok || week.Number == 0 {
		return Day{}, false
	}
	for _, w := range to.Weeks() {
		if w.Number != week.Number {
			continue
		}
		out := w.Monday.Add(d.Sub(week.Monday))
		_, off := to.InBreak(out)
		return out, to.Contains(out) && !off
	}
	return Day{}, false
}

// Near is the day of another term that is to it what d is to this one: the same where it can be carried, else as far
// from its beginning, or after its end as far from that.
func (t Term) Near(d Day, to Term) Day {
	if out, ok := t.Carry(d, to); ok {
		return out
	}
	if d.After(t.Last) {
		return to.Last.Add(d.Sub(t.Last))
	}
	return to.First.Add(d.Sub(t.First))
}

// Dated is a term in the zone of its college.
type Dated struct {
	Term
	Zone *time.Location
}

// Near is the moment of another term that at is in this one: on the day that Term.Near gives, at the same clock.
func (t Dated) Near(at time.Time, to Dated) time.Time {
	return On(t.Term.Near(DayOf(at, t.Zone), to.Term), ClockOf(at, t.Zone), to.Zone)
}

// Carried is what of the plans of a course came to another term.
type Carried struct {
	Change          [16]byte // by which it came; zero for none
	Plans, Lectures int
	First, Last     time.Time // of the lectures; zero for none
	Left            int       // lectures for which the other term has no day
	Clashing        int       // lectures that are at the same time as others, in the same hall or of the same people
}
