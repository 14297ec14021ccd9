package finding

import (
	"slices"
	"strings"
	"testing"
)

func TestWords(t *testing.T) {
	for query, want := range map[string][]string{
		"":                         {},
		"  ,; ":                    {},
		"boa 140":                  {"boa", "140"},
		"boa140/week-6":            {"boa140", "week", "6"},
		"løfte 好":                  {"løfte", "好"},
		strings.Repeat("word ", 9): slices.Repeat([]string{"word"}, Most),
	} {
		if got := Words(query); !slices.Equal(got, want) {
			t.Errorf("%q: %q", query, got)
		}
	}
}

func TestWeight(t *testing.T) {
	for _, c := range []struct {
		name, words, text string
		weight            int
	}{
		{"nothing is looked for", "", "boa 140", 0},
		{"nothing is there", "boa", "", 0},
		{"a whole word, first", "boa", "boa 140 small boats", 9},
		{"a whole word, later", "small", "boa 140 small boats", 8},
		{"the beginning of one", "bo", "boa 140", 5},
		{"the beginning of a later one, though an earlier holds it", "mall", "asmall mallet", 4},
		{"within one, first", "oa", "boa 140", 2},
		{"within a later one", "oats", "boa 140 small boats", 1},
		{"each word, as many first words as are looked for", "140 boa", "boa 140 small boats", 18},
		{"all but one", "boa 141", "boa 140 small boats", 0},
		{"the same word twice", "boa boa", "boa 140", 18},
	} {
		if got := Weight(Words(c.words), c.text); got != c.weight {
			t.Errorf("%s: %d", c.name, got)
		}
	}
}
