// Package chapter knows where the parts of a lecture begin and what they are called: as people
// say, or else as markers and slides propose.
package chapter

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/span"
)

// Chapter is a part of a lecture: it stands until the next begins, or to the end.
type Chapter struct {
	At    time.Duration // from the beginning of the recording
	Title string
}

// The most that is kept of a recording.
const (
	MaxChapters = 300
	MaxTitle    = 120 // characters
)

// least is how long a chapter is at least that is proposed: a fortieth of the lecture, but no less
// than ten seconds and no more than a minute and a half.
func least(length time.Duration) time.Duration {
	return min(max(length/40, 10*time.Second), 90*time.Second)
}

// Propose makes chapters of markers that have a word, and of the titles of slides. A marker was set
// by a person, so no slide near it makes another; slides that follow each other quickly make
// one, and one title after another that is the same. What is struck makes none.
func Propose(markers, slides []Chapter, kept span.Set) []Chapter {
	room := least(kept.Len())
	var out []Chapter
	taken := func(at time.Duration) bool {
		return slices.ContainsFunc(out, func(c Chapter) bool { return (c.At - at).Abs() < room })
	}
	for _, m := range markers {
		if m.Title = Clean(m.Title); m.Title != "" && kept.Contains(m.At) && !taken(m.At) {
			out = append(out, m)
		}
	}
	last := ""
	for i, s := range slides {
		end := kept.End()
		if i+1 < len(slides) {
			end = slides[i+1].At
		}
		stands := kept.Intersect(span.Of(span.Span{Start: s.At, End: end}))
		title := Clean(s.Title)
		if stands.Empty() || title == "" || strings.EqualFold(title, last) {
			continue
		}
		last = title
		if at := stands.Spans()[0].Start; !taken(at) {
			out = append(out, Chapter{at, title})
		}
	}
	slices.SortFunc(out, func(a, b Chapter) int { return cmp.Compare(a.At, b.At) })
	return out
}

// Clean is a title as it is kept, in one line; "" for none.
func Clean(title string) string {
	out := []rune(strings.Join(strings.Fields(title), " "))
	if len(out) > MaxTitle {
		out = append(out[:MaxTitle-1], '…')
	}
	return string(out)
}

// Check puts chapters that a person wrote in order. Its error is a fault.Faults of the field chapters.
func Check(list []Chapter, length time.Duration) ([]Chapter, error) {
	var wrong fault.Faults
	wrong.When(len(list) > MaxChapters, "chapters", "chapter.many", "most", MaxChapters, "n", len(list))
	out := slices.Clone(list)
	for i, c := range out {
		out[i].Title = strings.Join(strings.Fields(c.Title), " ")
		wrong.When(out[i].Title == "", "chapters", "chapter.title")
		wrong.When(len([]rune(out[i].Title)) > MaxTitle, "chapters", "chapter.title_long", "most", MaxTitle)
		wrong.When(c.At < 0 || c.At >= length, "chapters", "chapter.outside")
	}
	slices.SortStableFunc(out, func(a, b Chapter) int { return cmp.Compare(a.At, b.At) })
	for i := 1; i < len(out); i++ {
		wrong.When(out[i].At == out[i-1].At, "chapters", "chapter.twice")
	}
	if len(wrong) > 1 {
		wrong = wrong[:1]
	}
	return out, wrong.Err()
}

// Published is a chapter on the clock of what is published.
type Published struct {
	span.Span
	Title string
}

// Carry gives chapters on the clock of what is published: one whose beginning is struck begins at
// the cut, and one of which nothing is published is left out.
func Carry(list []Chapter, by cutlist.Carrier) []Published {
	moments := make([]time.Duration, len(list))
	for i, c := range list {
		moments[i] = c.At
	}
	var out []Published
	for _, x := range by.Standing(moments) {
		out = append(out, Published{x.At, list[x.Of].Title})
	}
	return out
}
