// Package news is what students are told of: how often someone wants mail of it, and what stands in such a mail.
package news

import (
	"regexp"
	"strings"
	"time"

	"latelantern/internal/core/fault"
)

// Often is how often someone wants mail of what is new.
type Often string

const (
	AtOnce Often = "at_once"
	Daily  Often = "daily" // what holds for whoever has chosen nothing
	Weekly Often = "weekly"
	Never  Often = "never"
)

// Due is when a mail may go of what came at a time, when the last went at another; the zero time is for none. It is
// false for someone who wants none.
func (o Often) Due(came, last time.Time) (due time.Time, any bool) {
	due = came
	wait := map[Often]time.Duration{AtOnce: 0, Daily: 24 * time.Hour, Weekly: 7 * 24 * time.Hour}
	d, any := wait[o]
	if next := last.Add(d); !last.IsZero() && next.After(due) {
		due = next
	}
	return due, any
}

// Word is what a template names in braces, and what is put there.
type Word string

const (
	Name       Word = "name"       // of whoever is written to
	Course     Word = "course"     // its code and title
	Recordings Word = "recordings" // what is new: title, length and address of each
	Unseen     Word = "unseen"     // of how many recordings they were told and have not seen them
	CatchUp    Word = "catch_up"   // the address of all they can catch up on
)

// Words are all of them.
var Words = []Word{Name, Course, Recordings, Unseen, CatchUp}

// Longest is how many characters a template may have.
const Longest = 2000

var inBraces = regexp.MustCompile(`\{([^{}]*)\}`)

// Check says what is wrong with a template: an error that can be shown, when it is longer than Longest, names a word
// that is none of Words, or does not name the recordings. A template of spaces alone stands for the one of the college.
func Check(template string) error {
	switch n := len([]rune(template)); {
	case strings.TrimSpace(template) == "":
		return nil
	case n > Longest:
		return fault.Say("news.long", "most", Longest, "n", n)
	}
	named := false
	for _, m := range inBraces.FindAllStringSubmatch(template, -1) {
		word, known := Word(m[1]), false
		for _, w := range Words {
			known = known || w == word
		}
		if !known {
			return fault.Say("news.unknown_word", "word", m[1])
		}
		named = named || word == Recordings
	}
	if !named {
		return fault.Code("news.without_recordings")
	}
	return nil
}

// Fill is a template with its words in their places. What they say is put there as it is: braces in it name nothing.
func Fill(template string, words map[Word]string) string {
	return inBraces.ReplaceAllStringFunc(template, func(in string) string {
		if said, ok := words[Word(in[1:len(in)-1])]; ok {
			return said
		}
		return in
	})
}

// Lasts is how long what nobody has looked at is news in the bar over the pages; where it belongs it stands for ever.
const Lasts = 60 * 24 * time.Hour
