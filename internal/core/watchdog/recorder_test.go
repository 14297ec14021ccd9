package watchdog

import (
	"slices"
	"testing"
	"time"
)

func TestTroublesOfARecorder(t *testing.T) {
	now := start
	ago := func(d time.Duration) *time.Time { x := now.Add(-d); return &x }
	well := Recorder{HeardAt: now.Add(-5 * time.Second), Capturing: true, Free: 100 << 30}
	for name, c := range map[string]struct {
		change func(*Recorder)
		want   []Trouble
	}{
		"well":                    {func(*Recorder) {}, nil},
		"heard half a minute ago": {func(r *Recorder) { r.HeardAt = now.Add(-Unheard) }, nil},
		"heard longer ago": {func(r *Recorder) { r.HeardAt = now.Add(-Unheard - 1); r.Free = 0 },
			[]Trouble{NotHeard}},
		"silent for less":     {func(r *Recorder) { r.SilentSince = ago(MuteFor - 1) }, nil},
		"silent for a minute": {func(r *Recorder) { r.SilentSince = ago(MuteFor) }, []Trouble{Silent}},
		"silent while nothing is on": {func(r *Recorder) {
			r.SilentSince, r.BlackSince, r.Capturing = ago(time.Hour),
				ago(time.Hour), false
		}, nil},
		"black":                       {func(r *Recorder) { r.BlackSince = ago(MuteFor) }, []Trouble{Black}},
		"two seconds off":             {func(r *Recorder) { r.Clock = -ClockLimit }, nil},
		"further off":                 {func(r *Recorder) { r.Clock = -ClockLimit - 1 }, []Trouble{ClockOff}},
		"as little room as is enough": {func(r *Recorder) { r.Free = DiskLimit }, nil},
		"as much unsent as may be":    {func(r *Recorder) { r.Unsent = LineLimit }, nil},
		"much at once": {func(r *Recorder) {
			r.Free, r.SilentSince, r.Clock, r.Unsent = DiskLimit-1, ago(time.Hour), time.Minute, LineLimit+1
		}, []Trouble{LittleDisk, Silent, ClockOff, Behind}},
	} {
		r := well
		c.change(&r)
		if got := r.Troubles(now); !slices.Equal(got, c.want) {
			t.Errorf("%s: %v, want %v", name, got, c.want)
		}
	}
}
