package lattice

import (
	"math"
	"math/rand"
	"slices"
	"strings"
	"testing"
	"time"

	"latelantern/internal/core/span"
)

// byWays are the shares of the nodes of a lattice, by going through all ways one by one.
func byWays(l Lattice, likely func(before, word string) float64) []float64 {
	shares := make([]float64, len(l.Nodes))
	all := 0.0
	var walk func(way []int, p float64)
	walk = func(way []int, p float64) {
		last := way[len(way)-1]
		if last == l.Last {
			all += p
			for _, n := range way {
				shares[n] += p
			}
			return
		}
		for _, e := range l.Edges {
			if e.From != last || e.To < 0 || e.To >= len(l.Nodes) || l.Nodes[e.To].Start <= l.Nodes[last].Start {
				continue
			}
			before, q := l.Nodes[last].Word, quiet
			if l.Nodes[last].Quiet {
				before = ""
			}
			if !l.Nodes[e.To].Quiet {
				q = max(likely(before, l.Nodes[e.To].Word), 1e-12)
			}
			walk(append(slices.Clone(way), e.To), p*q*math.Exp(e.Sound*weight))
		}
	}
	walk([]int{l.First}, 1)
	if all == 0 {
		return nil
	}
	for i := range shares {
		shares[i] /= all
	}
	return shares
}

// TestSharesAreThoseOfTheWays: whatever the lattice, and with edges in it that lead nowhere or back.
func TestSharesAreThoseOfTheWays(t *testing.T) {
	r := rand.New(rand.NewSource(5))
	through := 0
	for round := range 400 {
		n := 3 + r.Intn(7)
		l := Lattice{Last: n - 1}
		for i := range n {
			l.Nodes = append(l.Nodes, Node{Span: at(10*i/2, 10*i/2+4), Word: string(rune('a' + i)),
				Quiet: r.Intn(4) == 0})
		}
		l.Nodes[0].Quiet, l.Nodes[n-1].Quiet = false, false
		for range 2 * n {
			l.Edges = append(l.Edges, Edge{r.Intn(n+3) - 1, r.Intn(n+3) - 1, -40 * r.Float64()})
		}
		likely := func(before, word string) float64 {
			return float64(1+len(before)*3+int(word[0]-'a')) / 100
		}
		want, got := byWays(l, likely), l.Heard(0, likely)
		if want == nil {
			if got != nil {
				t.Fatalf("round %d: no way leads through, and %+v is heard", round, got)
			}
			continue
		}
		through++
		heard := map[string]float64{}
		for _, h := range got {
			heard[h.Word] = h.Share
		}
		for i, share := range want {
			if l.Nodes[i].Quiet {
				share = 0
			}
			if math.Abs(heard[l.Nodes[i].Word]-share) > 1e-9 {
				t.Fatalf("round %d, %q: %v, by its ways %v, in %+v", round, l.Nodes[i].Word, heard[l.Nodes[i].Word],
					share, l)
			}
			if _, there := heard[l.Nodes[i].Word]; there && share == 0 {
				t.Fatalf("round %d: %q is heard, and no way leads through it", round, l.Nodes[i].Word)
			}
		}
	}
	if through < 50 {
		t.Errorf("only %d lattices have a way through", through)
	}
}

// TestWhatCannotBeRead: ends that are not there, and the least share.
func TestWhatCannotBeRead(t *testing.T) {
	l := Lattice{Nodes: []Node{{Span: at(0, 1), Word: "a"}, {Span: at(2, 3), Word: "b"}, {Span: at(2, 3), Word: "c"},
		{Span: at(4, 5), Word: "d"}},
		Edges: []Edge{{0, 1, 0}, {0, 2, 0}, {1, 3, 0}, {2, 3, 0}}, Last: 3}
	for _, ends := range [][2]int{{-1, 3}, {4, 3}, {9, 3}, {0, -1}, {0, 4}, {0, 9}, {3, 0}} {
		x := l
		if x.First, x.Last = ends[0], ends[1]; x.Heard(0, even) != nil {
			t.Errorf("from %d to %d something is heard", ends[0], ends[1])
		}
	}
	if one := (Lattice{Nodes: l.Nodes[:1]}).Heard(0, even); len(one) != 1 || one[0].Share != 1 {
		t.Errorf("of one word: %+v", one)
	}
	third := func(before, word string) float64 {
		if word == "b" {
			return 0.25
		}
		return 0.75
	}
	for least, want := range map[float64]string{0.2: "abcd", 0.25: "abcd", 0.26: "acd", 0.75: "acd", 0.76: "ad"} {
		got := ""
		for _, h := range l.Heard(least, third) {
			if math.Abs(h.Share-0.25) < 1e-9 {
				h.Share = 0.25
			}
			got += h.Word
		}
		if got != want && least != 0.25 && least != 0.75 { // there it hangs on the last bit
			t.Errorf("with a share of %v: %s, want %s", least, got, want)
		}
	}
}

