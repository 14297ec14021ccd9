package wording

import (
	"bufio"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
)

// Model tells how likely words are to follow each other: what a course says, over what is known of
// its language. It is an interpolated trigram model (Witten and Bell 1991, method C), whose pairs
// of words rest on those of the language.
type Model struct {
	lang    *Language // with the course's own words in it
	id      map[string]int32
	triples []triple             // in order
	rest    map[[2]int32]float64 // weight of pairs for what the course does not say after two words
}

type triple struct {
	words [3]int32
	p     float64
}

const (
	begin = "<s>"
	end   = "</s>"
)

// own is the share of the course's own words in how likely a word is.
const own = 0.35

// follow is how many different words follow others, and how often any does.
type follow struct{ kinds, all float64 }

// NewModel is the model of lines of words of a course, over their language. Lines may repeat: what
// is said more often counts more.
func NewModel(lines [][]string, language *Language) *Model {
	m := &Model{lang: &Language{Words: slices.Clone(language.Words)}, id: map[string]int32{},
		rest: map[[2]int32]float64{}}
	general := &Language{Alone: slices.Clone(language.Alone), Rest: slices.Clone(language.Rest), Pairs: language.Pairs}
	for i, w := range m.lang.Words {
		m.id[w] = int32(i)
	}
	place := func(word string) int32 {
		i, ok := m.id[word]
		if !ok {
			i = int32(len(m.lang.Words))
			m.id[word] = i
			m.lang.Words = append(m.lang.Words, word)
			general.Alone = append(general.Alone, 0)
			general.Rest = append(general.Rest, 1)
		}
		return i
	}
	first, last := place(begin), place(end)
	one, two, three := map[int32]float64{}, map[[2]int32]float64{}, map[[3]int32]float64{}
	var total float64
	for _, line := range lines {
		a, b := int32(-1), first
		for _, w := range append(slices.Clone(line), end) {
			c := last
			if w != end {
				c = place(w)
			}
			one[c]++
			total++
			two[[2]int32{b, c}]++
			if a >= 0 {
				three[[3]int32{a, b, c}]++
			}
			a, b = b, c
		}
	}
	m.mix(general, one, total, two)
	m.follow(two, three)
	return m
}

// mix makes words alone and pairs of words of what the course says and what its language does.
func (m *Model) mix(general *Language, one map[int32]float64, total float64, two map[[2]int32]float64) {
	share := own
	switch {
	case total == 0:
		share = 0
	case len(general.Pairs) == 0 && !slices.ContainsFunc(general.Alone, func(p float64) bool { return p > 0 }):
		share = 1
	}
	m.lang.Alone = make([]float64, len(m.lang.Words))
	said := make([]float64, len(m.lang.Words))
	for i := range said {
		if total > 0 {
			said[i] = one[int32(i)] / total
		}
		m.lang.Alone[i] = share*said[i] + (1-share)*general.Alone[i]
	}
	after := map[int32]follow{}
	theirs := make([]Pair, 0, len(two))
	for p, n := range two {
		f := after[p[0]]
		after[p[0]] = follow{f.kinds + 1, f.all + n}
		theirs = append(theirs, Pair{Before: p[0], Word: p[1]})
	}
	slices.SortFunc(theirs, InOrder)
	pairs := make([]Pair, 0, len(general.Pairs)+len(theirs))
	mixed := func(p Pair, low float64) {
		low = share*said[p.Word] + (1-share)*low
		if f := after[p.Before]; f.all > 0 {
			low = (two[[2]int32{p.Before, p.Word}] + f.kinds*low) / (f.all + f.kinds)
		}
		pairs = append(pairs, Pair{p.Before, p.Word, float32(low)})
	}
	for _, p := range general.Pairs {
		for len(theirs) > 0 && InOrder(theirs[0], p) < 0 {
			mixed(theirs[0], general.Rest[theirs[0].Before]*general.Alone[theirs[0].Word])
			theirs = theirs[1:]
		}
		if len(theirs) > 0 && InOrder(theirs[0], p) == 0 {
			theirs = theirs[1:]
		}
		mixed(p, float64(p.P))
	}
	for _, p := range theirs {
		mixed(p, general.Rest[p.Before]*general.Alone[p.Word])
	}
	m.lang.Pairs = pairs
	m.lang.Rest = rests(len(m.lang.Words), pairs, m.lang.Alone)
}

