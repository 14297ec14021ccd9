package wording

import (
	"bufio"
	"fmt"
	"io"
	"maps"
	"math"
	"slices"
	"strings"
)

// Model tells how likely words are to follow each other: what a course says, over the commonest
// words of its language. It is an interpolated trigram model (Witten and Bell 1991, method C).
type Model struct {
	counts [3]map[string]float64 // of one, two and three words in a row
	after  [2]map[string]follow  // what follows one word, and two
	base   map[string]float64    // probability of each word by itself
}

type follow struct{ kinds, all float64 }

const (
	begin = "<s>"
	end   = "</s>"
)

// own is the share of the course's own words in how likely a word is by itself.
const own = 0.35

// NewModel is the model of lines of words of a course, over the words of its language with their
// probabilities. Lines may repeat: what is said more often counts more.
func NewModel(lines [][]string, common map[string]float64) *Model {
	m := &Model{base: map[string]float64{}}
	for i := range m.counts {
		m.counts[i] = map[string]float64{}
	}
	var total float64
	single := map[string]float64{}
	for _, line := range lines {
		words := append(append([]string{begin}, line...), end)
		for i := range words {
			if i > 0 {
				single[words[i]]++
				total++
			}
			for n := 1; n <= 3 && i+n <= len(words); n++ {
				m.counts[n-1][strings.Join(words[i:i+n], " ")]++
			}
		}
	}
	for n := range m.after {
		m.after[n] = map[string]follow{}
		for gram, c := range m.counts[n+1] {
			h := gram[:strings.LastIndexByte(gram, ' ')]
			f := m.after[n][h]
			m.after[n][h] = follow{f.kinds + 1, f.all + c}
		}
	}
	var sum float64
	for w, p := range common {
		if w != begin {
			sum += p
		}
	}
	share := own
	switch {
	case total == 0:
		share = 0
	case sum == 0:
		share = 1
	}
	for w, c := range single {
		m.base[w] += share * c / total
	}
	for w, p := range common {
		if w != begin {
			m.base[w] += (1 - share) * p / sum
		}
	}
	return m
}

// Vocabulary lists the words of the model, in order.
func (m *Model) Vocabulary() []string {
	out := []string{}
	for w := range m.base {
		if w != end {
			out = append(out, w)
		}
	}
	slices.Sort(out)
	return out
}

// Likely is the probability that a word follows others, of which the last two count.
func (m *Model) Likely(word string, before ...string) float64 {
	if len(before) > 2 {
		before = before[len(before)-2:]
	}
	if len(before) == 0 {
		return m.base[word]
	}
	lower := m.Likely(word, before[1:]...)
	h := strings.Join(before, " ")
	f, ok := m.after[len(before)-1][h]
	if !ok {
		return lower
	}
	return (m.counts[len(before)][h+" "+word] + f.kinds*lower) / (f.all + f.kinds)
}

// WriteARPA writes the model as an ARPA n-gram file, as speech recognisers read it.
func (m *Model) WriteARPA(w io.Writer) error {
	out := bufio.NewWriter(w)
	singles := append(m.Vocabulary(), begin, end)
	slices.Sort(singles)
	grams := [3][]string{singles, slices.Sorted(maps.Keys(m.counts[1])), slices.Sorted(maps.Keys(m.counts[2]))}
	fmt.Fprint(out, "\\data\\\n")
	for n, list := range grams {
		fmt.Fprintf(out, "ngram %d=%d\n", n+1, len(list))
	}
	for n, list := range grams {
		fmt.Fprintf(out, "\n\\%d-grams:\n", n+1)
		for _, gram := range list {
			words := strings.Split(gram, " ")
			p := -99.0
			if gram != begin {
				p = max(p, math.Log10(m.Likely(words[n], words[:n]...)))
			}
			fmt.Fprintf(out, "%.5f\t%s", p, gram)
			if n < 2 {
				rest := 0.0
				if f, ok := m.after[n][gram]; ok {
					rest = math.Log10(f.kinds / (f.all + f.kinds))
				}
				fmt.Fprintf(out, "\t%.5f", rest)
			}
			fmt.Fprintln(out)
		}
	}
	fmt.Fprint(out, "\n\\end\\\n")
	return out.Flush()
}
