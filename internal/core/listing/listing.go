// Package listing chooses among all recordings and puts them in order, as a table of them is read.
package listing

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"golang.org/x/text/collate"
	"golang.org/x/text/language"

	"latelantern/internal/core/viewing"
	"latelantern/internal/core/workflow"
)

// Line is a recording as far as it is chosen and ordered by.
type Line struct {
	Course    [16]byte // the id of the course of its lecture
	Code      string   // of that course
	Title     string   // as it is shown
	Titled    bool     // somebody gave it that title
	Week      int      // of teaching; 0 outside
	At        time.Time
	Next      workflow.Step
	Running   bool // it is captured now
	Light     viewing.Light
	Can, Of   int // students who can watch it now, of how many
	Length    time.Duration
	Bytes     int64
	Captioned bool // students are shown captions of it
	Seen      int  // people who have begun to watch it
}

// Waiting is what a recording waits for: a step by its name (workflow.Step), or one of these.
const (
	Any     = ""
	Hand    = "hand"    // any step that somebody has to do
	Nothing = "nothing" // it waits for nothing
)

// Wanted says which recordings are wanted. What is zero keeps none out.
type Wanted struct {
	Words       string // each is in the code or the title, whatever its case
	Course      [16]byte
	Week        int
	Waits       string // Any, Hand, Nothing, or a step
	Light       viewing.Light
	Longer      time.Duration // at least that long
	Shorter     time.Duration // shorter than that
	Larger      int64         // at least so many bytes
	Untitled    bool
	Uncaptioned bool
	Unseen      bool // nobody has begun to watch it
}

func (w Wanted) waits(l Line) bool {
	switch w.Waits {
	case Any:
		return true
	case Hand:
		return l.Next != workflow.Done && l.Next != workflow.Wait
	case Nothing:
		return l.Next == workflow.Done
	}
	return string(l.Next) == w.Waits
}

func (w Wanted) keeps(l Line, words []string) bool {
	return (w.Course == [16]byte{} || l.Course == w.Course) && (w.Week == 0 || l.Week == w.Week) && w.waits(l) &&
		(w.Light == "" || !l.Running && l.Light == w.Light) && l.Length >= w.Longer &&
		(w.Shorter == 0 || l.Length < w.Shorter) && l.Bytes >= w.Larger && !(w.Untitled && l.Titled) &&
		!(w.Uncaptioned && l.Captioned) && !(w.Unseen && l.Seen > 0) && holds(l, words)
}

func holds(l Line, words []string) bool {
	if len(words) == 0 {
		return true
	}
	text := strings.ToLower(l.Code + " " + l.Title)
	for _, w := range words {
		if !strings.Contains(text, w) {
			return false
		}
	}
	return true
}

// Column is what lines are put in order by.
type Column string

// The columns. The order of each begins with what its name makes one expect first: the earliest, the shortest, what
// nobody can watch, what waits for the first step. What is equal stands the latest first.
const (
	ByDate   Column = "date"
	ByCourse Column = "course"
	ByTitle  Column = "title" // numbers within a title by what they are worth
	ByWaits  Column = "waits"
	ByLight  Column = "light" // by the share of those who can
	ByLength Column = "length"
	BySize   Column = "size"
	BySeen   Column = "seen"
)

// steps is how far along what waits for each is; what waits for nothing is furthest.
var steps = []workflow.Step{workflow.Capture, workflow.Stop, workflow.TryAgain, workflow.Wait, workflow.Trim,
	workflow.Title, workflow.Rule, workflow.List, workflow.LightUp, workflow.Publish, workflow.Words, workflow.Tell,
	workflow.Done}

// Choose gives the places of the lines that are wanted, in order by a column, from its end if down is set. Titles are
// in the order of a language (BCP 47).
func Choose(lines []Line, w Wanted, by Column, down bool, locale string) []int {
	words := strings.Fields(strings.ToLower(w.Words))
	out := make([]int, 0, len(lines))
	for i, l := range lines {
		if w.keeps(l, words) {
			out = append(out, i)
		}
	}
	order := ordered(lines, out, by, locale)
	way := 1
	if down {
		way = -1
	}
	slices.SortStableFunc(out, func(i, j int) int {
		return cmp.Or(way*order(i, j), lines[j].At.Compare(lines[i].At))
	})
	return out
}

// ordered compares two lines, by their places, of those that are chosen.
func ordered(lines []Line, chosen []int, by Column, locale string) func(i, j int) int {
	switch by {
	case ByCourse, ByTitle:
		text := func(l Line) string { return l.Title }
		if by == ByCourse {
			text = func(l Line) string { return l.Code }
		}
		keys := collated(lines, chosen, text, locale)
		return func(i, j int) int { return slices.Compare(keys[i], keys[j]) }
	case ByWaits:
		return number(lines, func(l Line) float64 { return float64(slices.Index(steps, l.Next)) })
	case ByLight:
		return number(lines, share)
	case ByLength:
		return number(lines, func(l Line) float64 { return float64(l.Length) })
	case BySize:
		return number(lines, func(l Line) float64 { return float64(l.Bytes) })
	case BySeen:
		return number(lines, func(l Line) float64 { return float64(l.Seen) })
	}
	return func(i, j int) int { return lines[i].At.Compare(lines[j].At) }
}

func number(lines []Line, of func(Line) float64) func(i, j int) int {
	return func(i, j int) int { return cmp.Compare(of(lines[i]), of(lines[j])) }
}

// share is how many of a hundred can watch. Of a course without students nobody can.
func share(l Line) float64 { return float64(l.Can) / float64(max(l.Of, 1)) }

// collated are the keys by which the texts of chosen lines are in order (Unicode Technical Standard 10).
func collated(lines []Line, chosen []int, text func(Line) string, locale string) map[int][]byte {
	c := collate.New(language.Make(locale), collate.Numeric, collate.IgnoreCase)
	var buf collate.Buffer
	keys := make(map[int][]byte, len(chosen))
	for _, i := range chosen {
		keys[i] = c.KeyFromString(&buf, text(lines[i]))
	}
	return keys
}
