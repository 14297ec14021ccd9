package playlist

import "latelantern/internal/core/workflow"

// Lecture is a lecture as far as a playlist can lack it.
type Lecture struct {
	Listed    bool // a recording of it is in the playlist
	Over      bool // its planned time is past
	CalledOff bool
	Private   bool // nobody was invited to it
	Recorded  bool // it has a recording that is not in the bin
	Running   bool // of which the capture runs
	Failed    bool // or of which nothing can be watched
	Binned    bool // it has one in the bin
	Next      workflow.Step
}

// Why is why a lecture that took place has no recording in a playlist.
type Why string

const (
	Uncaptured Why = "not_captured" // nobody captured it
	Empty      Why = "empty"        // what was captured cannot be watched
	Waits      Why = "waits"        // its recording waits for its next step
	Binned     Why = "bin"          // its recording was taken away
)

// Waiting says whether a recording waits for a step before it can be put into a playlist.
func Waiting(next workflow.Step) bool {
	return next == workflow.Trim || next == workflow.Title || next == workflow.Rule
}

// Gap says why a lecture is missing; false when it is not: it is there, is called off, is to come, or has a recording
// that could be put into the playlist as it is, and waits for nothing else.
func (l Lecture) Gap() (Why, bool) {
	switch {
	case l.Listed, l.Running, l.Private:
		return "", false
	case l.Recorded && l.Failed:
		return Empty, true
	case l.Recorded:
		return Waits, Waiting(l.Next)
	case l.CalledOff, !l.Over:
		return "", false
	case l.Binned:
		return Binned, true
	}
	return Uncaptured, true
}

// Took tells whether a lecture counts among those that took place: it is over, or there is something of it.
func (l Lecture) Took() bool {
	return !l.Private && !l.Running && (l.Recorded || l.Listed || l.Over && !l.CalledOff)
}
