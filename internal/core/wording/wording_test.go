package wording

import (
	"bytes"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"
	"testing"
)

func TestWordsAsTheyAreSpoken(t *testing.T) {
	for text, want := range map[string]string{
		"The rule of twelfths: 1, 2, 3.":    "the rule of twelfths one two three",
		"24 hours 50 minutes":               "twenty four hours fifty minutes",
		"1,250 buoys in 2026 and 117 bells": "one thousand two hundred fifty buoys in two thousand twenty six and one hundred seventeen bells",
		"It’s Maren's half-tide (TID 210)":  "it's maren's half tide tid two hundred ten",
		"e.g. x2 -- 'so' …":                 "e g so",
		"Größe, café":                       "größe café",
		"":                                  "",
		"100000000 is too much to be spelt": "is too much to be spelt",
	} {
		if got := strings.Join(Words(text), " "); got != want {
			t.Errorf("%q is %q, want %q", text, got, want)
		}
	}
	lines := Lines("One line. Another:\nthe third? !")
	if len(lines) != 3 || lines[2][1] != "third" {
		t.Errorf("%v", lines)
	}
	if !Carries("holdfast") || Carries("the") || Carries("of") || Carries("because") {
		t.Error("which words carry a meaning")
	}
}

// little language: words with their probabilities, and what follows what.
func language(alone map[string]float64, pairs map[string]float64) *Language {
	l := &Language{}
	for _, w := range slices.Sorted(maps.Keys(alone)) {
		l.Words = append(l.Words, w)
		l.Alone = append(l.Alone, alone[w])
	}
	for pair, p := range pairs {
		a, b, _ := strings.Cut(pair, " ")
		l.Pairs = append(l.Pairs, Pair{int32(slices.Index(l.Words, a)), int32(slices.Index(l.Words, b)), float32(p)})
	}
	slices.SortFunc(l.Pairs, InOrder)
	return l.Within(len(l.Words), nil)
}

func english() *Language {
	return language(map[string]float64{"the": 0.3, "of": 0.2, "water": 0.05, "tide": 0.01, "</s>": 0.1, "<s>": 0.5,
		"rare": 0.001},
		map[string]float64{"of the": 0.6, "of water": 0.05, "the water": 0.2, "water </s>": 0.4, "<s> the": 0.5,
			"the rare": 0.01})
}

// sums fails the test unless what may follow each of some words sums up to one.
func sums(t *testing.T, m *Model, after ...[]string) {
	t.Helper()
	for _, before := range after {
		sum := 0.0
		for _, w := range append(m.Vocabulary(), end) {
			p := m.Likely(w, before...)
			if p < 0 || p > 1 {
				t.Fatalf("%s after %v: %v", w, before, p)
			}
			sum += p
		}
		if !near(sum, 1) {
			t.Errorf("after %v: %v", before, sum)
		}
	}
}

// TestAModelIsAModel: after whatever words, the probabilities of all words sum up to one; what a
// course says is likelier than what it does not, and what it does not say is as in its language.
func TestAModelIsAModel(t *testing.T) {
	m := NewModel(Lines("The tide turns. The tide staff. Read the tide staff at low water."), english())
	sums(t, m, nil, []string{"the"}, []string{"the", "tide"}, []string{"never", "heard"}, []string{"<s>"},
		[]string{"read", "the"}, []string{"of", "the", "tide"}, []string{"of"}, []string{"water"})
	if m.Likely("staff", "the", "tide") < 10*m.Likely("rare", "the", "tide") || m.Likely("rare") == 0 ||
		m.Likely("nowhere") != 0 {
		t.Error("what the course says is not likelier")
	}
	if got, want := m.Likely("the", "of"), own*3/16+(1-own)*0.6; !near(got, want) {
		t.Errorf("the course never says of: the comes after it with %v, want %v", got, want)
	}
	if got, want := m.Likely("the", "rare", "of"), m.Likely("the", "of"); got != want {
		t.Errorf("after two words that the course never says: %v, want %v", got, want)
	}
	n := NewModel(nil, english())
	sums(t, n, nil, []string{"the"}, []string{"of", "the"})
	if !near(n.Likely("the"), 0.3/0.661) || !near(n.Likely("the", "of"), 0.6) {
		t.Errorf("of a course that says nothing: %v, %v", n.Likely("the"), n.Likely("the", "of"))
	}
	if n := NewModel(Lines("one two"), &Language{}); !near(n.Likely("one"), 1.0/3) {
		t.Errorf("without a language: %v", n.Likely("one"))
	}
}

// TestALanguageWithinItsCommonWords: what is left out falls to those that stay; what is wanted stays.
func TestALanguageWithinItsCommonWords(t *testing.T) {
	l := english().Within(3, func(w string) bool { return w == "rare" })
	if got := strings.Join(l.Words, " "); got != "</s> <s> of rare the" {
		t.Fatalf("stayed: %s", got)
	}
	sums(t, NewModel(nil, l), nil, []string{"of"}, []string{"the"}, []string{"<s>"}, []string{"rare"})
	if len(l.Pairs) != 3 {
		t.Errorf("pairs: %v", l.Pairs)
	}
}

// TestARPA: the file says as much of each probability as the model does, by its rule of backing off.
func TestARPA(t *testing.T) {
	m := NewModel(Lines("The tide turns. The tide staff. Read the tide staff."), english())
	var b bytes.Buffer
	if err := m.WriteARPA(&b); err != nil {
		t.Fatal(err)
	}
	prob, rest := map[string]float64{}, map[string]float64{}
	counted := map[int]int{}
	order := 0
	for line := range strings.Lines(b.String()) {
		fields := strings.Split(strings.TrimRight(line, "\n"), "\t")
		switch {
		case strings.HasPrefix(line, `\`):
			order = int(line[1] - '0')
		case len(fields) >= 2:
			counted[order]++
			prob[fields[1]] = number(t, fields[0])
			if len(fields) == 3 {
				rest[fields[1]] = number(t, fields[2])
			}
			if n := len(strings.Fields(fields[1])); n != order {
				t.Errorf("%q stands among those of %d", fields[1], order)
			}
		}
	}
	if !strings.Contains(b.String(), "ngram 1=10\n") || counted[1] != 10 ||
		!strings.HasSuffix(b.String(), "\\end\\\n") {
		t.Errorf("%v\n%s", counted, b.String())
	}
	var look func(words []string) float64
	look = func(words []string) float64 {
		if p, ok := prob[strings.Join(words, " ")]; ok {
			return p
		}
		return rest[strings.Join(words[:len(words)-1], " ")] + look(words[1:])
	}
	for _, words := range [][]string{{"tide"}, {"the", "tide"}, {"the", "tide", "staff"}, {"the", "tide", "of"},
		{"of", "the", "tide"}, {"turns", "of", "the"}, {begin, "the", "tide"}, {"tide", "staff", end}} {
		n := len(words) - 1
		if got, want := look(words), math.Log10(m.Likely(words[n], words[:n]...)); !(math.Abs(got-want) <= 1e-4) {
			t.Errorf("%v: %v, want %v", words, got, want)
		}
	}
}

func number(t *testing.T, text string) float64 {
	t.Helper()
	v, err := strconv.ParseFloat(text, 64)
	if err != nil {
		t.Fatal(err)
	}
	return v
}
