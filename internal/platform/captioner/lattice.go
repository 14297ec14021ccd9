package captioner

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"time"

	"latelantern/internal/core/lattice"
	"latelantern/internal/core/span"
	"latelantern/internal/core/wording"
)

// leastHeard is the share of a word that may have been said besides those of a draft. With it a search
// finds three of four words that are said, in our measurements, and tells less than one more place for each.
const leastHeard = 0.03

// frame is how long the sound is that is heard as one, and base that of the logarithms of how well it fits.
const (
	frame   = 10 * time.Millisecond
	logBase = 1e-4 // the natural logarithm of 1.0001, nearly
)

// heard are the words that may have been said in pieces and carry a meaning, of the lattices that
// pocketsphinx wrote of them. Of a piece in which nothing was made out there is none.
func heard(dir string, pieces []Piece, m *wording.Model) ([]lattice.Heard, error) {
	var out []lattice.Heard
	for i, p := range pieces {
		f, err := os.Open(filepath.Join(dir, fmt.Sprintf("%05d.lat", i)))
		if errors.Is(err, os.ErrNotExist) {
			continue
		}
		if err != nil {
			return nil, fmt.Errorf("read what was heard: %w", err)
		}
		l, err := readLattice(f)
		f.Close()
		if err != nil {
			return nil, err
		}
		list := l.Heard(leastHeard, func(before, word string) float64 {
			if before == "" {
				return m.Likely(word)
			}
			return m.Likely(word, before)
		})
		for _, h := range lattice.Within(list, p.At.Start) {
			if wording.Carries(h.Word) && !strings.HasPrefix(h.Word, "<") {
				out = append(out, h)
			}
		}
	}
	return out, nil
}

// readLattice reads a lattice as pocketsphinx writes it: the number of frames; nodes with the frame in
// which they begin, and the first and the last in which they may end; which of them is the first,
// and the last; and edges with how well the sound fits the node that is left.
func readLattice(r io.Reader) (lattice.Lattice, error) {
	var l lattice.Lattice
	place := map[int]int{} // of nodes, by their numbers
	in := bufio.NewScanner(r)
	in.Buffer(nil, 1<<20)
	part := ""
	for n := 1; in.Scan(); n++ {
		line := in.Text()
		head, rest, _ := strings.Cut(line, " ")
		nonsense := fmt.Errorf("%w: line %d of what was heard", ErrNonsense, n)
		var a, b, c, d int
		var word string
		switch head {
		case "", "#", "Frames", "BestSegAscr", "End":
			continue
		case "Nodes", "Edges":
			part = head
			continue
		case "Initial", "Final":
			if _, err := fmt.Sscan(rest, &a); err != nil {
				return l, nonsense
			}
			at, ok := place[a]
			if !ok {
				return l, nonsense
			}
			if head == "Initial" {
				l.First = at
			} else {
				l.Last = at
			}
			continue
		}
		switch part {
		case "Nodes":
			if _, err := fmt.Sscan(line, &a, &word, &b, &c, &d); err != nil || d < b || len(l.Nodes) > 1<<20 {
				return l, nonsense
			}
			word, _, _ = strings.Cut(word, "(")
			quiet := word == "<sil>" || strings.HasPrefix(word, "[") || strings.HasPrefix(word, "++")
			place[a] = len(l.Nodes)
			l.Nodes = append(l.Nodes,
				lattice.Node{Span: span.Span{Start: time.Duration(b) * frame, End: time.Duration(d+1) * frame},
					Word: word, Quiet: quiet})
		case "Edges":
			if _, err := fmt.Sscan(line, &a, &b, &c); err != nil {
				return l, nonsense
			}
			from, ok := place[a]
			to, ok2 := place[b]
			if !ok || !ok2 {
				return l, nonsense
			}
			l.Edges = append(l.Edges, lattice.Edge{From: from, To: to, Sound: float64(c) * logBase})
		default:
			return l, nonsense
		}
	}
	if err := in.Err(); err != nil {
		return l, fmt.Errorf("read what was heard: %w", err)
	}
	if len(l.Nodes) == 0 {
		return l, fmt.Errorf("%w: nothing was heard", ErrNonsense)
	}
	return l, nil
}
