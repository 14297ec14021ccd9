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
	const (
		name  = "Trie Language Model"
		bins  = 1 << 16 // of each table
		entry = 12      // bytes of a word
	)
	rest, ok := bytes.CutPrefix(b, []byte(name))
	if !ok || len(rest) < 17 || rest[0] != 3 {
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
	wide := bits.Len(uint(singles))
	width := wide + 32 + bits.Len(uint(triples))
	tables := 17
	unigrams := tables + 3*bins*4
	bigrams := unigrams + (singles+1)*entry
	names := bigrams + packed(pairs, width) + packed(triples, wide+16)
	if len(rest) < names+4 || int(binary.LittleEndian.Uint32(rest[names:])) != len(rest)-names-4 {
		return nil, errTrie
	}
	words := strings.Split(strings.TrimSuffix(string(rest[names+4:]), "\x00"), "\x00")
	if len(words) != singles {
		return nil, errTrie
	}
	power := func(bits uint32) float64 { return math.Pow(1.0001, float64(math.Float32frombits(bits))) }
	var powers [bins]float32 // of two words
	for i := range powers {
		powers[i] = float32(power(binary.LittleEndian.Uint32(rest[tables+4*i:])))
	}
	out := &wording.Language{Words: words, Alone: make([]float64, singles), Rest: make([]float64, singles),
		Pairs: make([]wording.Pair, pairs)}
	read := make([]wording.Pair, 0, pairs) // by the word
	ends := make([]int, singles+1)         // of the pairs of each word that goes before
	from := func(i int) int { return int(binary.LittleEndian.Uint32(rest[unigrams+i*entry+8:])) }
	for i := range singles {
		at := rest[unigrams+i*entry:]
		out.Alone[i], out.Rest[i] = power(binary.LittleEndian.Uint32(at)), power(binary.LittleEndian.Uint32(at[4:]))
		if !(out.Alone[i] <= 1) || from(i) > from(i+1) || from(i+1) > pairs {
			return nil, errTrie
		}
		for k := from(i); k < from(i+1); k++ {
			bit := k * width
			low := binary.LittleEndian.Uint64(rest[bigrams+bit/8:]) >> (bit % 8)
			before := int(low & (1<<wide - 1))
			bit += wide + 16 // past the word and its weight
			high := binary.LittleEndian.Uint64(rest[bigrams+bit/8:]) >> (bit % 8) & (bins - 1)
			if before >= singles || !(powers[high] <= 1) {
				return nil, errTrie
			}
			read = append(read, wording.Pair{Before: int32(before), Word: int32(i), P: powers[high]})
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
