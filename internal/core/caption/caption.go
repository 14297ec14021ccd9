// Package caption knows the lines of captions and their words: how words become lines, how lines
// are corrected, and how they are searched.
package caption

import (
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"latelantern/internal/core/span"
)

// Word is one word and when it is said.
type Word struct {
	span.Span
	Text   string
	Unsure bool // whoever drafted it was hardly sure of it
}

// Cue is a line of captions and when it is said.
type Cue struct {
	span.Span
	Text    string // as it is read, without markup; its lines stand apart by line breaks
	Speaker string // who says it; "" where that is not said
	Words   []Word // when each word is said; none where that is not known
	As      Written
}

// Written is what a file said of a cue besides: it is kept, so that it goes out again.
type Written struct {
	Name     string // the identifier of WebVTT; "" for a number alone
	Settings string // what stood behind the times
	Markup   string // the text with its marks, as WebVTT; "" when it has none but its speaker
	Before   string // notes, styles and regions that stood before it, blocks apart by an empty line
}

// Sheet is all that a file of captions holds.
type Sheet struct {
	Head string // what stood behind and below its first word, WEBVTT
	Cues []Cue
	Tail string // notes after the last cue
}

// Retext is a cue with other words, which a person wrote. Marks of a file and times of words do
// not hold for them; when only capitals or signs changed the times of words stay.
func (c Cue) Retext(text string) Cue {
	text = Clean(text)
	if text == c.Text {
		return c
	}
	c.As.Markup = ""
	words := strings.Fields(text)
	if len(words) == len(c.Words) {
		kept := make([]Word, len(words))
		for i, w := range words {
			kept[i] = Word{c.Words[i].Span, w, c.Words[i].Unsure && w == c.Words[i].Text}
		}
		c.Words = kept
	} else {
		c.Words = nil
	}
	c.Text = text
	return c
}

// Clean is text as it is kept: no spaces at the ends of lines, no empty lines, no signs that do not show.
func Clean(text string) string {
	text = strings.Map(func(r rune) rune {
		switch {
		case r == '\n' || r == '\t':
			return r
		case r < ' ' || r == 0x7f || r == 0x200b || r == 0xfeff:
			return -1
		}
		return r
	}, text)
	var lines []string
	for line := range strings.SplitSeq(text, "\n") {
		if line = strings.Join(strings.Fields(line), " "); line != "" {
			lines = append(lines, line)
		}
	}
	return strings.Join(lines, "\n")
}

// Flat is the text of a cue in one line.
func (c Cue) Flat() string { return strings.ReplaceAll(c.Text, "\n", " ") }

// At is when a stretch of the text of a cue is said, counted in characters: by its words where
// their times are known, else when all of it is.
func (c Cue) At(from, to int) span.Span {
	runes := []rune(c.Text)
	from, to = max(0, min(from, len(runes))), max(0, min(to, len(runes)))
	if len(c.Words) > 0 && to > from {
		first := len(strings.Fields(string(runes[:from])))
		if from > 0 && !unicode.IsSpace(runes[from-1]) && !unicode.IsSpace(runes[from]) {
			first-- // it begins within a word
		}
		last := len(strings.Fields(string(runes[:to]))) - 1
		if 0 <= first && first <= last && last < len(c.Words) {
			return span.Span{Start: c.Words[first].Start, End: c.Words[last].End}
		}
	}
	return c.Span
}

// Spoken are the words of a cue and when each is said: as it is known, or else in proportion to how
// long they are as they are written.
func (c Cue) Spoken() []Word {
	texts := strings.Fields(c.Text)
	if len(texts) == len(c.Words) {
		return slices.Clone(c.Words)
	}
	signs := 0
	for _, t := range texts {
		signs += utf8.RuneCountInString(t)
	}
	out := make([]Word, 0, len(texts))
	at, n := c.Start, 0
	for _, t := range texts {
		n += utf8.RuneCountInString(t)
		end := c.Start + c.Len()*time.Duration(n)/time.Duration(signs)
		out = append(out, Word{Span: span.Span{Start: at, End: end}, Text: t})
		at = end
	}
	return out
}

// Speakers are the names of those who speak, in order.
func Speakers(cues []Cue) []string {
	out := []string{}
	for _, c := range cues {
		if c.Speaker != "" && !slices.Contains(out, c.Speaker) {
			out = append(out, c.Speaker)
		}
	}
	slices.Sort(out)
	return out
}
