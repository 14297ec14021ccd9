package watchdog

import "time"

// Recorder is what a recorder of a hall last said of itself.
type Recorder struct {
	HeardAt     time.Time     // by the clock of the college
	Clock       time.Duration // how far its own clock is ahead
	Capturing   bool
	SilentSince *time.Time // nil while something is heard
	BlackSince  *time.Time // nil while something is seen
	Free        int64      // bytes on its own disk
	Unsent      int64      // bytes that are still only there
}

// Trouble is what is wrong with a recorder; the message catalogue has its sentence.
type Trouble string

// The troubles, the worst first.
const (
	NotHeard   Trouble = "not_heard"   // nothing was heard of it for a while
	LittleDisk Trouble = "little_disk" // its disk is nearly full
	Silent     Trouble = "silent"      // it captures, and hears nothing
	Black      Trouble = "black"       // it captures, and its picture is black
	ClockOff   Trouble = "clock_off"   // its clock is wrong
	Behind     Trouble = "behind"      // much of what it captured is still only there
)

// Limits of a recorder in order. It is to be heard of every five seconds.
const (
	Unheard    = 30 * time.Second // without a word it counts as lost
	Mute       = -60              // decibels below full scale, under which nothing is heard
	MuteFor    = time.Minute      // silent or black for so long while capturing is trouble
	ClockLimit = 20 * time.Second // a busy machine answers some seconds late
	DiskLimit  = 2 << 30          // bytes that are little
	LineLimit  = 30 << 20         // bytes that are much to be unsent
)

// Troubles says what is wrong with a recorder now, the worst first.
func (r Recorder) Troubles(now time.Time) []Trouble {
	if now.Sub(r.HeardAt) > Unheard {
		return []Trouble{NotHeard}
	}
	long := func(since *time.Time) bool { return r.Capturing && since != nil && now.Sub(*since) >= MuteFor }
	var out []Trouble
	for _, x := range []struct {
		Trouble
		is bool
	}{
		{LittleDisk, r.Free < DiskLimit},
		{Silent, long(r.SilentSince)},
		{Black, long(r.BlackSince)},
		{ClockOff, r.Clock.Abs() > ClockLimit},
		{Behind, r.Unsent > LineLimit},
	} {
		if x.is {
			out = append(out, x.Trouble)
		}
	}
	return out
}
