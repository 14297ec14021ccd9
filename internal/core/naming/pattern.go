package naming

import (
	"fmt"
	"slices"
	"strings"

	"latelantern/internal/core/fault"
)

// Pattern is how the titles of a course are made: text with words in braces, such as
// "{course} week {week}: {subject} ({date})". Its zero value makes no titles; see Parse.
type Pattern struct {
	text  string
	parts []part
}

// part is text, or the value of a word.
type part struct {
	text string
	word string // "" for text
}

// Default is the pattern of a course that has said none: it tells course, week, date and, where
// known, the subject, never a date alone.
const Default = "{course}, week {week} · {date} · {subject}"

// words are what a pattern may name, in the order in which they are told.
var words = []string{"course", "name", "week", "date", "subject", "part"}

// MaxPattern is how many characters a pattern may have.
const MaxPattern = 200

// Parse reads a pattern; an empty one is the Default. Its error is a fault.Faults of the
// field pattern.
func Parse(text string) (Pattern, error) {
	p := Pattern{text: strings.Join(strings.Fields(text), " ")}
	if p.text == "" {
		return Parse(Default)
	}
	if n := len([]rune(p.text)); n > MaxPattern {
		return Pattern{}, wrong("pattern.long", "most", MaxPattern, "n", n)
	}
	for rest := p.text; rest != ""; {
		open := strings.IndexAny(rest, "{}")
		if open < 0 {
			open = len(rest)
		}
		if open > 0 {
			p.parts = append(p.parts, part{text: rest[:open]})
		}
		if rest = rest[open:]; rest == "" {
			break
		}
		word, after, closed := strings.Cut(rest[1:], "}")
		word = strings.ToLower(strings.TrimSpace(word))
		switch {
		case rest[0] == '}':
			return Pattern{}, wrong("pattern.closed")
		case !closed || strings.Contains(word, "{"):
			return Pattern{}, wrong("pattern.open")
		case !slices.Contains(words, word):
			return Pattern{}, wrong("pattern.word", "word", "{"+word+"}", "known", "{"+strings.Join(words, "}, {")+"}")
		}
		p.parts = append(p.parts, part{word: word})
		rest = after
	}
	if !slices.ContainsFunc(p.parts, func(x part) bool { return x.word != "" && x.word != "part" }) {
		return Pattern{}, wrong("pattern.same")
	}
	return p, nil
}

func wrong(code fault.Code, with ...any) error { return fault.One("pattern", code, with...) }

// String is the pattern as it is written.
func (p Pattern) String() string { return p.text }

// value is what a word stands for; "" where it is not known.
func (l Lecture) value(word string) string {
	switch word {
	case "course":
		return l.Course
	case "name":
		return l.Name
	case "week":
		if l.Week > 0 {
			return fmt.Sprint(l.Week)
		}
	case "date":
		if !l.Ahead {
			return l.Date.Format("Mon 2 Jan")
		}
	case "subject":
		return strings.Join(strings.Fields(l.Subject), " ")
	case "part":
		if l.Part > 1 {
			return fmt.Sprintf("part %d", l.Part)
		}
	}
	return ""
}

// Title is the title of a lecture. What is not known is left out with the text before it and with
// brackets around it. The second recording of a lecture is told from the first, whether the
// pattern says so or not. A title that is too long is cut.
func (p Pattern) Title(l Lecture) string {
	var w strings.Builder
	text, tells := "", false
	for _, x := range p.parts {
		if x.word == "" {
			text += x.text
			continue
		}
		tells = tells || x.word == "part"
		if v := l.value(x.word); v != "" {
			if w.Len() == 0 {
				text = strings.TrimLeft(text, " ,;:.-–·|/)]")
			}
			w.WriteString(text + v)
			text = ""
		} else if close := strings.IndexAny(text, ")]"); close >= 0 {
			text = text[:close+1]
		} else {
			text = ""
		}
	}
	w.WriteString(text)
	if v := l.value("part"); v != "" && !tells {
		w.WriteString(" · " + v)
	}
	out := []rune(strings.Trim(strings.Join(strings.Fields(paired(w.String())), " "), " ,;:-–·|/"))
	if len(out) > MaxLength {
		out = append(out[:MaxLength-1], '…')
	}
	return string(out)
}

// paired is text without brackets that hold nothing, or that do not close or open.
func paired(text string) string {
	var out []rune
	var open []int // where brackets opened in out
	for _, r := range text {
		switch r {
		case '(', '[':
			open = append(open, len(out))
		case ')', ']':
			if len(open) == 0 {
				continue
			}
			from := open[len(open)-1]
			open = open[:len(open)-1]
			if strings.TrimSpace(string(out[from+1:])) == "" {
				out = out[:from]
				continue
			}
		}
		out = append(out, r)
	}
	for i := len(open) - 1; i >= 0; i-- {
		out = slices.Delete(out, open[i], open[i]+1)
	}
	return string(out)
}
