package playlist

import (
	"slices"

	"latelantern/internal/core/finding"
)

// Filling is a sentence by which a playlist keeps itself filled: every recording of a course, or every one of mine that
// holds some words. K names courses and recordings.
type Filling[K comparable] struct {
	Course K        // the zero value for any of mine
	Words  []string // folded, as finding.Words gives them; none for all of the course
}

// Candidate is a recording that one teaches, as far as a sentence asks for it. Its texts are folded like the words.
type Candidate[K comparable] struct {
	ID, Course K
	Texts      []string // its title, and each of its keywords
	Said       []string // those of the words that are said in it
}

// Takes says whether a recording is one of those that the sentence speaks of: each word is in one of its texts, or is
// said. A sentence that speaks of nothing in particular takes none.
func (f Filling[K]) Takes(c Candidate[K]) bool {
	var any K
	if f.Course == any && len(f.Words) == 0 || f.Course != any && c.Course != f.Course {
		return false
	}
	for _, w := range f.Words {
		in := func(text string) bool { return finding.Weight([]string{w}, text) > 0 }
		if !slices.Contains(c.Said, w) && !slices.ContainsFunc(c.Texts, in) {
			return false
		}
	}
	return true
}

// Filled is a recording that is in a playlist.
type Filled[K comparable] struct {
	ID     K
	ByHand bool // somebody put it there
}

// Fill says which candidates come into a playlist by a sentence, in their order, and which recordings go that came by
// it. What was put there by hand stays, and what is held out stays out.
func (f Filling[K]) Fill(candidates []Candidate[K], there []Filled[K], out []K) (come, leave []K) {
	wanted := map[K]bool{}
	for _, c := range candidates {
		if f.Takes(c) && !slices.Contains(out, c.ID) {
			wanted[c.ID] = true
		}
	}
	here := map[K]bool{}
	for _, x := range there {
		here[x.ID] = true
		if !x.ByHand && !wanted[x.ID] {
			leave = append(leave, x.ID)
		}
	}
	for _, c := range candidates {
		if wanted[c.ID] && !here[c.ID] {
			come = append(come, c.ID)
			here[c.ID] = true
		}
	}
	return come, leave
}
