package toall

import (
	"cmp"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode"
)

// Bar is how many answered alike.
type Bar struct {
	Label       string  // a choice; a number, or "" for a stretch of them; words, as most wrote them
	From, Until float64 // of numbers: from here, up to and without there; both the same for one number
	Below       bool    // and all numbers below, far from the others
	Above       bool    // and all numbers above, until there and further
	N           int
	Right       bool
}

// Result is what answers come to. Of several choices each answer counts in each bar that it chose.
type Result struct {
	Answers int
	Bars    []Bar // choices in their order, numbers from the least on, words by how many wrote them
	Others  int   // who wrote words for which there is no bar
	Median  *float64
}

// mostBars is how many bars numbers and words have at most.
const (
	mostBars  = 10
	mostWords = 40
)

// Tally is what answers to q come to.
func (q Question) Tally(answers []Answer) Result {
	switch q.Kind {
	case Number:
		return numbers(answers)
	case Words:
		return words(answers)
	}
	out := Result{Answers: len(answers)}
	for i, c := range q.Choices {
		out.Bars = append(out.Bars, Bar{Label: c, Right: slices.Contains(q.Right, i)})
	}
	for _, a := range answers {
		for _, c := range a.Choices {
			out.Bars[c].N++
		}
	}
	return out
}

func numbers(answers []Answer) Result {
	var all []float64
	for _, a := range answers {
		all = append(all, *a.Number)
	}
	slices.Sort(all)
	out := Result{Answers: len(all)}
	if len(all) == 0 {
		return out
	}
	median := (all[(len(all)-1)/2] + all[len(all)/2]) / 2
	out.Median = &median
	if each := slices.Compact(slices.Clone(all)); len(each) <= mostBars {
		for _, x := range each {
			out.Bars = append(out.Bars, Bar{Label: strconv.FormatFloat(x, 'g', -1, 64), From: x, Until: x})
		}
	} else {
		out.Bars = stretches(all)
	}
	for _, x := range all {
		out.Bars[slices.IndexFunc(out.Bars, func(b Bar) bool { return b.holds(x) })].N++
	}
	return out
}

// holds reports whether a number counts in a bar.
func (b Bar) holds(x float64) bool {
	return x == b.From || (b.Below || x >= b.From) && (b.Above || x < b.Until)
}

// stretches are bars of one width, a round number, for numbers in order. What lies three times as far out as the middle
// half is wide (Tukey's outer fences) counts at the ends, so that one number out of reach does not flatten all others.
func stretches(all []float64) []Bar {
	quarter := func(n int) float64 { return all[n*(len(all)-1)/4] }
	wide := quarter(3) - quarter(1)
	inner := slices.DeleteFunc(slices.Clone(all), func(x float64) bool {
		return wide > 0 && (x < quarter(1)-3*wide || x > quarter(3)+3*wide)
	})
	low, high := inner[0], inner[len(inner)-1]
	if low == high { // most gave the same number
		low, high = all[0], all[len(all)-1]
	}
	step := round((high - low) / (mostBars - 1))
	var out []Bar
	first := math.Floor(low / step)
	for i := range mostBars + 1 {
		from, until := (first+float64(i))*step, (first+float64(i)+1)*step
		if from > high {
			break
		}
		out = append(out, Bar{From: from, Until: until})
	}
	out[0].Below = all[0] < out[0].From
	last := &out[len(out)-1]
	last.Above = all[len(all)-1] >= last.Until
	return out
}

// round is the least of 1, 2 and 5 times a power of ten that is no less than x, which is more than 0.
func round(x float64) float64 {
	ten := math.Pow(10, math.Floor(math.Log10(x)))
	for _, by := range []float64{1, 2, 5} {
		if by*ten >= x {
			return by * ten
		}
	}
	return 10 * ten
}

func words(answers []Answer) Result {
	out := Result{Answers: len(answers)}
	spelled := map[string]map[string]int{}
	n := map[string]int{}
	for _, a := range answers {
		key := Alike(a.Words)
		if spelled[key] == nil {
			spelled[key] = map[string]int{}
		}
		spelled[key][a.Words]++
		n[key]++
	}
	for key, as := range spelled {
		label := ""
		for text, times := range as {
			if label == "" || times > as[label] || times == as[label] && text < label {
				label = text
			}
		}
		out.Bars = append(out.Bars, Bar{Label: label, N: n[key]})
	}
	slices.SortFunc(out.Bars, func(a, b Bar) int {
		return cmp.Or(cmp.Compare(b.N, a.N), cmp.Compare(a.Label, b.Label))
	})
	for len(out.Bars) > mostWords {
		last := len(out.Bars) - 1
		out.Others += out.Bars[last].N
		out.Bars = out.Bars[:last]
	}
	return out
}

// Alike is the same for words that count as the same answer, whatever their case, spaces and marks at the ends.
func Alike(words string) string {
	edge := func(r rune) bool { return unicode.IsPunct(r) || unicode.IsSpace(r) }
	key := strings.Join(strings.Fields(strings.ToLower(strings.TrimFunc(words, edge))), " ")
	return cmp.Or(key, words)
}
