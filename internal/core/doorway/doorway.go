// Package doorway decides how people come into a live lecture.
//
// One choice says all of it, so that two settings cannot contradict each other: whoever may
// come in before the lecturer does not at the same time have to be let in by them.
package doorway

import "time"

// Way is the one choice.
type Way string

const (
	WalkIn Way = "walk_in" // the enrolled walk in
	Ask    Way = "ask"     // someone who teaches lets each of them in
	Closed Way = "closed"  // nobody comes in but those who teach and those invited to speak
)

// Door is the doorway of a lecture.
type Door struct {
	Way       Way
	Opens     time.Duration // before the planned start
	Start     time.Time     // planned
	CalledOff bool
	Ended     bool // for everyone, by someone who teaches, and nothing is captured since
}

// OpensAt is when the door opens.
func (d Door) OpensAt() time.Time { return d.Start.Add(-d.Opens) }

// Role is what a guest may do.
type Role string

const (
	Listener Role = "listener"
	Speaker  Role = "speaker"
)

// Visitor is someone at the door.
type Visitor struct {
	Staff    bool // teaches the course, or coordinates the college
	Enrolled bool
	Guest    Role // "" for none; only while their link holds
	Asked    bool
	LetIn    bool
	SentOut  bool // by someone who teaches, for this lecture
	Followed bool // it until it was ended: they see what they miss of its end
}

// Reason is why someone can come in, or cannot.
type Reason string

const (
	AsStaff     Reason = "staff"
	AsEnrolled  Reason = "enrolled"
	AsGuest     Reason = "guest"
	WasLetIn    Reason = "let_in"
	MustAsk     Reason = "ask"   // they can ask now
	Waiting     Reason = "asked" // they have asked
	IsClosed    Reason = "closed"
	NotYet      Reason = "not_yet" // the door opens later
	IsOff       Reason = "called_off"
	WasSentOut  Reason = "sent_out"
	IsOver      Reason = "over" // it was ended for everyone
	NotEnrolled Reason = "not_enrolled"
)

// Decision is the answer for one visitor now.
type Decision struct {
	Enter  bool
	Reason Reason
}

// Decide says whether v can come in at a time. running is whether the lecture is being
// captured: then the door is open whatever the plan said about when.
func Decide(d Door, v Visitor, running bool, now time.Time) Decision {
	no := func(why Reason) Decision { return Decision{Reason: why} }
	switch {
	case v.Staff:
		return Decision{true, AsStaff}
	case !v.Enrolled && v.Guest == "":
		return no(NotEnrolled)
	case d.CalledOff && !running:
		return no(IsOff)
	case v.SentOut:
		return no(WasSentOut)
	case d.Ended && !v.Followed:
		return no(IsOver)
	case d.Way == Closed && v.Guest != Speaker:
		return no(IsClosed)
	case !running && now.Before(d.OpensAt()):
		return no(NotYet)
	case v.Guest == Speaker:
		return Decision{true, AsGuest}
	case d.Way == Ask && v.LetIn:
		return Decision{true, WasLetIn}
	case d.Way == Ask && v.Asked:
		return no(Waiting)
	case d.Way == Ask:
		return no(MustAsk)
	case v.Guest != "":
		return Decision{true, AsGuest}
	}
	return Decision{true, AsEnrolled}
}

// Valid reports whether w is a way in.
func (w Way) Valid() bool { return w == WalkIn || w == Ask || w == Closed }

// Lapse is how long someone who follows a lecture may not be heard of and still be there.
const Lapse = 45 * time.Second
