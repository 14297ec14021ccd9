package captioner

import (
	"bytes"
	"encoding/binary"
	"errors"
	"math"
	"math/bits"
	"strings"

	"latelantern/internal/core/wording"
)

var errTrie = errors.New("the general model is not in the form that is known")

// general reads the words and the pairs of words of a trigram model in the binary form of
// SphinxBase: its name, the order, a count for each order and the kind of quantising; tables of
// quantised numbers; for each word its probability, its weight and where the words that go before
// it begin; those, in as few bits as will do: which word, a probability, a weight, and where what
// goes before both begins; triples of words; and the words themselves. Numbers are logarithms to the base 1.0001.
func general(b []byte) (*wording.Language, error) {
	t, err := openTrie(b)
	if err != nil {
		return nil, err
	}
	singles := len(t.words)
	out := &wording.Language{Words: t.words, Alone: make([]float64, singles), Rest: make([]float64, singles),
		Pairs: make([]wording.Pair, t.pairs)}
	read := make([]wording.Pair, 0, t.pairs) // by the word
	ends := make([]int, singles+1)           // of the pairs of each word that goes before
	for i := range singles {
		from, to := t.pairsOf(i), t.pairsOf(i+1)
		out.Alone[i], out.Rest[i] = t.word(i)
		if !(out.Alone[i] <= 1) || from > to || to > t.pairs {
			return nil, errTrie
		}
		for k := from; k < to; k++ {
			before, p := t.pair(k)
			if before >= singles || !(p <= 1) {
				return nil, errTrie
			}
			read = append(read, wording.Pair{Before: int32(before), Word: int32(i), P: p})
			ends[before+1]++
		}
	}
	for i := range singles {
		ends[i+1] += ends[i]
	}
	out.Pairs = out.Pairs[:len(read)]
	for _, p := range read {
		out.Pairs[ends[p.Before]] = p
		ends[p.Before]++
	}
	return out, nil
}

// trie is the file of a model, whose tables are read where they lie.
type trie struct {
	b                 []byte // behind the name of the format
	words             []string
	pairs             int
	wide, width       int // bits of the number of a word, and of a pair
	unigrams, bigrams int // where they begin
	powers            [trieBins]float32
}

const (
	trieBins  = 1 << 16 // of each table
	trieEntry = 12      // bytes of a word
	trieHead  = 17      // bytes before the tables
)

// openTrie checks how large everything in the file is. Its error is errTrie when that cannot be.
func openTrie(b []byte) (*trie, error) {
	rest, ok := bytes.CutPrefix(b, []byte("Trie Language Model"))
	if !ok || len(rest) < trieHead || rest[0] != 3 {
		return nil, errTrie
	}
	count := func(order int) int { return int(binary.LittleEndian.Uint32(rest[1+4*(order-1):])) }
	singles, pairs, triples := count(1), count(2), count(3)
	const most = 1 << 25
	if singles <= 0 || singles > most || pairs > most || triples > most || binary.LittleEndian.Uint32(rest[13:]) != 1 {
		return nil, errTrie
	}
	// Behind the last of each order stands one more, where the last one ends, and so much that eight bytes can be read
	// anywhere.
	packed := func(n, width int) int { return ((1+n)*width+7)/8 + 8 }
	t := &trie{b: rest, pairs: pairs, wide: bits.Len(uint(singles)), unigrams: trieHead + 3*trieBins*4}
	t.width = t.wide + 32 + bits.Len(uint(triples))
	t.bigrams = t.unigrams + (singles+1)*trieEntry
	names := t.bigrams + packed(pairs, t.width) + packed(triples, t.wide+16)
	if len(rest) < names+4 || int(binary.LittleEndian.Uint32(rest[names:])) != len(rest)-names-4 {
		return nil, errTrie
	}
	t.words = strings.Split(strings.TrimSuffix(string(rest[names+4:]), "\x00"), "\x00")
	if len(t.words) != singles {
		return nil, errTrie
	}
	for i := range t.powers {
		t.powers[i] = float32(power(binary.LittleEndian.Uint32(rest[trieHead+4*i:])))
	}
	return t, nil
}

// power is the probability whose logarithm, to the base of the format, is kept.
func power(bits uint32) float64 { return math.Pow(1.0001, float64(math.Float32frombits(bits))) }

// word is the probability of word i alone, and what is left to what follows it.
func (t *trie) word(i int) (alone, rest float64) {
	at := t.b[t.unigrams+i*trieEntry:]
	return power(binary.LittleEndian.Uint32(at)), power(binary.LittleEndian.Uint32(at[4:]))
}

// pairsOf is the first of the pairs that end with word i.
func (t *trie) pairsOf(i int) int {
	return int(binary.LittleEndian.Uint32(t.b[t.unigrams+i*trieEntry+8:]))
}

// pair is the word that goes before in pair k, and how probable the pair is.
func (t *trie) pair(k int) (before int, p float32) {
	bit := k * t.width
	low := binary.LittleEndian.Uint64(t.b[t.bigrams+bit/8:]) >> (bit % 8)
	bit += t.wide + 16 // past the word and its weight
	high := binary.LittleEndian.Uint64(t.b[t.bigrams+bit/8:]) >> (bit % 8) & (trieBins - 1)
	return int(low & (1<<t.wide - 1)), t.powers[high]
}
