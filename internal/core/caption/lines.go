package caption

import (
	"strings"
	"time"
	"unicode"

	"latelantern/internal/core/span"
)

// How lines are made of words. They are read at ease on two rows of a picture.
const (
	mostSigns  = 84
	mostTime   = 7 * time.Second
	breakAfter = 700 * time.Millisecond // of silence a new line begins
	breath     = 250 * time.Millisecond // and after this, when the line has longSigns already
	longSigns  = 50
)

// FromWords puts words into lines: where there is a pause, or a line would become too long.
func FromWords(words []Word) []Cue {
	var out []Cue
	var open []Word
	signs := 0
	end := func() {
		if len(open) == 0 {
			return
		}
		texts := make([]string, len(open))
		for i, w := range open {
			texts[i] = w.Text
		}
		out = append(out,
			Cue{Span: span.Span{Start: open[0].Start, End: open[len(open)-1].End}, Text: strings.Join(texts, " "),
				Words: open})
		open, signs = nil, 0
	}
	for _, w := range words {
		if n := len(open); n > 0 {
			gap := w.Start - open[n-1].End
			switch {
			case gap >= breakAfter, gap >= breath &&
				signs >= longSigns, signs+1+len(w.Text) > mostSigns, w.End-open[0].Start > mostTime:
				end()
			}
		}
		open = append(open, w)
		signs += len(w.Text) + 1
	}
	end()
	return out
}

// Pieces are stretches in which someone speaks, made ready to be drafted one by one: pauses of less
// than two seconds are closed, and each has a little more at both ends. What is longer than most is
// parted at the last moment of quiet in the second half of that, or where there is none at its end.
func Pieces(speech span.Set, quiet []time.Duration, most time.Duration) []span.Span {
	const closed, more = 2 * time.Second, 250 * time.Millisecond
	var out []span.Span
	for _, s := range speech.Spans() {
		s = span.Span{Start: max(0, s.Start-more), End: s.End + more}
		if n := len(out); n > 0 {
			if s.Start-out[n-1].End < closed && s.End-out[n-1].Start <= most {
				out[n-1].End = max(out[n-1].End, s.End)
				continue
			}
			s.Start = max(s.Start, out[n-1].End)
		}
		for s.Len() > most {
			at := s.Start + most
			for _, q := range quiet {
				if q > s.Start+most/2 && q < s.Start+most {
					at = q
				}
			}
			out = append(out, span.Span{Start: s.Start, End: at})
			s.Start = at
		}
		if !s.Empty() {
			out = append(out, s)
		}
	}
	return out
}

// Split parts a cue before a place in its text, counted in runes. Its times are those of its
// words where they are known, else by the share of signs. ok is false when one part would be empty.
func (c Cue) Split(at int) (first, second Cue, ok bool) {
	runes := []rune(c.Text)
	if at <= 0 || at >= len(runes) {
		return c, Cue{}, false
	}
	a, b := Clean(string(runes[:at])), Clean(string(runes[at:]))
	if a == "" || b == "" {
		return c, Cue{}, false
	}
	when := c.Start + time.Duration(float64(c.Len())*float64(at)/float64(len(runes))).Round(time.Millisecond)
	n := len(strings.Fields(a))
	timed := len(c.Words) == n+len(strings.Fields(b))
	if timed {
		when = (c.Words[n-1].End + c.Words[n].Start) / 2
	}
	when = min(max(when, c.Start+time.Millisecond), c.End-time.Millisecond)
	first, second = c, Cue{Speaker: c.Speaker}
	first.As.Markup = ""
	first.Text, first.End = a, when
	second.Text, second.Span = b, span.Span{Start: when, End: c.End}
	first.Words = nil
	if timed {
		first.Words, second.Words = c.Words[:n:n], c.Words[n:]
	}
	return first, second, c.Len() > 2*time.Millisecond
}

// Join makes one cue of two that follow each other; the first says who speaks.
func Join(a, b Cue) Cue {
	out := a
	out.As.Markup = ""
	out.End = max(a.End, b.End)
	out.Text = Clean(a.Text + " " + b.Text)
	out.Words = nil
	if len(a.Words) > 0 && len(b.Words) > 0 {
		out.Words = append(append([]Word{}, a.Words...), b.Words...)
	}
	return out
}

// Finding is how text is looked for.
type Finding struct {
	Text   string
	Exact  bool // capitals count
	Whole  bool // whole words only
	Marked bool // accents count
}

// Find is where a text stands in another, as stretches of runes; none for an empty text.
func (f Finding) Find(in string) [][2]int {
	text, want := f.fold(in), f.fold(f.Text)
	if len(want) == 0 || len(text) < len(want) {
		return nil
	}
	var out [][2]int
	word := func(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }
	for i := 0; i+len(want) <= len(text); i++ {
		if string(text[i:i+len(want)]) != string(want) {
			continue
		}
		to := i + len(want)
		if f.Whole && (i > 0 && word(text[i-1]) && word(text[i]) ||
			to < len(text) && word(text[to]) && word(text[to-1])) {
			continue
		}
		out = append(out, [2]int{i, to})
		i = to - 1
	}
	return out
}

// fold is a text rune by rune as it is compared.
func (f Finding) fold(text string) []rune {
	out := []rune(text)
	for i, r := range out {
		if r == '\n' || r == 0xa0 {
			r = ' '
		}
		if r == '’' {
			r = '\''
		}
		if !f.Exact {
			r = unicode.ToLower(r)
		}
		if !f.Marked {
			r = plainLetter(r)
		}
		out[i] = r
	}
	return out
}

// Replace is a text with all that is found put by another, and how often.
func (f Finding) Replace(in, with string) (string, int) {
	found := f.Find(in)
	runes := []rune(in)
	var w strings.Builder
	at := 0
	for _, x := range found {
		w.WriteString(string(runes[at:x[0]]))
		w.WriteString(with)
		at = x[1]
	}
	w.WriteString(string(runes[at:]))
	return w.String(), len(found)
}
