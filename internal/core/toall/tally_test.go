package toall

import (
	"fmt"
	"math"
	"math/rand/v2"
	"reflect"
	"slices"
	"testing"
)

func TestWhatChoicesComeTo(t *testing.T) {
	q := Question{Several, "?", []string{"a", "b", "c"}, []int{0, 2}}
	got := q.Tally([]Answer{{Choices: []int{0, 2}}, {Choices: []int{0}}, {Choices: []int{0, 1}}})
	want := Result{Answers: 3, Bars: []Bar{{Label: "a", N: 3, Right: true}, {Label: "b", N: 1},
		{Label: "c", N: 1, Right: true}}}
	if !reflect.DeepEqual(got, want) {
		t.Errorf("%+v", got)
	}
	if got := q.Tally(nil); got.Answers != 0 || len(got.Bars) != 3 {
		t.Errorf("nobody answered: %+v", got)
	}
}

func given(all ...float64) (out []Answer) {
	for _, x := range all {
		out = append(out, Answer{Number: &x})
	}
	return out
}

func TestWhatNumbersComeTo(t *testing.T) {
	q := Question{Kind: Number}
	if got := q.Tally(nil); got.Bars != nil || got.Median != nil {
		t.Errorf("nobody answered: %+v", got)
	}
	got := q.Tally(given(3, 1.5, 3, 2))
	if want := []Bar{{Label: "1.5", From: 1.5, Until: 1.5, N: 1}, {Label: "2", From: 2, Until: 2, N: 1},
		{Label: "3", From: 3, Until: 3, N: 2}}; !reflect.DeepEqual(got.Bars, want) || *got.Median != 2.5 {
		t.Errorf("%+v, median %v", got.Bars, *got.Median)
	}
	// A hundred from 0 to 99, and two out of reach.
	var many []float64
	for i := range 100 {
		many = append(many, float64(i))
	}
	got = q.Tally(given(append(many, 1e12, -1e12)...))
	if len(got.Bars) != 5 || got.Bars[0] != (Bar{From: 0, Until: 20, Below: true, N: 21}) ||
		got.Bars[4] != (Bar{From: 80, Until: 100, Above: true, N: 21}) || got.Bars[2].N != 20 {
		t.Errorf("%+v", got.Bars)
	}
	// Most gave the same number: the others are seen all the same.
	same := slices.Repeat([]float64{7}, 100)
	for i := range 11 {
		same = append(same, float64(20+i))
	}
	if got = q.Tally(given(same...)); len(got.Bars) < 5 || got.Bars[0].N != 100 || got.Bars[0].Below {
		t.Errorf("%+v", got.Bars)
	}
}

// upTo are the whole numbers from 0 to n-1, and more.
func upTo(n int, more ...float64) (out []float64) {
	for i := range n {
		out = append(out, float64(i))
	}
	return append(out, more...)
}

// TestHowNumbersAreDivided: each alone while there are few, then in stretches of a round width; what lies beyond the
// fences counts at the ends, what lies on them does not.
func TestHowNumbersAreDivided(t *testing.T) {
	for _, c := range []struct {
		name        string
		all         []float64
		bars        int
		first, last Bar
		median      float64
	}{
		{"one", []float64{3}, 1, Bar{Label: "3", From: 3, Until: 3, N: 1}, Bar{Label: "3", From: 3, Until: 3, N: 1}, 3},
		{"ten", upTo(10), 10, Bar{Label: "0", N: 1}, Bar{Label: "9", From: 9, Until: 9, N: 1}, 4.5},
		{"eleven", upTo(11), 6, Bar{Until: 2, N: 2}, Bar{From: 10, Until: 12, N: 1}, 5},
		{"on the upper fence", upTo(100, 225), 5, Bar{Until: 50, N: 50}, Bar{From: 200, Until: 250, N: 1}, 50},
		{"beyond it", upTo(100, 226), 5, Bar{Until: 20, N: 20}, Bar{From: 80, Until: 100, N: 21, Above: true}, 50},
		{"on the lower fence", upTo(100, -126), 5, Bar{From: -150, Until: -100, N: 1}, Bar{From: 50, Until: 100, N: 50},
			49},
		{"beyond that", upTo(100, -127), 5, Bar{Until: 20, N: 21, Below: true}, Bar{From: 80, Until: 100, N: 20}, 49},
		{"the highest begins a stretch", upTo(91), 10, Bar{Until: 10, N: 10}, Bar{From: 90, Until: 100, N: 1}, 45},
	} {
		got := Question{Kind: Number}.Tally(given(c.all...))
		if len(got.Bars) != c.bars || got.Bars[0] != c.first || got.Bars[len(got.Bars)-1] != c.last ||
			*got.Median != c.median {
			t.Errorf("%s: %+v, median %v", c.name, got.Bars, *got.Median)
		}
	}
	for x, want := range map[float64]float64{1: 1, 1.01: 2, 2: 2, 2.5: 5, 5: 5, 5.1: 10, 12: 20, 0.25: 0.5, 70: 100} {
		if got := round(x); math.Abs(got-want) > want/1e9 {
			t.Errorf("%v is rounded to %v, want %v", x, got, want)
		}
	}
}

