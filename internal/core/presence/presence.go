// Package presence makes the register of a lecture: who was there, who came late or left early, and who was not there,
// from what is known of each.
package presence

import (
	"slices"
	"time"
)

// State is how somebody stands in the register.
type State string

const (
	Unknown State = "" // the lecture is still to come, or has just begun
	Present State = "present"
	Late    State = "late"
	Early   State = "left_early"
	Both    State = "late_left_early"
	Absent  State = "absent"
	Excused State = "excused"
)

// Valid reports whether s is a state that somebody can be given by hand.
func (s State) Valid() bool {
	return slices.Contains([]State{Present, Late, Early, Both, Absent, Excused}, s)
}

// There reports whether somebody of this state was there.
func (s State) There() bool { return s == Present || s == Late || s == Early || s == Both }

// CameLate reports whether somebody of this state came late.
func (s State) CameLate() bool { return s == Late || s == Both }

// WentEarly reports whether somebody of this state left early.
func (s State) WentEarly() bool { return s == Early || s == Both }

// Rules are what a course calls late, early and there.
type Rules struct {
	Late  time.Duration // who comes so long after the beginning, or later, is late
	Early time.Duration // who leaves so long before the end, or earlier, left early
	Least int           // per cent of the lecture that one must have been there, else one counts as absent; 0 for any
}

// Usual is what holds where a course says nothing.
var Usual = Rules{Late: 5 * time.Minute, Early: 5 * time.Minute}

// MostMinutes is the most that late and early can be.
const MostMinutes = 120

// Held is when a lecture was held in fact.
type Held struct{ From, Until time.Time }

// Hours is when a lecture was held: from its planned beginning, or from when its capture began where that was later,
// to its planned end, or to when the capture ended where that was earlier. Without a capture it is as planned. Of one
// that goes on it is up to now.
func Hours(starts, ends time.Time, began, stopped *time.Time, now time.Time) Held {
	h := Held{starts, ends}
	if began != nil && began.After(starts) && began.Before(ends) {
		h.From = *began
	}
	if began != nil && stopped != nil && stopped.Before(ends) && stopped.After(h.From) {
		h.Until = *stopped
	}
	if now.Before(h.Until) {
		h.Until = now
	}
	return h
}

// Stay is a while in which somebody was there; one without length is a moment in which they were heard of.
type Stay struct{ From, Until time.Time }

// Line is how somebody stands in the register.
type Line struct {
	State State
	Late  time.Duration // after the beginning, of who was late
	Early time.Duration // before the end, of who left early
	There time.Duration // how long they were there
}

// word is how often whoever follows is heard of: so far apart nothing was missed.
const word = 45 * time.Second

// Of is the line of somebody who was there for those stays, in any order.
func Of(h Held, stays []Stay, r Rules) Line {
	if !h.Until.After(h.From) {
		return Line{}
	}
	in := within(h, stays)
	if len(in) == 0 {
		return Line{State: Absent}
	}
	var x Line
	for _, s := range in {
		x.There += s.Until.Sub(s.From)
	}
	whole := h.Until.Sub(h.From)
	if r.Least > 0 && x.There*100 < whole*time.Duration(r.Least) {
		x.State = Absent
		return x
	}
	if late := in[0].From.Sub(h.From); late >= r.Late && late > 0 {
		x.Late = late
	}
	if early := h.Until.Sub(in[len(in)-1].Until); early >= r.Early && early > 0 {
		x.Early = early
	}
	switch {
	case x.Late > 0 && x.Early > 0:
		x.State = Both
	case x.Late > 0:
		x.State = Late
	case x.Early > 0:
		x.State = Early
	default:
		x.State = Present
	}
	return x
}

// within is what of stays lies in a lecture, in order and apart from each other. Between two that are hardly apart
// somebody was there as well, and so up to the end where they were heard of until just before.
func within(h Held, stays []Stay) []Stay {
	var in []Stay
	for _, s := range stays {
		if s.Until.Before(s.From) || s.Until.Before(h.From) || s.From.After(h.Until) {
			continue
		}
		if s.From.Before(h.From) {
			s.From = h.From
		}
		if s.Until.After(h.Until) || h.Until.Sub(s.Until) <= word {
			s.Until = h.Until
		}
		in = append(in, s)
	}
	slices.SortFunc(in, func(a, b Stay) int { return a.From.Compare(b.From) })
	var out []Stay
	for _, s := range in {
		if n := len(out); n > 0 && s.From.Sub(out[n-1].Until) <= word {
			if s.Until.After(out[n-1].Until) {
				out[n-1].Until = s.Until
			}
			continue
		}
		out = append(out, s)
	}
	return out
}
