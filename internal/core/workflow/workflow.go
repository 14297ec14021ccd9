// Package workflow knows the next step: the one thing that a lecture or a recording waits for.
package workflow

import "time"

// Step is what a lecture or recording waits for.
type Step string

const (
	Done     Step = ""         // nothing
	Wait     Step = "wait"     // the lecture lies ahead, or something is being made
	Capture  Step = "capture"  // someone must press start
	Stop     Step = "stop"     // the capture still runs after the planned end
	Trim     Step = "trim"     // nobody has looked at its ends
	Title    Step = "title"    // it has only the title that was made for it
	Rule     Step = "rule"     // the course has no viewing rule
	List     Step = "playlist" // it is in no playlist of the course
	LightUp  Step = "light"    // it is listed and not lit
	Publish  Step = "publish"  // it was trimmed again after it was lit
	Words    Step = "words"    // its captions are a draft that nobody has looked at
	Tell     Step = "tell"     // students can watch it, and nobody told them of it
	TryAgain Step = "again"    // the capture holds nothing that can be watched
)

// State is what the next step is computed from.
type State struct {
	Start, End time.Time // as planned
	CalledOff  bool
	Captured   bool // there is a recording
	Running    bool // its capture still runs
	Ready      bool // it can be watched on the trim bench
	Failed     bool // it holds nothing that can be watched
	Trimmed    bool // someone has struck something, or said that it stays as it is
	Titled     bool
	Ruled      bool
	Listed     bool
	Lit        bool
	Current    bool // what is lit is what is on the trim bench
	Making     bool // an edition of what is on the trim bench is being made
	Drafted    bool // there is a draft of captions that nobody has looked at
	Open       bool // students can watch it now
	Told       bool // they were told of it, or will be as soon as they can watch it, or need not be
}

// Early is how long before the planned start of a lecture its capture is the next step.
const Early = 15 * time.Minute

// Missed reports whether the lecture is over and was neither captured nor called off.
func (f State) Missed(now time.Time) bool {
	return !f.Captured && !f.CalledOff && !now.Before(f.End)
}

// Next is the one thing that is needed now.
func (f State) Next(now time.Time) Step {
	switch {
	case f.CalledOff && !f.Captured:
		return Done
	case !f.Captured && now.Before(f.Start.Add(-Early)):
		return Wait
	case !f.Captured && now.Before(f.End):
		return Capture
	case !f.Captured:
		return Done // missed
	case f.Running && now.After(f.End):
		return Stop
	case f.Failed:
		return TryAgain
	case f.Running, !f.Ready:
		return Wait
	case !f.Trimmed:
		return Trim
	case !f.Titled:
		return Title
	case !f.Ruled:
		return Rule
	case !f.Listed:
		return List
	case !f.Lit:
		return LightUp
	case !f.Current && f.Making:
		return Wait
	case !f.Current:
		return Publish
	case f.Drafted:
		return Words
	case f.Open && !f.Told:
		return Tell
	}
	return Done
}
