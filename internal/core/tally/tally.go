// Package tally compares what can be watched of a track with what came of it, so that nothing is lost in
// silence, whatever kind of file it was.
package tally

import (
	"time"
)

// Track is what there is of a track: frames of sound, or pictures. The zero value is a track without any.
type Track struct {
	Frames int           `json:"frames"`
	Start  time.Duration `json:"start"` // when the first begins, from where the file begins
	Last   time.Duration `json:"last"`  // when the last begins
}

// Length is from the first to the beginning of the last: what comes after that, a file need not say.
func (t Track) Length() time.Duration { return t.Last - t.Start }

// Add takes a frame that begins at into account. What lies before the beginning is not shown.
func (t *Track) Add(at time.Duration) {
	if at < 0 {
		return
	}
	if t.Frames == 0 {
		t.Start, t.Last = at, at
	}
	t.Frames++
	t.Start, t.Last = min(t.Start, at), max(t.Last, at)
}

// How much may be missing before it is told: a share of it, and never more than a moment. What is
// less than a tenth of a second is not seen, and no grid of frames is finer than that.
const (
	share  = 200 // the part of it: 0.5 %
	most   = 250 * time.Millisecond
	least  = 110 * time.Millisecond
	fewest = 2 // frames
)

// Rule says what of a comparison a way of making the track does not promise.
type Rule struct {
	Count  bool // that there are as many frames as came
	Fields bool // that what came as two half pictures is not one
}

// Agrees reports whether made holds what came: as many frames, and not shifted. It may begin
// earlier, with silence or with a picture that stands, and end later.
func Agrees(came, made Track, r Rule) bool {
	if came.Frames == 0 {
		return true
	}
	if made.Frames == 0 {
		return false
	}
	allowed := Allowed(came.Length())
	if made.Start > came.Start+allowed || made.Last < came.Last-allowed {
		return false
	}
	if !r.Count {
		return true
	}
	want := came.Frames
	if r.Fields {
		want /= 2
	}
	few := max(fewest, came.Frames/share)
	if came.Length() > 0 {
		few = min(few, max(fewest, int(int64(came.Frames)*int64(most)/int64(came.Length()))))
	}
	return made.Frames >= want-few
}

// Allowed is how much of a length may be missing.
func Allowed(length time.Duration) time.Duration { return max(least, min(most, length/share)) }

// What is what of a file a difference is of.
type What string

// What can differ.
const (
	Pictures What = "pictures"
	Sound    What = "sound"
	Whole    What = "file" // less came of it than its head says
)

// Difference is what of a track came, and what can be watched of it.
type Difference struct {
	What What  `json:"what"`
	Came Track `json:"came"`
	Made Track `json:"made"`
}

// CutOff is the difference between how long a file says that it is and how long it is; ok is false when there is
// none: heads are rounded, and what they count need not be all that is shown.
func CutOff(said, length time.Duration) (d Difference, ok bool) {
	return Difference{What: Whole, Came: Track{Last: said}, Made: Track{Last: length}},
		length < said-said/50-300*time.Millisecond
}

// Lengths are how much came, and how much of it can be watched. Where pictures are missing in between, it is
// their share of it.
func (d Difference) Lengths() (came, watchable time.Duration) {
	came, watchable = d.Came.Length(), min(d.Made.Length(), d.Came.Length())
	if d.What == Pictures && d.Came.Frames > 0 {
		watchable = min(watchable, came*time.Duration(min(d.Made.Frames, d.Came.Frames))/time.Duration(d.Came.Frames))
	}
	return came, max(0, watchable)
}
