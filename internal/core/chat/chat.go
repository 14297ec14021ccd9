// Package chat says what can be said in the chat of a lecture, by whom, how fast, and who reads it.
package chat

import (
	"time"

	"latelantern/internal/core/plain"
)

// Way is for whom the chat of a lecture is.
type Way string

const (
	Off      Way = "off"
	Teachers Way = "teachers" // what others say reaches those who teach alone
	All      Way = "all"
)

// Valid reports whether w is a way.
func (w Way) Valid() bool { return w == Off || w == Teachers || w == All }

// State is how far a question is.
type State string

const (
	None     State = "" // it is no question
	Open     State = "open"
	Taken    State = "taken" // somebody who teaches has taken it up
	Answered State = "answered"
	PutOff   State = "put_off" // to after class
)

// Valid reports whether s is a state of a line.
func (s State) Valid() bool {
	return s == None || s == Open || s == Taken || s == Answered || s == PutOff
}

// Waits reports whether a question still waits for its answer.
func (s State) Waits() bool { return s == Open || s == Taken || s == PutOff }

// The most that a line, its answer and the reason why it was taken down may have, in characters.
const (
	MaxText = 2000
	MaxWhy  = 200
)

// Clean is what somebody wrote as it is kept, of at most MaxText characters. Its error is of type fault.Faults, about
// the field in which it was written.
func Clean(field, text string) (string, error) { return plain.Text(field, text, MaxText) }

// The pace at which one person can say things: so many within so long.
const (
	Burst  = 5
	Within = 10 * time.Second
)

// Wait is how long someone who said things at those moments, the latest first, waits before they can say the next; 0
// for not at all.
func Wait(said []time.Time, now time.Time) time.Duration {
	if len(said) < Burst {
		return 0
	}
	return max(0, Within-now.Sub(said[Burst-1]))
}

// Reader is somebody before a line.
type Reader struct {
	Teaches bool // the course of its lecture, or coordinates the college
	Of      bool // has a part in that course, or is in the lecture itself
	Wrote   bool // it
}

// Line is what of a line says who reads it.
type Line struct {
	ToTeachers bool // it was said to those who teach alone
	Later      bool // it was asked of the recording, after the lecture
	Shown      bool // with its answer to all who may watch
	Gone       bool // it was withdrawn or taken down
}

// Reads reports whether somebody may read a line.
func Reads(r Reader, l Line) bool {
	switch {
	case r.Teaches:
		return true
	case l.Gone:
		return false
	case r.Wrote:
		return true
	case l.Later:
		return l.Shown
	}
	return r.Of && !l.ToTeachers
}

// after is how long after its planned end one can still say something in a lecture that is not captured.
const after = 30 * time.Minute

// Hours are when a lecture is held.
type Hours struct {
	Opens, Ends time.Time // when its doorway opens, and its planned end
	Running     bool      // it is captured now
}

// Goes reports whether its chat goes on now for those who follow it. For those who teach it always does.
func (h Hours) Goes(now time.Time) bool {
	return h.Running || !now.Before(h.Opens) && now.Before(h.Ends.Add(after))
}
