package wording

import (
	"cmp"
	"slices"
)

// Language is what is known of a language as a whole: how likely its words are by themselves, and
// which follow each other (a bigram model that backs off, Katz 1987).
type Language struct {
	Words []string  // the begin of a sentence and its end among them, as ARPA files name them
	Alone []float64 // probability of each word by itself
	Rest  []float64 // weight of Alone for what is not known to follow a word
	Pairs []Pair    // by the word that goes before, then by the word
}

// Pair is a word after another, both as places in the words of a language.
type Pair struct {
	Before, Word int32
	P            float32 // probability of the word after the one before
}

// InOrder compares pairs as they stand in a language.
func InOrder(a, b Pair) int {
	return cmp.Or(cmp.Compare(a.Before, b.Before), cmp.Compare(a.Word, b.Word))
}

// Within is the language with its n likeliest words only, and such of the others as are wanted. The
// probabilities of the words that are left out fall to those that stay.
func (l *Language) Within(n int, wanted func(word string) bool) *Language {
	least := 0.0 // probability of the last of the likeliest
	if n < len(l.Alone) {
		least = slices.Sorted(slices.Values(l.Alone))[len(l.Alone)-n]
	}
	place := make([]int32, len(l.Words)) // among those that stay, from one
	out := &Language{}
	var sum float64
	for i, w := range l.Words {
		if l.Alone[i] < least && w != begin && w != end && !wanted(w) {
			continue
		}
		out.Words = append(out.Words, w)
		out.Alone = append(out.Alone, l.Alone[i])
		place[i] = int32(len(out.Words))
		if w != begin {
			sum += l.Alone[i]
		}
	}
	for i, w := range out.Words {
		out.Alone[i] /= sum
		if w == begin {
			out.Alone[i] = 0
		}
	}
	for _, p := range l.Pairs {
		if a, b := place[p.Before], place[p.Word]; a > 0 && b > 0 && out.Words[b-1] != begin {
			out.Pairs = append(out.Pairs, Pair{a - 1, b - 1, p.P})
		}
	}
	out.Rest = rests(len(out.Words), out.Pairs, out.Alone)
	return out
}

// rests are the weights with which all that follows each word sums up to one.
func rests(words int, pairs []Pair, alone []float64) []float64 {
	listed, known := make([]float64, words), make([]float64, words)
	for _, p := range pairs {
		listed[p.Before] += float64(p.P)
		known[p.Before] += alone[p.Word]
	}
	out := make([]float64, words)
	for i := range out {
		out[i] = max(0, 1-listed[i]) / max(1e-9, 1-known[i])
	}
	return out
}

// after is the probability of a word after another.
func (l *Language) after(before, word int32) float64 {
	if i, ok := slices.BinarySearchFunc(l.Pairs, Pair{Before: before, Word: word}, InOrder); ok {
		return float64(l.Pairs[i].P)
	}
	return l.Rest[before] * l.Alone[word]
}
