// Package lattice knows what a recogniser heard besides the words that it chose: all it thought
// possible, as a graph, and how likely each word of it is.
package lattice

import (
	"cmp"
	"math"
	"slices"
	"strings"
	"time"

	"latelantern/internal/core/span"
)

// Node is a word that may have been said.
type Node struct {
	span.Span
	Word  string
	Quiet bool // no word: silence or noise
}

// Edge says that a node may have been followed by another.
type Edge struct {
	From, To int     // places of nodes; the one that follows begins later
	Sound    float64 // logarithm of how well the sound fits the one that is followed
}

// Lattice is all that may have been said in a stretch of sound.
type Lattice struct {
	Nodes       []Node
	Edges       []Edge
	First, Last int // places of the nodes with which all begins and ends
}

// Heard is a word that may have been said, and how likely that is, from 0 to 1.
type Heard struct {
	span.Span
	Word  string
	Share float64
}

// weight is how much sound counts beside what is likely to be said: frames of sound depend on each
// other, so each of them tells less than it seems to. The value found most in our measurements.
const weight = 0.08

// quiet is how likely silence or noise is after a word.
const quiet = 0.005

// Heard are the words of a lattice with a share of at least so much, by when they begin. likely is
// the probability of a word after another, "" for what is not known. The share is the posterior of
// a node: the part that the ways through it have in all ways (forward and backward, Rabiner 1989);
// that of the same word at the same time adds up.
func (l Lattice) Heard(least float64, likely func(before, word string) float64) []Heard {
	if l.First < 0 || l.First >= len(l.Nodes) || l.Last < 0 || l.Last >= len(l.Nodes) {
		return nil
	}
	// Edges lead to what begins later, so by where they begin they are in the order of the ways.
	edges := slices.DeleteFunc(slices.Clone(l.Edges), func(e Edge) bool {
		return e.From < 0 || e.To < 0 || e.From >= len(l.Nodes) || e.To >= len(l.Nodes) ||
			l.Nodes[e.To].Start <= l.Nodes[e.From].Start
	})
	slices.SortStableFunc(edges,
		func(a, b Edge) int { return cmp.Compare(l.Nodes[a.From].Start, l.Nodes[b.From].Start) })
	scores := make([]float64, len(edges))
	for i, e := range edges {
		a, b := l.Nodes[e.From], l.Nodes[e.To]
		p := quiet
		if !b.Quiet {
			before := a.Word
			if a.Quiet {
				before = ""
			}
			p = likely(before, b.Word)
		}
		scores[i] = e.Sound*weight + math.Log(max(p, 1e-12))
	}
	forward, backward := fresh(len(l.Nodes)), fresh(len(l.Nodes))
	forward[l.First], backward[l.Last] = 0, 0
	for i, e := range edges {
		forward[e.To] = sum(forward[e.To], forward[e.From]+scores[i])
	}
	for i, e := range slices.Backward(edges) {
		backward[e.From] = sum(backward[e.From], backward[e.To]+scores[i])
	}
	all := forward[l.Last]
	if math.IsInf(all, -1) {
		return nil // no way leads through
	}
	var out []Heard
	for i, n := range l.Nodes {
		if share := math.Exp(forward[i] + backward[i] - all); !n.Quiet && share > 0 {
			out = append(out, Heard{n.Span, n.Word, min(1, share)})
		}
	}
	return slices.DeleteFunc(merged(out), func(h Heard) bool { return h.Share < least })
}

// merged makes one of the same word at the same time.
func merged(list []Heard) []Heard {
	slices.SortFunc(list, func(a, b Heard) int {
		return cmp.Or(cmp.Compare(a.Word, b.Word), cmp.Compare(a.Start, b.Start), cmp.Compare(a.End, b.End))
	})
	var out []Heard
	best := 0.0 // share of the likeliest of those that were made one, whose time it is
	for _, h := range list {
		n := len(out) - 1
		if n < 0 || out[n].Word != h.Word || h.Start >= out[n].End {
			out, best = append(out, h), h.Share
			continue
		}
		out[n].Share = min(1, out[n].Share+h.Share)
		if h.Share > best {
			out[n].Span, best = h.Span, h.Share
		}
	}
	slices.SortStableFunc(out, func(a, b Heard) int { return cmp.Compare(a.Start, b.Start) })
	return out
}

// apart is how long after a word the next one of what is looked for may begin.
const apart = time.Second

// Find is where words may have been said one after the other, as stretches from the first to the
// last, the likeliest first. A word that is looked for may be a part of the one that was heard. The
// list is in order of time; the share is that of the least likely word.
func Find(list []Heard, words []string) []Heard {
	var out []Heard
	for i, h := range list {
		if len(words) > 0 && strings.Contains(h.Word, words[0]) {
			if whole, ok := onward(list[i+1:], h, h, words[1:]); ok {
				out = append(out, whole)
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Heard) int { return cmp.Compare(b.Share, a.Share) })
	return out
}

// onward is the likeliest way to go on with words after the last of what was found so far.
func onward(list []Heard, whole, last Heard, words []string) (best Heard, ok bool) {
	if len(words) == 0 {
		return whole, true
	}
	for i, h := range list {
		if h.Start > last.End+apart {
			break
		}
		if h.Start < last.Start+last.Len()/2 || !strings.Contains(h.Word, words[0]) {
			continue
		}
		next := Heard{span.Span{Start: whole.Start, End: h.End}, whole.Word + " " + h.Word, min(whole.Share, h.Share)}
		if way, on := onward(list[i+1:], next, h, words[1:]); on && way.Share > best.Share {
			best, ok = way, true
		}
	}
	return best, ok
}

// Within are words at their time in a whole of which the sound began at a moment.
func Within(list []Heard, at time.Duration) []Heard {
	out := slices.Clone(list)
	for i := range out {
		out[i].Start, out[i].End = out[i].Start+at, out[i].End+at
	}
	return out
}

func fresh(n int) []float64 {
	out := make([]float64, n)
	for i := range out {
		out[i] = math.Inf(-1)
	}
	return out
}

// sum is the logarithm of a sum of which the logarithms are given.
func sum(a, b float64) float64 {
	if a < b {
		a, b = b, a
	}
	if math.IsInf(b, -1) {
		return a
	}
	return a + math.Log1p(math.Exp(b-a))
}