// TestEveryNumberCountsOnce, in the bar within which it lies; the bars stand side by side.
func TestEveryNumberCountsOnce(t *testing.T) {
	random := rand.New(rand.NewPCG(25, 5))
	stretched := 0
	for range 20_000 {
		scale := math.Pow(10, float64(random.IntN(24)-12))
		var all []float64
		for range random.IntN(60) + 1 {
			x := (random.Float64() - 0.3) * scale
			switch random.IntN(4) {
			case 0:
				x = math.Floor(random.Float64()*30) * scale / 10
			case 1:
				x = random.NormFloat64() * scale * 100
			}
			all = append(all, max(-MaxNumber, min(MaxNumber, x)))
		}
		got := Question{Kind: Number}.Tally(given(all...))
		n := 0
		for i, b := range got.Bars {
			n += b.N
			within := 0
			for _, x := range all {
				if b.From == b.Until && x == b.From || (b.Below || x >= b.From) && (b.Above || x < b.Until) {
					within++
				}
			}
			if within != b.N {
				t.Fatalf("%+v holds %d of %v", b, within, all)
			}
			if i > 0 && b.From < got.Bars[i-1].Until {
				t.Fatalf("%+v begins before %+v ends", b, got.Bars[i-1])
			}
			if b.From != b.Until && i > 0 && b.From != got.Bars[i-1].Until {
				t.Fatalf("between %+v and %+v is nothing", got.Bars[i-1], b)
			}
			if b.From != b.Until {
				stretched++
			}
		}
		if n != len(all) || got.Answers != n || len(got.Bars) > mostBars+1 {
			t.Fatalf("%d of %d in %d bars", n, len(all), len(got.Bars))
		}
	}
	if stretched < 1000 {
		t.Errorf("only %d stretches were tried", stretched)
	}
}

func TestWhatWordsComeTo(t *testing.T) {
	q := Question{Kind: Words}
	var all []Answer
	for _, w := range []string{"Ebb", "ebb", "ebb.", " EBB ", "ebb", "flood tide", "Flood  tide!", "?!", "neap"} {
		all = append(all, Answer{Words: w})
	}
	got := q.Tally(all)
	want := []Bar{{Label: "ebb", N: 5}, {Label: "Flood  tide!", N: 2}, {Label: "?!", N: 1}, {Label: "neap", N: 1}}
	if !reflect.DeepEqual(got.Bars, want) || got.Answers != 9 || got.Others != 0 {
		t.Errorf("%+v", got)
	}
	all = nil
	for i := range 50 {
		for range i/25 + 1 {
			all = append(all, Answer{Words: fmt.Sprintf("w%02d", i)})
		}
	}
	if got = q.Tally(all); len(got.Bars) != mostWords || got.Others != 10 || got.Bars[0].N != 2 {
		t.Errorf("%d bars, %d others, the highest %d", len(got.Bars), got.Others, got.Bars[0].N)
	}
}
