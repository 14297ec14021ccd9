// Package wording knows the words of a course: how what is written is spoken, which words carry
// a meaning, and which words are likely to follow each other.
package wording

import (
	"strconv"
	"strings"
	"unicode"
)

// Words are the words of a text as they are spoken, in lower case. Numbers below a million are
// spelt; signs are left out. An apostrophe or a hyphen within a word stays an apostrophe, and
// makes two words.
func Words(text string) []string {
	var out []string
	fields := strings.FieldsFunc(strings.ToLower(strings.ReplaceAll(text, "’", "'")), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r) && r != '\'' && r != '.' && r != ','
	})
	for _, f := range fields {
		f = strings.Trim(f, "'.,")
		if n, err := strconv.Atoi(strings.ReplaceAll(f, ",", "")); err == nil && n >= 0 && n < 1_000_000 {
			out = append(out, spelt(n)...)
			continue
		}
		for _, w := range strings.FieldsFunc(f, func(r rune) bool { return r == '.' || r == ',' }) {
			if w = strings.Trim(w, "'"); w != "" && strings.IndexFunc(w, unicode.IsDigit) < 0 {
				out = append(out, w)
			}
		}
	}
	return out
}

// Lines are the words of a text, sentence by sentence and line by line.
func Lines(text string) [][]string {
	var out [][]string
	for _, line := range strings.FieldsFunc(text, func(r rune) bool { return strings.ContainsRune("\n.?!;:", r) }) {
		if w := Words(line); len(w) > 0 {
			out = append(out, w)
		}
	}
	return out
}

var (
	ones = strings.Fields("zero one two three four five six seven eight nine ten eleven twelve thirteen fourteen fifteen sixteen seventeen eighteen nineteen")
	tens = strings.Fields("- - twenty thirty forty fifty sixty seventy eighty ninety")
)

// spelt is a number below a million in words.
func spelt(n int) []string {
	switch {
	case n < 20:
		return []string{ones[n]}
	case n < 100:
		out := []string{tens[n/10]}
		if n%10 > 0 {
			out = append(out, ones[n%10])
		}
		return out
	case n < 1000:
		out := []string{ones[n/100], "hundred"}
		if n%100 > 0 {
			out = append(out, spelt(n%100)...)
		}
		return out
	}
	out := append(spelt(n/1000), "thousand")
	if n%1000 > 0 {
		out = append(out, spelt(n%1000)...)
	}
	return out
}

// Carries tells whether a word means something by itself, so that someone might look for it.
func Carries(word string) bool { return len([]rune(word)) > 2 && !little[word] }

// little are English words that hold sentences together.
var little = func() map[string]bool {
	out := map[string]bool{}
	for _, w := range strings.Fields(`about above after again all along also although always among
		and another any anyone anything are aren't around away
		back because been before behind being below between beyond both but can can't cannot come comes could
			couldn't did didn't does doesn't doing don't done down during
		each either else enough even ever every everyone everything few for
			from gave get gets give given gives goes going gone got had has hasn't have haven't having her here hers
			him his how
		however i'll i'm i've into isn't it's its itself just keep kept know let let's like little look made make
			makes many may maybe might more most much must myself
		near need never next nobody none nor not nothing now off often once one only onto other others our out over
			own people perhaps please put quite rather really right
		said same say says see seen she should shouldn't since some someone something sometimes soon still such take
			takes than that that's the their them themselves then there there's these they
		they're thing things think this those though three through thus till today together too took two under until
			upon use used very want was wasn't way well went were weren't what what's
		when where whether which while who whole whom whose why will with within without won't would wouldn't yes yet
			you you'll you're your yours good want first second last new`) {
		out[w] = true
	}
	return out
}()
