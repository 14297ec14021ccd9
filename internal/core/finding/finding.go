// Package finding says how well a text answers the words that someone looks for.
package finding

import (
	"strings"
	"unicode"
)

// Most is how many words of a query count; what stands after them is not looked for.
const Most = 8

// Words are the words of a query: what stands between signs that are neither letters nor digits, at most Most.
func Words(query string) []string {
	words := split(query)
	return words[:min(len(words), Most)]
}

func split(text string) []string {
	return strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
}

// What a word adds where it is found: as a whole word, at the beginning of one, or within one. It adds one more in the
// first words of a text, which name what the rest describes.
const (
	within = 1
	begins = 4
	whole  = 8
	early  = 1
)

// Weight is how well a text answers the words: the sum of what each adds, where it is found best. It is 0 unless every
// word is found. Both have to be folded alike; case and accents count here.
func Weight(words []string, text string) int {
	in := split(text)
	sum := 0
	for _, w := range words {
		best := 0
		for i, x := range in {
			best = max(best, weigh(w, x, i < len(words)))
		}
		if best == 0 {
			return 0
		}
		sum += best
	}
	return sum
}

// weigh is what a word adds by one word of the text.
func weigh(w, in string, first bool) int {
	out := 0
	switch {
	case in == w:
		out = whole
	case strings.HasPrefix(in, w):
		out = begins
	case strings.Contains(in, w):
		out = within
	}
	if out > 0 && first {
		out += early
	}
	return out
}
