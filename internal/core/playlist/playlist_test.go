package playlist

import (
	"reflect"
	"testing"

	"latelantern/internal/core/workflow"
)

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
	over := Lecture{Over: true}
	recorded := func(next workflow.Step, do func(*Lecture)) Lecture {
		l := Lecture{Over: true, Recorded: true, Next: next}
		if do != nil {
			do(&l)
		}
		return l
	}
	for name, c := range map[string]struct {
		lecture Lecture
		why     Why // "" for none
		took    bool
	}{
		"to come":                        {Lecture{}, "", false},
		"over, and nobody captured it":   {over, Uncaptured, true},
		"called off":                     {Lecture{Over: true, CalledOff: true}, "", false},
		"called off, to come":            {Lecture{CalledOff: true}, "", false},
		"called off, and captured":       {Lecture{CalledOff: true, Recorded: true, Next: workflow.Trim}, Waits, true},
		"nobody was invited":             {Lecture{Over: true, Private: true}, "", false},
		"captured, nobody was invited":   {recorded(workflow.Trim, func(l *Lecture) { l.Private = true }), "", false},
		"it runs":                        {recorded(workflow.Stop, func(l *Lecture) { l.Running = true }), "", false},
		"nothing can be watched":         {Lecture{Recorded: true, Failed: true, Next: workflow.TryAgain}, Empty, true},
		"it waits for its trim":          {recorded(workflow.Trim, nil), Waits, true},
		"for its title":                  {recorded(workflow.Title, nil), Waits, true},
		"for a rule":                     {recorded(workflow.Rule, nil), Waits, true},
		"it is being packaged":           {recorded(workflow.Wait, nil), "", true},
		"it could be put there":          {recorded(workflow.List, nil), "", true},
		"it is there":                    {recorded(workflow.Trim, func(l *Lecture) { l.Listed = true }), "", true},
		"it is there, before its time":   {Lecture{Listed: true, Recorded: true}, "", true},
		"recorded ahead":                 {Lecture{Recorded: true, Next: workflow.Trim}, Waits, true},
		"in the bin":                     {Lecture{Over: true, Binned: true}, Binned, true},
		"in the bin, and captured again": {recorded(workflow.List, func(l *Lecture) { l.Binned = true }), "", true},
		"in the bin, and called off":     {Lecture{Over: true, Binned: true, CalledOff: true}, "", false},
	} {
		why, is := c.lecture.Gap()
		if is != (c.why != "") || is && why != c.why || c.lecture.Took() != c.took {
			t.Errorf("%s: %q %v, took place %v", name, why, is, c.lecture.Took())
		}
	}
}
