package lattice

import (
	"math"
	"math/rand"
	"slices"
	"strings"
	"testing"
	"testing/quick"
	"time"

	"latelantern/internal/core/span"
)

func at(from, to int) span.Span {
	return span.Span{Start: time.Duration(from) * 10 * time.Millisecond, End: time.Duration(to) * 10 * time.Millisecond}
}

func even(string, string) float64 { return 0.1 }

// TestTwoWays: of two ways the one that fits better, or is likelier, has the larger share.
func TestTwoWays(t *testing.T) {
	l := Lattice{
		Nodes: []Node{{Span: at(0, 1), Word: "<s>"}, {Span: at(2, 9), Word: "kelp"}, {Span: at(2, 9), Word: "help"},
			{Span: at(10, 11), Quiet: true}, {Span: at(12, 13), Word: "</s>"}},
		Edges: []Edge{{0, 1, 0}, {0, 2, 0}, {1, 3, -10}, {2, 3, -10}, {3, 4, -1}},
		First: 0, Last: 4,
	}
	share := func(list []Heard, word string) float64 {
		for _, h := range list {
			if h.Word == word {
				return h.Share
			}
		}
		return 0
	}
	list := l.Heard(0, even)
	if len(list) != 4 || math.Abs(share(list, "kelp")-0.5) > 1e-9 || math.Abs(share(list, "help")-0.5) > 1e-9 ||
		share(list, "<s>") != 1 {
		t.Errorf("as likely: %+v", list)
	}
	list = l.Heard(0, func(before, word string) float64 {
		if before == "<s>" && word == "kelp" {
			return 0.3
		}
		return 0.1
	})
	if math.Abs(share(list, "kelp")-0.75) > 1e-9 || math.Abs(share(list, "help")-0.25) > 1e-9 {
		t.Errorf("three times as likely: %+v", list)
	}
	l.Edges[2].Sound += math.Log(3) / weight
	if list = l.Heard(0.3, even); share(list, "kelp") < 0.74 || share(list, "help") != 0 {
		t.Errorf("fits three times as well: %+v", list)
	}
	l.Last = 99
	if l.Heard(0, even) != nil {
		t.Error("without an end")
	}
	l.Last, l.Edges = 4, l.Edges[:2]
	if l.Heard(0, even) != nil {
		t.Error("without a way through")
	}
}

// TestSharesSumUp: whatever the ways are, at any time the shares of what is heard sum up to one.
func TestSharesSumUp(t *testing.T) {
	law := func(seed int64) bool {
		r := rand.New(rand.NewSource(seed))
		steps := 2 + r.Intn(6)
		l := Lattice{Nodes: []Node{{Span: at(0, 10), Word: "<s>"}}}
		last := []int{0}
		for s := 1; s <= steps; s++ {
			var now []int
			for k := range 1 + r.Intn(4) {
				if s == steps && k > 0 {
					break
				}
				n := Node{Span: at(10*s, 10*s+10), Word: string(rune('a' + k)), Quiet: s < steps && r.Intn(5) == 0}
				now = append(now, len(l.Nodes))
				l.Nodes = append(l.Nodes, n)
				for _, b := range last {
					l.Edges = append(l.Edges, Edge{b, len(l.Nodes) - 1, -100 * r.Float64()})
				}
			}
			last = now
		}
		l.Last = last[0]
		r.Shuffle(len(l.Edges), func(i, j int) { l.Edges[i], l.Edges[j] = l.Edges[j], l.Edges[i] })
		each := map[time.Duration]float64{}
		loud := map[time.Duration]bool{}
		for _, n := range l.Nodes {
			if _, ok := loud[n.Start]; !ok {
				loud[n.Start] = true
			}
			loud[n.Start] = loud[n.Start] && !n.Quiet
		}
		for _, h := range l.Heard(0, func(a, b string) float64 { return float64(len(a)+len(b)+1) / 20 }) {
			each[h.Start] += h.Share
		}
		for start, only := range loud {
			if only && math.Abs(each[start]-1) > 1e-6 || each[start] > 1+1e-6 {
				t.Logf("at %v: %v", start, each[start])
				return false
			}
		}
		return true
	}
	if err := quick.Check(law, &quick.Config{MaxCount: 300}); err != nil {
		t.Error(err)
	}
}

// TestTheSameWordAtTheSameTime is heard once, when it is likeliest.
func TestTheSameWordAtTheSameTime(t *testing.T) {
	got := merged([]Heard{{at(50, 60), "tide", 0.2}, {at(10, 20), "tide", 0.3}, {at(12, 25), "tide", 0.4},
		{at(5, 9), "the", 1}, {at(24, 30), "tide", 0.6}})
	want := []Heard{{at(5, 9), "the", 1}, {at(24, 30), "tide", 1}, {at(50, 60), "tide", 0.2}}
	if len(got) != len(want) {
		t.Fatalf("%+v", got)
	}
	for i := range want {
		if got[i] != want[i] {
			t.Errorf("%d: %+v, want %+v", i, got[i], want[i])
		}
	}
	if w := Within(got, time.Second); w[0].Start != got[0].Start+time.Second || w[2].End != got[2].End+time.Second {
		t.Errorf("a second later: %+v", w)
	}
}

func TestFindWhatWasHeard(t *testing.T) {
	list := []Heard{{at(0, 40), "spring", 0.3}, {at(5, 40), "string", 0.9}, {at(42, 80), "tides", 0.8},
		{at(45, 60), "tied", 0.1}, {at(300, 340), "spring", 0.6}, {at(900, 940), "tide", 0.2}}
	for query, want := range map[string][]Heard{
		"spring":      {{at(300, 340), "spring", 0.6}, {at(0, 40), "spring", 0.3}},
		"spring tide": {{at(0, 80), "spring tides", 0.3}},
		"tide spring": nil,
		"ring tide":   {{at(5, 80), "string tides", 0.8}, {at(0, 80), "spring tides", 0.3}},
		"ebb":         nil,
		"":            nil,
	} {
		got := Find(list, strings.Fields(query))
		if !slices.Equal(got, want) {
			t.Errorf("%q: %+v, want %+v", query, got, want)
		}
	}
}
