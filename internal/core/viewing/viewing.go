// Package viewing decides who may watch a recording, and says why.
//
// Nothing here is stored: a decision follows from the releases of the recording, the rule and the roster of
// each course, and the clock, each time it is asked for. The same decisions are computed for whole
// rosters by one SQL statement in the audience package; a test holds the two together.
package viewing

import (
	"cmp"
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
	FromLecture From = "lecture" // the planned end of the lecture, or of the capture if that came first
	FromDate    From = "date"    // FromAt
)

// Until is the moment a rule ceases to hold.
type Until string

const (
	UntilTerm Until = "term" // DaysAfterTerm days after the last day of term, at its end
	UntilDate Until = "date" // UntilAt
	UntilEver Until = "ever" // no end
)

// Rule is the viewing rule of a course, or of one recording in it, as its sentence says it.
type Rule struct {
	Audience      Audience
	Groups        []string // for Groups, at least one
	Download      bool     // may also take a copy away
	From          From
	FromAt        time.Time // for FromDate
	Until         Until
	UntilAt       time.Time // for UntilDate
	DaysAfterTerm int       // for UntilTerm, 0 to 3650
}

// Check reports, in a sentence that can be shown, why r is not a rule.
func (r Rule) Check() error {
	switch {
	case r.Audience != Everyone && r.Audience != Groups:
		return fault.Say("rule.audience")
	case r.Audience == Groups && len(r.Groups) == 0:
		return fault.Say("rule.group")
	case r.From != FromLecture && r.From != FromDate:
		return fault.Say("rule.from")
	case r.From == FromDate && r.FromAt.IsZero():
		return fault.Say("rule.from_date")
	case r.Until != UntilTerm && r.Until != UntilDate && r.Until != UntilEver:
		return fault.Say("rule.until")
	case r.Until == UntilDate && r.UntilAt.IsZero():
		return fault.Say("rule.until_date")
	case r.Until == UntilTerm && (r.DaysAfterTerm < 0 || r.DaysAfterTerm > 3650):
		return fault.Say("rule.days")
	case r.From == FromDate && r.Until == UntilDate && !r.FromAt.Before(r.UntilAt):
		return fault.Say("rule.never")
	}
	return nil
}

// Covers reports whether r speaks of the students of a group, "" for those in none.
func (r Rule) Covers(group string) bool {
	return r.Audience != Groups || slices.Contains(r.Groups, group)
}

// Role is what a person is in a course.
type Role string

const (
	Nobody    Role = ""
	Student   Role = "student"
	Assistant Role = "assistant"
	Lecturer  Role = "lecturer"
)

// Staff reports whether p teaches: such a person sees the recordings of the course at any time.
func (p Role) Staff() bool { return p == Lecturer || p == Assistant }

// Viewer is one person as one course knows them.
type Viewer struct {
	Coordinator bool // of the whole college
	Role        Role
	Group       string // "" for none
	// ShutUntil is when the person, shut out of the recording or of the course, comes in again; zero for nobody shut out.
	ShutUntil time.Time
}

// ForGood is until when someone is shut out for whom no end was named.
var ForGood = time.Date(9999, 1, 1, 0, 0, 0, 0, time.UTC)

// Release is a recording as one course has it: what a decision needs to know of it.
type Release struct {
	Own        bool      // the course is that of its lecture
	Watchable  bool      // an edition of it exists
	Lit        bool      // for this course
	LectureEnd time.Time // what "the end of the lecture" means: see LectureEnd
	TermEnd    time.Time // the end of the last day of the term of the course, in the zone of the college
}

// Reason is why a person can or cannot watch.
type Reason string

const (
	AsStaff     Reason = "staff"        // teaches the course or coordinates the college
	ByRule      Reason = "rule"         // the rule lets them
	ShutOut     Reason = "shut_out"     // shut out of the recording, or of what the course has
	NotEnrolled Reason = "not_enrolled" // not on the roster of the course
	NotLit      Reason = "not_lit"      // not, or not yet, lit for the course
	NoRule      Reason = "no_rule"      // the course has no viewing rule
	OtherGroup  Reason = "other_group"  // the rule speaks of groups that the person is not in
	NotYet      Reason = "not_yet"      // before the start of the rule
	NoLonger    Reason = "no_longer"    // after its end
)

