package caption

import (
	"time"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
)

// leastKept is the share of a line that must be published for someone to read it.
const leastKept = 1.0 / 3

// Carry gives lines on the clock of what is published. A line of which hardly anything is kept is
// left out, since nobody hears enough of it; of a line that is kept in part its text stays whole.
func Carry(cues []Cue, by cutlist.Carrier) []Cue {
	var out []Cue
	for _, c := range cues {
		at, ok := by.Span(c.Span)
		if !ok || at.Len() <= time.Duration(float64(c.Len())*leastKept) {
			continue
		}
		carried := c
		carried.Span, carried.Words = at, nil
		for _, w := range c.Words {
			x, ok := by.Span(w.Span)
			if !ok { // it stays with the text, where it was cut
				m, _ := by.Moment(w.Start)
				x = span.Span{Start: min(max(m, at.Start), at.End), End: min(max(m, at.Start), at.End)}
			}
			carried.Words = append(carried.Words, Word{x, w.Text, w.Unsure})
		}
		out = append(out, carried)
	}
	return out
}

// Back gives lines that are on the clock of what is published on that of the source.
func Back(cues []Cue, by cutlist.Carrier) []Cue {
	out := make([]Cue, 0, len(cues))
	for _, c := range cues {
		back := c
		back.Span = backSpan(c.Span, by)
		back.Words = nil
		for _, w := range c.Words {
			back.Words = append(back.Words, Word{backSpan(w.Span, by), w.Text, w.Unsure})
		}
		if !back.Empty() {
			out = append(out, back)
		}
	}
	return out
}

func backSpan(s span.Span, by cutlist.Carrier) span.Span {
	if s.Empty() {
		at := by.Source(s.Start)
		return span.Span{Start: at, End: at}
	}
	return span.Span{Start: by.Source(s.Start), End: by.Source(s.End-time.Nanosecond) + time.Nanosecond}
}
