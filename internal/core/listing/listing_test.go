package listing

import (
	"slices"
	"testing"
	"time"

	"latelantern/internal/core/viewing"
	"latelantern/internal/core/workflow"
)

var (
	tides  = [16]byte{1}
	boats  = [16]byte{2}
	monday = time.Date(2026, 10, 5, 9, 0, 0, 0, time.UTC)
)

// shelf has five recordings, in no order.
var shelf = []Line{
	{Course: tides, Code: "TID 210", Title: "Week 10: Spring tides", Titled: true, Week: 10,
		At: monday.AddDate(0, 0, 63), Light: viewing.Lit, Can: 20, Of: 20, Length: 50 * time.Minute, Bytes: 900,
		Captioned: true, Seen: 12},
	{Course: tides, Code: "TID 210", Title: "Week 2: Neap tides", Week: 2, At: monday.AddDate(0, 0, 7),
		Next: workflow.Title, Light: viewing.Dark, Of: 20, Length: 40 * time.Minute, Bytes: 700},
	{Course: boats, Code: "BOA 140", Title: "Élan and planks", Titled: true, Week: 2, At: monday.AddDate(0, 0, 8),
		Next: workflow.Words, Light: viewing.PartLit, Can: 6, Of: 12, Length: 60 * time.Minute, Bytes: 2000, Seen: 1},
	{Course: boats, Code: "BOA 140", Title: "edges", Titled: true, At: monday.AddDate(0, 0, -7),
		Next: workflow.Wait, Running: true, Light: viewing.Dark, Of: 12, Length: time.Minute, Bytes: 10},
	{Course: boats, Code: "BOA 140", Title: "Zinc", Titled: true, Week: 2, At: monday.AddDate(0, 0, 9),
		Next: workflow.LightUp, Light: viewing.Dark, Of: 12, Length: 40 * time.Minute, Bytes: 700, Captioned: true},
}

func TestWhichAreWanted(t *testing.T) {
	for _, c := range []struct {
		name string
		w    Wanted
		want []int
	}{
		{"all, the earliest first", Wanted{}, []int{3, 1, 2, 4, 0}},
		{"words in code and title, in any case", Wanted{Words: " tid  NEAP "}, []int{1}},
		{"a word that is nowhere", Wanted{Words: "tid zinc"}, nil},
		{"of a course", Wanted{Course: tides}, []int{1, 0}},
		{"of a week", Wanted{Week: 2}, []int{1, 2, 4}},
		{"that wait for a hand", Wanted{Waits: Hand}, []int{1, 2, 4}},
		{"that wait for nothing", Wanted{Waits: Nothing}, []int{0}},
		{"that wait for a title", Wanted{Waits: "title"}, []int{1}},
		{"that wait by themselves", Wanted{Waits: "wait"}, []int{3}},
		{"dark, but not what runs", Wanted{Light: viewing.Dark}, []int{1, 4}},
		{"part-lit", Wanted{Light: viewing.PartLit}, []int{2}},
		{"as long as that", Wanted{Longer: 50 * time.Minute}, []int{2, 0}},
		{"shorter than that", Wanted{Shorter: 40 * time.Minute}, []int{3}},
		{"between two lengths", Wanted{Longer: 40 * time.Minute, Shorter: 50 * time.Minute}, []int{1, 4}},
		{"as large as that", Wanted{Larger: 900}, []int{2, 0}},
		{"without a title", Wanted{Untitled: true}, []int{1}},
		{"without captions", Wanted{Uncaptioned: true}, []int{3, 1, 2}},
		{"that nobody has seen", Wanted{Unseen: true}, []int{3, 1, 4}},
		{"several at once", Wanted{Week: 2, Unseen: true, Uncaptioned: true}, []int{1}},
	} {
		if got := Choose(shelf, c.w, ByDate, false, "en"); !slices.Equal(got, c.want) {
			t.Errorf("%s: %v, want %v", c.name, got, c.want)
		}
	}
}

func TestInWhichOrder(t *testing.T) {
	for _, c := range []struct {
		by   Column
		down bool
		want []int
	}{
		{ByDate, true, []int{0, 4, 2, 1, 3}},
		{ByCourse, false, []int{4, 2, 3, 0, 1}},  // within a course the latest first
		{ByCourse, true, []int{0, 1, 4, 2, 3}},   // and so from the end
		{ByTitle, false, []int{3, 2, 1, 0, 4}},   // É among the e, week 2 before week 10
		{ByWaits, false, []int{3, 1, 4, 2, 0}},   // in the order of the steps
		{ByLight, false, []int{4, 1, 3, 2, 0}},   // by the share
		{ByLength, false, []int{3, 4, 1, 0, 2}},  // of equal length the latest first
		{BySize, true, []int{2, 0, 4, 1, 3}},     //
		{BySeen, true, []int{0, 2, 4, 1, 3}},     //
		{"unknown", false, []int{3, 1, 2, 4, 0}}, // as by date
	} {
		if got := Choose(shelf, Wanted{}, c.by, c.down, "en"); !slices.Equal(got, c.want) {
			t.Errorf("by %s, down %t: %v, want %v", c.by, c.down, got, c.want)
		}
	}
}

// TestAllStepsHaveTheirPlace: what waits for a step that the order does not know would stand before all others.
func TestAllStepsHaveTheirPlace(t *testing.T) {
	for _, s := range []workflow.Step{workflow.Done, workflow.Wait, workflow.Capture, workflow.Stop, workflow.Trim,
		workflow.Title, workflow.Rule, workflow.List, workflow.LightUp, workflow.Publish, workflow.Words,
		workflow.TryAgain, workflow.Tell} {
		if !slices.Contains(steps, s) {
			t.Errorf("the step %q has no place", s)
		}
	}
}
