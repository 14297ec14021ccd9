package captioner

import (
	"bytes"
	"cmp"
	"encoding/binary"
	"errors"
	"math"
	"slices"
	"strings"
)

type unigram struct {
	word string
	log  float64 // of its probability, to the base ten
}

var errTrie = errors.New("the general model is not in the form that is known")

// unigrams reads the words of a trigram model in the binary form of SphinxBase, the likeliest first.
func unigrams(b []byte) ([]unigram, error) {
	const (
		name  = "Trie Language Model"
		bins  = 1 << 16
		entry = 12 // probability, weight and where its successors begin
	)
	rest, ok := bytes.CutPrefix(b, []byte(name))
	if !ok || len(rest) < 17 || rest[0] != 3 {
		return nil, errTrie
	}
	count := int(binary.LittleEndian.Uint32(rest[1:]))
	table := 1 + 3*4 + 4 + 3*bins*4 // a weight and a probability of two words, a probability of three
	if count <= 0 || len(rest) < table+count*entry {
		return nil, errTrie
	}
	// The words stand at the end, each closed by a zero, after their length.
	names := len(rest)
	for range count + 1 {
		if names = bytes.LastIndexByte(rest[:names], 0); names < 0 {
			return nil, errTrie
		}
	}
	if names++; names < 4 || int(binary.LittleEndian.Uint32(rest[names-4:])) != len(rest)-names {
		return nil, errTrie
	}
	words := strings.Split(string(rest[names:]), "\x00")
	out := make([]unigram, count)
	for i := range out {
		v := math.Float32frombits(binary.LittleEndian.Uint32(rest[table+i*entry:]))
		out[i] = unigram{words[i], float64(v) * math.Log10(1.0001)}
		if out[i].log > 0 || math.IsNaN(out[i].log) {
			return nil, errTrie
		}
	}
	slices.SortFunc(out, func(a, b unigram) int { return cmp.Compare(b.log, a.log) })
	return out, nil
}
