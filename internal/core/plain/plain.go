// Package plain keeps what people write fit to be shown to others: without signs that do not show, or that turn the
// direction of what stands around them.
package plain

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"latelantern/internal/core/fault"
)

// Text is what somebody wrote as it is kept: without what does not show, no spaces at the ends of lines, and at most
// one empty line in a row. Its error is of type fault.Faults, about the field in which it was written: nothing is said,
// or more than so many characters.
func Text(field, text string, most int) (string, error) {
	text = strings.Map(shown, strings.ToValidUTF8(text, ""))
	var out []string
	for line := range strings.SplitSeq(text, "\n") {
		line = strings.TrimRightFunc(line, unicode.IsSpace)
		if line == "" && (len(out) == 0 || out[len(out)-1] == "") {
			continue
		}
		out = append(out, line)
	}
	text = strings.TrimSpace(strings.Join(out, "\n"))
	if strings.TrimFunc(text, func(r rune) bool { return unicode.IsSpace(r) || unicode.Is(unicode.Cf, r) }) == "" {
		return "", fault.One(field, "chat.empty")
	}
	if n := utf8.RuneCountInString(text); n > most {
		return "", fault.One(field, "chat.long", "most", most, "n", n)
	}
	return text, nil
}

// Line is Text in one line.
func Line(field, text string, most int) (string, error) {
	text, err := Text(field, strings.Join(strings.Fields(strings.ToValidUTF8(text, "")), " "), most)
	return strings.Join(strings.Fields(text), " "), err
}

// shown gives a sign as it is kept, and -1 for one that is not. The signs that join others (U+200C, U+200D) are words
// to those who write with them.
func shown(r rune) rune {
	const joiner, nonJoiner = 0x200d, 0x200c
	switch {
	case r == '\r' || r == 0x2028 || r == 0x2029:
		return '\n'
	case r == '\n' || r == joiner || r == nonJoiner:
		return r
	case r == '\t':
		return ' '
	case unicode.Is(unicode.Cc, r) || unicode.Is(unicode.Cf, r) && !isTag(r):
		return -1
	}
	return r
}

// isTag tells the signs of which flags are made from others that do not show.
func isTag(r rune) bool { return r >= 0xe0020 && r <= 0xe007f }
