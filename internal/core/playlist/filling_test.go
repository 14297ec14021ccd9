package playlist

import (
	"slices"
	"strings"
	"testing"
)

func TestASentenceTakes(t *testing.T) {
	tides := Candidate[string]{ID: "a", Course: "TID", Texts: []string{"spring tides and neap tides", "moon"},
		Said: []string{"revision"}}
	for _, c := range []struct {
		name   string
		course string
		words  string
		want   bool
	}{
		{"every one of its course", "TID", "", true},
		{"every one of another", "SIG", "", false},
		{"a word of its title", "", "neap", true},
		{"a keyword", "", "moon", true},
		{"a word that is said", "", "revision", true},
		{"words of which each is somewhere", "", "moon revision tides", true},
		{"a word that is nowhere", "", "moon fog", false},
		{"a word of it, in another course", "SIG", "moon", false},
		{"a word of it, in its course", "TID", "moon", true},
		{"nothing in particular", "", "", false},
	} {
		if got := (Filling[string]{Course: c.course, Words: strings.Fields(c.words)}).Takes(tides); got != c.want {
			t.Errorf("%s: %v", c.name, got)
		}
	}
}

func TestFill(t *testing.T) {
	var all []Candidate[string]
	for _, id := range []string{"a", "b", "c", "d"} {
		all = append(all, Candidate[string]{ID: id, Course: "TID"})
	}
	all = append(all, Candidate[string]{ID: "x", Course: "SIG"})
	there := []Filled[string]{{"b", false}, {"x", true}, {"gone", false}, {"kept", true}}
	come, leave := Filling[string]{Course: "TID"}.Fill(all, there, []string{"c"})
	if !slices.Equal(come, []string{"a", "d"}) || !slices.Equal(leave, []string{"gone"}) {
		t.Errorf("come %v, leave %v", come, leave)
	}
	come, leave = Filling[string]{Course: "TID"}.Fill(all, []Filled[string]{{"b", false}}, []string{"b"})
	if !slices.Equal(come, []string{"a", "c", "d"}) || !slices.Equal(leave, []string{"b"}) {
		t.Errorf("held out: come %v, leave %v", come, leave)
	}
}