// Decision is the answer for one person and one recording.
type Decision struct {
	Watch    bool
	Download bool
	Reason   Reason
}

// Opens is when r begins to hold for the recording.
func (r Rule) Opens(x Release) time.Time {
	if r.From == FromDate {
		return r.FromAt
	}
	return x.LectureEnd
}

// Closes is when r ceases to hold for the recording; ok is false when it never does.
func (r Rule) Closes(x Release) (at time.Time, ok bool) {
	switch r.Until {
	case UntilDate:
		return r.UntilAt, true
	case UntilTerm:
		return x.TermEnd.AddDate(0, 0, r.DaysAfterTerm), true
	}
	return time.Time{}, false
}

// Way is one way in to a recording: the course of a release as it knows a person, and the rule that holds there.
type Way struct {
	Rule    *Rule // the one of the release, else that of the course; nil when there is none
	Viewer  Viewer
	Release Release
}

// Decide says whether one may watch by w now. Who teaches the course of the lecture sees its recordings at any time;
// who teaches another course that one is lit for sees it as long as it is.
func (w Way) Decide(now time.Time) Decision {
	no := func(why Reason) Decision { return Decision{Reason: why} }
	shown := w.Release.Lit && w.Release.Watchable
	switch {
	case w.Viewer.Coordinator, w.Viewer.Role.Staff() && (w.Release.Own || shown):
		return Decision{Watch: true, Download: true, Reason: AsStaff}
	case w.Viewer.Role != Student && !w.Viewer.Role.Staff():
		return no(NotEnrolled)
	case now.Before(w.Viewer.ShutUntil):
		return no(ShutOut)
	case !shown:
		return no(NotLit)
	case w.Rule == nil:
		return no(NoRule)
	case !w.Rule.Covers(w.Viewer.Group):
		return no(OtherGroup)
	case now.Before(w.Rule.Opens(w.Release)):
		return no(NotYet)
	}
	if end, ends := w.Rule.Closes(w.Release); ends && !now.Before(end) {
		return no(NoLonger)
	}
	return Decision{Watch: true, Download: w.Rule.Download, Reason: ByRule}
}

// nearness are the reasons from the one that lets in to the one that is furthest from it.
var nearness = []Reason{AsStaff, ByRule, NotYet, ShutOut, OtherGroup, NoLonger, NoRule, NotLit, NotEnrolled}

// Decide says whether one may watch now by any of the ways, and by which: the best one lets them in, and where none
// does the reason is that of the one that came nearest. Of no ways at all, -1, nobody is enrolled.
func Decide(ways []Way, now time.Time) (Decision, int) {
	best, by := Decision{Reason: NotEnrolled}, -1
	for i, w := range ways {
		d := w.Decide(now)
		if by < 0 || compare(d, best) < 0 {
			best, by = d, i
		}
	}
	return best, by
}

func compare(a, b Decision) int {
	if c := cmp.Compare(slices.Index(nearness, a.Reason), slices.Index(nearness, b.Reason)); c != 0 ||
		a.Download == b.Download {
		return c
	}
	if a.Download {
		return -1
	}
	return 1
}

// Light is the state of a recording in one course.
type Light string

const (
	Dark    Light = "dark"     // nobody enrolled can watch
	PartLit Light = "part_lit" // some can
	Lit     Light = "lit"      // all can
)

// Count is how many of the enrolled students of a course can watch.
type Count struct {
	Can, Of int
}

// Light is the state that the count shows. A course without students is dark.
func (c Count) Light() Light {
	switch {
	case c.Can == 0:
		return Dark
	case c.Can < c.Of:
		return PartLit
	}
	return Lit
}

// LectureEnd is when a lecture counts as over for those who watch its recording: when the
// capture was stopped, if that was within the planned time. What was recorded ahead is not
// shown before the lecture was to begin. stopped is nil while nobody has stopped.
func LectureEnd(start, end time.Time, stopped *time.Time) time.Time {
	switch {
	case stopped == nil || stopped.After(end):
		return end
	case stopped.Before(start):
		return start
	}
	return *stopped
}

// Learns reports whether v learns that a lecture is there at all, by any answer. Of a private one, to which nobody
// was invited, students learn once they can open its recording; what they may not see is not there.
func Learns(v Viewer, private, open bool) bool {
	return v.Coordinator || v.Role.Staff() || v.Role == Student && (!private || open)
}