// TestWhatIsSaidNext: how soon and how late the next word may begin, and which way is taken.
func TestWhatIsSaidNext(t *testing.T) {
	long := Heard{at(100, 200), "ebb", 0.9}
	for _, c := range []struct {
		name  string
		list  []Heard
		query string
		want  []Heard
	}{
		{"it begins in the second half of the one before", []Heard{long, {at(150, 260), "tide", 0.5}}, "ebb tide",
			[]Heard{{at(100, 260), "ebb tide", 0.5}}},
		{"it begins in the first half", []Heard{long, {at(149, 260), "tide", 0.5}}, "ebb tide", nil},
		{"it begins a second later", []Heard{long, {at(300, 330), "tide", 0.5}}, "ebb tide",
			[]Heard{{at(100, 330), "ebb tide", 0.5}}},
		{"it begins later than that", []Heard{long, {at(301, 330), "tide", 0.5}}, "ebb tide", nil},
		{"the first of two that are as likely",
			[]Heard{long, {at(210, 240), "tide", 0.5}, {at(220, 260), "tides", 0.5}},
			"ebb tide", []Heard{{at(100, 240), "ebb tide", 0.5}}},
		{"the likelier of two", []Heard{long, {at(210, 240), "tide", 0.4}, {at(220, 260), "tides", 0.5}}, "ebb tide",
			[]Heard{{at(100, 260), "ebb tides", 0.5}}},
		{"three words, the last twice", []Heard{long, {at(210, 240), "tide", 0.5}, {at(245, 260), "table", 0.2},
			{at(246, 270), "tables", 0.3}}, "ebb tide table", []Heard{{at(100, 270), "ebb tide tables", 0.3}}},
		{"one that leads on, though another is likelier", []Heard{long, {at(205, 209), "tide", 0.3},
			{at(210, 240), "table", 0.3}, {at(250, 255), "tide", 0.8}}, "ebb tide table",
			[]Heard{{at(100, 240), "ebb tide table", 0.3}}},
		{"the same word does not follow itself", []Heard{{at(100, 110), "tide", 0.9}}, "tide tide", nil},
	} {
		if got := Find(c.list, strings.Fields(c.query)); !slices.Equal(got, c.want) {
			t.Errorf("%s: %+v", c.name, got)
		}
	}
}

// TestOfOneWordTheLikeliestTime is kept, and where two are as likely the earlier.
func TestOfOneWordTheLikeliestTime(t *testing.T) {
	got := merged([]Heard{{at(10, 20), "tide", 0.3}, {at(15, 25), "tide", 0.3}, {at(20, 30), "tide", 0.9},
		{at(30, 40), "a", 0.5}})
	want := []Heard{{at(10, 20), "tide", 0.6}, {at(20, 30), "tide", 0.9}, {at(30, 40), "a", 0.5}}
	if !slices.Equal(got, want) {
		t.Errorf("%+v", got)
	}
	if got := merged([]Heard{{span.Span{Start: 0, End: time.Second}, "b", 0.1}}); len(got) != 1 {
		t.Errorf("one alone: %+v", got)
	}
}

// TestTwoThatFollowAreOneWord where the first of all is one of them.
func TestTwoThatFollowAreOneWord(t *testing.T) {
	if got := merged([]Heard{{at(0, 10), "ebb", 0.2}, {at(5, 12), "ebb", 0.3}}); len(got) != 1 ||
		got[0].Span != at(5, 12) || got[0].Share != 0.5 {
		t.Errorf("%+v", got)
	}
}
