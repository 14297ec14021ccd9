package workflow

import (
	"testing"
	"time"
)

func TestNext(t *testing.T) {
	start := time.Date(2026, 10, 14, 10, 15, 0, 0, time.UTC)
	end := start.Add(90 * time.Minute)
	planned := State{Start: start, End: end}
	f := func(change func(*State)) State {
		x := State{Start: start, End: end, Captured: true, Ready: true, Trimmed: true, Titled: true, Ruled: true,
			Listed: true, Lit: true, Current: true}
		change(&x)
		return x
	}
	for _, c := range []struct {
		name string
		f    State
		at   time.Time
		want Step
	}{
		{"long before", planned, start.Add(-16 * time.Minute), Wait},
		{"soon", planned, start.Add(-15 * time.Minute), Capture},
		{"under way without a capture", planned, end.Add(-1), Capture},
		{"over without a capture", planned, end, Done},
		{"called off", State{Start: start, End: end, CalledOff: true}, start, Done},
		{"called off, captured all the same", f(func(x *State) { x.CalledOff, x.Trimmed = true, false }), end, Trim},
		{"running", f(func(x *State) { x.Running, x.Trimmed = true, false }), start, Wait},
		{"running past its end", f(func(x *State) { x.Running = true }), end.Add(1), Stop},
		{"being made watchable", f(func(x *State) { x.Ready, x.Trimmed = false, false }), end, Wait},
		{"holds nothing", f(func(x *State) { x.Failed, x.Ready = true, false }), end, TryAgain},
		{"ends untouched", f(func(x *State) { x.Trimmed, x.Titled, x.Lit = false, false, false }), end, Trim},
		{"no title", f(func(x *State) { x.Titled, x.Ruled = false, false }), end, Title},
		{"no rule", f(func(x *State) { x.Ruled, x.Listed = false, false }), end, Rule},
		{"not listed", f(func(x *State) { x.Listed, x.Lit = false, false }), end, List},
		{"not lit", f(func(x *State) { x.Lit, x.Current = false, false }), end, LightUp},
		{"trimmed again", f(func(x *State) { x.Current = false }), end, Publish},
		{"being published", f(func(x *State) { x.Current, x.Making = false, true }), end, Wait},
		{"a draft of captions", f(func(x *State) { x.Drafted, x.Open = true, true }), end, Words},
		{"nobody was told", f(func(x *State) { x.Open = true }), end, Tell},
		{"told", f(func(x *State) { x.Open, x.Told = true, true }), end, Done},
		{"nobody can watch it yet", f(func(x *State) { x.Told = false }), end, Done},
		{"nothing", f(func(*State) {}), end, Done},
	} {
		if got := c.f.Next(c.at); got != c.want {
			t.Errorf("%s: %q, want %q", c.name, got, c.want)
		}
	}
	if !planned.Missed(end) || planned.Missed(end.Add(-1)) || f(func(*State) {}).Missed(end) {
		t.Error("missed is: over, not captured, not called off")
	}
}
