package viewing

import (
	"slices"
	"time"

	"latelantern/internal/core/fault"
)

// Audience is whom of a course a rule speaks of.
type Audience string

const (
	Everyone Audience = "everyone" // all enrolled people of the course
	Groups   Audience = "groups"   // only those in the named groups
)

// From is the moment a rule begins to hold.
type From string

const (
	FromOnce    From = "once"    // as soon as there is something to watch
	FromLecture From = "lecture" // the planned end of the lecture, or of the capture if that came first
	FromDays    From = "days"    // DaysAfterLecture times 24 hours after that
	FromDate    From = "date"    // FromAt
)

// Until is the moment a rule ceases to hold.
type Until string

const (
	UntilTerm Until = "term" // DaysAfterTerm days after the last day of term, at its end
	UntilDate Until = "date" // UntilAt
	UntilEver Until = "ever" // no end
)

// MostDays is how many days after a lecture or a term a rule can name.
const MostDays = 3650

// Window is from when to when a right holds.
type Window struct {
	From             From
	FromAt           time.Time // for FromDate
	DaysAfterLecture int       // for FromDays, 1 to MostDays
	Until            Until
	UntilAt          time.Time // for UntilDate
	DaysAfterTerm    int       // for UntilTerm, 0 to MostDays
}

// Rule is the viewing rule of the college, of a course, or of one recording in it, as its sentence says it.
type Rule struct {
	Audience Audience
	Groups   []string // for Groups, at least one
	Uses     Uses     // ToWatch at least
	Window
}

// Check reports, in a sentence that can be shown, why r is not a rule.
func (r Rule) Check() error {
	switch {
	case r.Audience != Everyone && r.Audience != Groups:
		return fault.Say("rule.audience")
	case r.Audience == Groups && len(r.Groups) == 0:
		return fault.Say("rule.group")
	case !r.Uses.Has(ToWatch):
		return fault.Say("rule.watch")
	}
	return r.Window.Check()
}

// Check reports, in a sentence that can be shown, why w is not a window.
func (w Window) Check() error {
	days := func(n, least int) bool { return n >= least && n <= MostDays }
	switch {
	case w.From != FromOnce && w.From != FromLecture && w.From != FromDays && w.From != FromDate:
		return fault.Say("rule.from")
	case w.From == FromDate && w.FromAt.IsZero():
		return fault.Say("rule.from_date")
	case w.From == FromDays && !days(w.DaysAfterLecture, 1):
		return fault.Say("rule.days_after")
	case w.Until != UntilTerm && w.Until != UntilDate && w.Until != UntilEver:
		return fault.Say("rule.until")
	case w.Until == UntilDate && w.UntilAt.IsZero():
		return fault.Say("rule.until_date")
	case w.Until == UntilTerm && !days(w.DaysAfterTerm, 0):
		return fault.Say("rule.days")
	case w.From == FromDate && w.Until == UntilDate && !w.FromAt.Before(w.UntilAt):
		return fault.Say("rule.never")
	}
	return nil
}

// Covers reports whether r speaks of the students of a group, "" for those in none.
func (r Rule) Covers(group string) bool {
	return r.Audience == Everyone || r.Audience == Groups && slices.Contains(r.Groups, group)
}

// Opens is when w begins to hold for a recording; the zero time is from the beginning.
func (w Window) Opens(x Release) time.Time {
	switch w.From {
	case FromOnce:
		return time.Time{}
	case FromDate:
		return w.FromAt
	case FromDays:
		return x.LectureEnd.Add(time.Duration(w.DaysAfterLecture) * 24 * time.Hour)
	}
	return x.LectureEnd
}

// Closes is when w ceases to hold for a recording; ok is false when it never does.
func (w Window) Closes(x Release) (at time.Time, ok bool) {
	switch w.Until {
	case UntilDate:
		return w.UntilAt, true
	case UntilTerm:
		return x.TermEnd.AddDate(0, 0, w.DaysAfterTerm), true
	}
	return time.Time{}, false
}

// Holds reports whether w is open for a recording now.
func (w Window) Holds(x Release, now time.Time) bool { return w.at(x, now) == "" }

// at says why a window is closed now; empty for one that is open. One of a kind that there is not is closed.
func (w Window) at(x Release, now time.Time) Reason {
	known := w.From == FromOnce || w.From == FromLecture || w.From == FromDays || w.From == FromDate
	if !known || now.Before(w.Opens(x)) {
		return NotYet
	}
	end, ends := w.Closes(x)
	if !ends && w.Until != UntilEver || ends && !now.Before(end) {
		return NoLonger
	}
	return ""
}
