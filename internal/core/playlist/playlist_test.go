package playlist

import (
	"reflect"
	"testing"
	"time"
)

func TestNext(t *testing.T) {
	start := time.Date(2026, 10, 14, 10, 15, 0, 0, time.UTC)
	end := start.Add(90 * time.Minute)
	planned := Facts{Start: start, End: end}
	f := func(change func(*Facts)) Facts {
		x := Facts{Start: start, End: end, Captured: true, Ready: true, Trimmed: true, Titled: true, Ruled: true, Listed: true, Lit: true, Current: true}
		change(&x)
		return x
	}
	for _, c := range []struct {
		name string
		f    Facts
		at   time.Time
		want Step
	}{
		{"long before", planned, start.Add(-16 * time.Minute), Wait},
		{"soon", planned, start.Add(-15 * time.Minute), Capture},
		{"under way without a capture", planned, end.Add(-1), Capture},
		{"over without a capture", planned, end, Done},
		{"called off", Facts{Start: start, End: end, CalledOff: true}, start, Done},
		{"called off, captured all the same", f(func(x *Facts) { x.CalledOff, x.Trimmed = true, false }), end, Trim},
		{"running", f(func(x *Facts) { x.Running, x.Trimmed = true, false }), start, Wait},
		{"running past its end", f(func(x *Facts) { x.Running = true }), end.Add(1), Stop},
		{"being made watchable", f(func(x *Facts) { x.Ready, x.Trimmed = false, false }), end, Wait},
		{"holds nothing", f(func(x *Facts) { x.Failed, x.Ready = true, false }), end, TryAgain},
		{"ends untouched", f(func(x *Facts) { x.Trimmed, x.Titled, x.Lit = false, false, false }), end, Trim},
		{"no title", f(func(x *Facts) { x.Titled, x.Ruled = false, false }), end, Title},
		{"no rule", f(func(x *Facts) { x.Ruled, x.Listed = false, false }), end, Rule},
		{"not listed", f(func(x *Facts) { x.Listed, x.Lit = false, false }), end, List},
		{"not lit", f(func(x *Facts) { x.Lit, x.Current = false, false }), end, LightUp},
		{"trimmed again", f(func(x *Facts) { x.Current = false }), end, Publish},
		{"being published", f(func(x *Facts) { x.Current, x.Making = false, true }), end, Wait},
		{"nothing", f(func(*Facts) {}), end, Done},
	} {
		if got := c.f.Next(c.at); got != c.want {
			t.Errorf("%s: %q, want %q", c.name, got, c.want)
		}
	}
	if !planned.Missed(end) || planned.Missed(end.Add(-1)) || f(func(*Facts) {}).Missed(end) {
		t.Error("missed is: over, not captured, not called off")
	}
}

func TestMove(t *testing.T) {
	order := []string{"a", "b", "c", "d"}
	for _, c := range []struct {
		item, before string
		want         []string
	}{
		{"d", "a", []string{"d", "a", "b", "c"}},
		{"a", "c", []string{"b", "a", "c", "d"}},
		{"b", "", []string{"a", "c", "d", "b"}},
		{"b", "b", order},
		{"x", "a", nil},
		{"a", "x", nil},
	} {
		got, err := Move(order, c.item, c.before)
		if !reflect.DeepEqual(got, c.want) || (err != nil) != (c.want == nil) {
			t.Errorf("%s before %q: %v %v, want %v", c.item, c.before, got, err, c.want)
		}
	}
	if !reflect.DeepEqual(order, []string{"a", "b", "c", "d"}) {
		t.Error("the given order was changed")
	}
}

func TestGaps(t *testing.T) {
	if got := Gaps(6, []int{1, 2, 2, 4, 9}); !reflect.DeepEqual(got, []int{3, 5, 6}) {
		t.Errorf("gaps %v", got)
	}
	if got := Gaps(0, nil); len(got) != 0 {
		t.Errorf("before the first week: %v", got)
	}
}
