// Package viewing decides who may watch a recording, and says why.
//
// Nothing here is stored: a decision follows from the releases of the recording, the rule and the roster of
// each course, and the clock, each time it is asked for. The same decisions are computed for whole
// rosters by one SQL statement in the audience package; a test holds the two together.
package viewing

import (
	"cmp"
	"math/bits"
	"slices"
	"time"

	"latelantern/internal/core/fault"
)

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
	ByOpening   Reason = "opening"      // it was opened to them beside any course
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
	Uses   Uses
	Reason Reason
}

// Watch reports whether they may watch it.
func (d Decision) Watch() bool { return d.Uses.Has(ToWatch) }

// Opening is a right beside any course.
type Opening struct {
	Uses Uses // ToWatch at least
	Window
}

// Check reports, in a sentence that can be shown, why o is not an opening.
func (o Opening) Check() error {
	if !o.Uses.Has(ToWatch) {
		return fault.Say("rule.watch")
	}
	return o.Window.Check()
}

// Way is one way in to a recording: the course of a release as it knows a person, and the rule that holds there; or an
// opening that is for the person.
type Way struct {
	Rule    *Rule // the one of the release, else that of the course, else of the college; nil when there is none
	Viewer  Viewer
	Release Release // by an opening, that to its own course
	Opening *Opening
	// ShutUntil is when the person, shut out of the recording or of the course, comes in again; zero for nobody shut
	// out. By an opening it is the course of the lecture that shuts out.
	ShutUntil time.Time
}

// Decide says whether one may watch by w now. Who teaches the course of the lecture sees its recordings at any time;
// who teaches another course that one is lit for sees it as long as it is.
func (w Way) Decide(now time.Time) Decision {
	no := func(why Reason) Decision { return Decision{Reason: why} }
	if w.Opening != nil {
		return w.opened(now)
	}
	shown := w.Release.Lit && w.Release.Watchable
	switch {
	case w.Viewer.Coordinator, w.Viewer.Role.Staff() && (w.Release.Own || shown):
		return Decision{AllUses, AsStaff}
	case w.Viewer.Role != Student && !w.Viewer.Role.Staff():
		return no(NotEnrolled)
	case now.Before(w.ShutUntil):
		return no(ShutOut)
	case !shown:
		return no(NotLit)
	case w.Rule == nil:
		return no(NoRule)
	case !w.Rule.Covers(w.Viewer.Group):
		return no(OtherGroup)
	}
	if why := w.Rule.at(w.Release, now); why != "" {
		return no(why)
	}
	return Decision{w.Rule.Uses, ByRule}
}

func (w Way) opened(now time.Time) Decision {
	why := w.Opening.at(w.Release, now)
	switch {
	case now.Before(w.ShutUntil):
		why = ShutOut
	case !w.Release.Watchable:
		why = NotLit
	}
	if why != "" {
		return Decision{Reason: why}
	}
	return Decision{w.Opening.Uses, ByOpening}
}

// Overlooked reports whether whoever teaches may not know that someone is kept out for this reason: what opens by
// itself, and whom they shut out themselves, they do know.
func (r Reason) Overlooked() bool {
	return r == NotLit || r == NoRule || r == OtherGroup || r == NoLonger
}

// Reasons are all of them, from the one that lets in to the one that is furthest from it.
var Reasons = []Reason{AsStaff, ByRule, ByOpening, NotYet, ShutOut, OtherGroup, NoLonger, NoRule, NotLit, NotEnrolled}

// Decide says whether one may watch now by any of the ways, and by which: the best one lets them in, and where none
// does the reason is that of the one that came nearest. What any of them lets one do one may do. Of no ways at all, -1,
// nobody is enrolled.
func Decide(ways []Way, now time.Time) (Decision, int) {
	best, by, all := Decision{Reason: NotEnrolled}, -1, Uses(0)
	for i, w := range ways {
		d := w.Decide(now)
		if all |= d.Uses; by < 0 || compare(d, best) < 0 {
			best, by = d, i
		}
	}
	best.Uses = all
	return best, by
}

// compare orders decisions, the best first: of two that let in, that by which more may be done.
func compare(a, b Decision) int {
	return cmp.Or(cmp.Compare(slices.Index(Reasons, a.Reason), slices.Index(Reasons, b.Reason)),
		bits.OnesCount8(uint8(b.Uses))-bits.OnesCount8(uint8(a.Uses)))
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