// follow makes what follows two words of what the course says.
func (m *Model) follow(two map[[2]int32]float64, three map[[3]int32]float64) {
	after := map[[2]int32]follow{}
	for t, n := range three {
		h := [2]int32{t[0], t[1]}
		after[h] = follow{after[h].kinds + 1, after[h].all + n}
	}
	for h, f := range after {
		m.rest[h] = f.kinds / (f.all + f.kinds)
	}
	for t, n := range three {
		f := after[[2]int32{t[0], t[1]}]
		m.triples = append(m.triples, triple{t, (n + f.kinds*m.lang.after(t[1], t[2])) / (f.all + f.kinds)})
	}
	slices.SortFunc(m.triples, func(a, b triple) int { return slices.Compare(a.words[:], b.words[:]) })
}

// Vocabulary lists the words of the model, in order.
func (m *Model) Vocabulary() []string {
	var out []string
	for i, w := range m.lang.Words {
		if w != begin && w != end && m.lang.Alone[i] > 0 {
			out = append(out, w)
		}
	}
	slices.Sort(out)
	return out
}

// Likely is the probability that a word follows others, of which the last two count.
func (m *Model) Likely(word string, before ...string) float64 {
	w, ok := m.id[word]
	if !ok {
		return 0
	}
	var known []int32
	for _, b := range before[max(0, len(before)-2):] {
		if i, ok := m.id[b]; ok {
			known = append(known, i)
		} else {
			known = nil
		}
	}
	switch len(known) {
	case 0:
		return m.lang.Alone[w]
	case 1:
		return m.lang.after(known[0], w)
	}
	t := [3]int32{known[0], known[1], w}
	if i, ok := slices.BinarySearchFunc(m.triples, t,
		func(a triple, t [3]int32) int { return slices.Compare(a.words[:], t[:]) }); ok {
		return m.triples[i].p
	}
	rest, ok := m.rest[[2]int32{known[0], known[1]}]
	if !ok {
		rest = 1
	}
	return rest * m.lang.after(known[1], w)
}

// WriteARPA writes the model as an ARPA n-gram file, as speech recognisers read it.
func (m *Model) WriteARPA(w io.Writer) error {
	out := bufio.NewWriter(w)
	words := m.lang.Words
	var line []byte
	// write writes a line: a probability, words, and after those that more may follow a weight.
	write := func(p, rest float64, more bool, ids ...int32) {
		log := func(p float64) { line = strconv.AppendFloat(line, math.Log10(max(p, 1e-99)), 'f', 5, 64) }
		line = line[:0]
		log(p)
		apart := byte('\t')
		for _, id := range ids {
			line = append(append(line, apart), words[id]...)
			apart = ' '
		}
		if more {
			line = append(line, '\t')
			log(rest)
		}
		line = append(line, '\n')
		_, _ = out.Write(line) // Flush says what went wrong
	}
	fmt.Fprintf(out, "\\data\\\nngram 1=%d\nngram 2=%d\nngram 3=%d\n", len(words), len(m.lang.Pairs), len(m.triples))
	fmt.Fprint(out, "\n\\1-grams:\n")
	for i := range words {
		write(m.lang.Alone[i], m.lang.Rest[i], true, int32(i))
	}
	fmt.Fprint(out, "\n\\2-grams:\n")
	for _, p := range m.lang.Pairs {
		rest, ok := m.rest[[2]int32{p.Before, p.Word}]
		if !ok {
			rest = 1
		}
		write(float64(p.P), rest, true, p.Before, p.Word)
	}
	fmt.Fprint(out, "\n\\3-grams:\n")
	for _, t := range m.triples {
		write(t.p, 0, false, t.words[:]...)
	}
	fmt.Fprint(out, "\n\\end\\\n")
	return out.Flush()
}
