package workflow

import (
	"math/rand/v2"
	"testing"
	"time"
)

// take does what a step names, as the application does it, and gives the time after it.
func (f *State) take(s Step, now time.Time) time.Time {
	switch s {
	case Wait: // until the lecture comes near, the capture ends, what arrived is ready, or the edition is made
		switch {
		case !f.Captured:
			return f.Start.Add(-Early)
		case f.Running:
			return f.End.Add(time.Minute)
		case !f.Ready:
			f.Ready = true
		default:
			f.Making, f.Current = false, true
		}
	case Capture:
		f.Captured, f.Running, f.CalledOff = true, true, false
	case Stop:
		f.Running = false
	case TryAgain:
		f.Failed = false
	case Trim:
		f.Trimmed = true
	case Title:
		f.Titled = true
	case Rule:
		f.Ruled = true
	case List:
		f.Listed = true
	case LightUp:
		f.Lit, f.Making, f.Current = true, true, false
	case Publish:
		f.Making = true
	case Words:
		f.Drafted = false
	case Tell:
		f.Told = true
	}
	return now
}

// TestDoingWhatIsNamedLeadsToLight: from any state each step that is named leads to another one, and in the end to a
// recording that is lit as it stands on the trim bench and told, if anyone can watch it, unless its lecture was called
// off or nobody captured it.
func TestDoingWhatIsNamedLeadsToLight(t *testing.T) {
	dice := rand.New(rand.NewPCG(1, 2))
	flip := func() bool { return dice.IntN(2) == 0 }
	start := time.Date(2026, 11, 30, 9, 0, 0, 0, time.UTC)
	for range 20_000 {
		f := State{Start: start, End: start.Add(90 * time.Minute), CalledOff: dice.IntN(5) == 0, Captured: flip(),
			Running: flip(), Ready: flip(), Failed: dice.IntN(5) == 0, Trimmed: flip(), Titled: flip(), Ruled: flip(),
			Listed: flip(), Lit: flip(), Current: flip(), Making: flip(), Drafted: flip(),
			Open: flip(), Told: flip()}
		now := start.Add(time.Duration(dice.IntN(360)-180) * time.Minute)
		from, seen := f, map[Step]int{}
		step := f.Next(now)
		for step != Done {
			seen[step]++
			if seen[step] > 1 && step != Wait || seen[step] > 4 {
				t.Fatalf("%+v comes to %q again", from, step)
			}
			now = f.take(step, now)
			next := f.Next(now)
			if next == step && step != Wait {
				t.Fatalf("%+v: doing %q leads to %q", from, step, next)
			}
			step = next
		}
		left := !f.Captured && (f.CalledOff || f.Missed(now))
		done := f.Lit && f.Current && f.Listed && f.Ruled && f.Titled && f.Trimmed && !f.Drafted && (f.Told || !f.Open)
		if !left && !done {
			t.Fatalf("%+v ends as %+v", from, f)
		}
	}
}
