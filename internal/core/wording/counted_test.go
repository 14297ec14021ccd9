package wording

import (
	"bytes"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
)

// near is also false for what is no number.
func near(a, b float64) bool { return math.Abs(a-b) <= 1e-6 }

// counted is a model by its definition: what follows is interpolated with how many different words follow (Witten and
// Bell, 1991), from pairs down to words alone, these from what the course says and what its language does.
type counted struct {
	lang  *Language
	words []string
	one   map[string]float64
	two   map[[2]string]float64
	three map[[3]string]float64
	total float64
}

func count(lines [][]string, lang *Language) counted {
	c := counted{lang, slices.Clone(lang.Words), map[string]float64{}, map[[2]string]float64{},
		map[[3]string]float64{}, 0}
	for _, line := range lines {
		all := append(append([]string{begin}, line...), end)
		for i, w := range all {
			if !slices.Contains(c.words, w) {
				c.words = append(c.words, w)
			}
			if i > 0 {
				c.one[w]++
				c.total++
				c.two[[2]string{all[i-1], w}]++
			}
			if i > 1 {
				c.three[[3]string{all[i-2], all[i-1], w}]++
			}
		}
	}
	return c
}

// general is how likely a word is alone, and after another, in the language; listed says that it names the pair.
func (c counted) general(before, w string) (alone, after float64, listed bool) {
	b, i := slices.Index(c.lang.Words, before), slices.Index(c.lang.Words, w)
	rest := 1.0
	if b >= 0 {
		rest = c.lang.Rest[b]
	}
	if i >= 0 {
		alone = c.lang.Alone[i]
	}
	for _, p := range c.lang.Pairs {
		if int(p.Before) == b && int(p.Word) == i {
			return alone, float64(p.P), true
		}
	}
	return alone, rest * alone, false
}

func (c counted) share() float64 {
	switch {
	case c.total == 0:
		return 0
	case len(c.lang.Pairs) == 0 && !slices.ContainsFunc(c.lang.Alone, func(p float64) bool { return p > 0 }):
		return 1
	}
	return own
}

func (c counted) said(w string) float64 {
	if c.total == 0 {
		return 0
	}
	return c.one[w] / c.total
}

func (c counted) alone(w string) float64 {
	alone, _, _ := c.general("", w)
	return c.share()*c.said(w) + (1-c.share())*alone
}

// pair is how likely a word is after another, where either the course or the language names the pair.
func (c counted) pair(before, w string) (p float64, named bool) {
	_, after, listed := c.general(before, w)
	p = c.share()*c.said(w) + (1-c.share())*after
	var kinds, all float64
	for t, n := range c.two {
		if t[0] == before {
			kinds, all = kinds+1, all+n
		}
	}
	n := c.two[[2]string{before, w}]
	if all > 0 {
		p = (n + kinds*p) / (all + kinds)
	}
	return p, listed || n > 0
}

// TestAModelIsWhatIsCounted: every pair and triple of random lines, over languages of all kinds.
func TestAModelIsWhatIsCounted(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 12))
	bare := language(map[string]float64{"the": 0.5, "tide": 0.3, "</s>": 0.2, "<s>": 0}, nil)
	early := language(map[string]float64{"'tis": 0.3, "the": 0.3, "tide": 0.2, "</s>": 0.1, "<s>": 0.1, "never": 0},
		map[string]float64{"'tis the": 0.6, "the 'tis": 0.1, "tide </s>": 0.5, "<s> 'tis": 0.4})
	some := strings.Fields("'tis the tide of water staff rope turns")
	for round := range 40 {
		lang := []*Language{english(), bare, early, {}}[round%4]
		lines := make([][]string, r.IntN(6))
		for i := range lines {
			for range 1 + r.IntN(5) {
				lines[i] = append(lines[i], some[r.IntN(len(some))])
			}
		}
		c, m := count(lines, lang), NewModel(lines, lang)
		for _, w := range c.words {
			if got := m.Likely(w); !near(got, c.alone(w)) {
				t.Fatalf("round %d: %s: %v, want %v", round, w, got, c.alone(w))
			}
			for _, b := range c.words {
				p, named := c.pair(b, w)
				if got := m.Likely(w, b); named && !near(got, p) {
					t.Fatalf("round %d: %s after %s: %v, want %v", round, w, b, got, p)
				}
				for _, a := range c.words {
					c.checkThree(t, m, a, b, w)
				}
			}
		}
	}
}

// checkThree holds how likely a word is after two against what is counted.
func (c counted) checkThree(t *testing.T, m *Model, a, b, w string) {
	t.Helper()
	var kinds, all float64
	for x, n := range c.three {
		if x[0] == a && x[1] == b {
			kinds, all = kinds+1, all+n
		}
	}
	want := m.Likely(w, b)
	if n := c.three[[3]string{a, b, w}]; n > 0 {
		want = (n + kinds*want) / (all + kinds)
	} else if all > 0 {
		want *= kinds / (all + kinds)
	}
	for _, before := range [][]string{{a, b}, {"what", "went", a, b}} {
		if got := m.Likely(w, before...); !near(got, want) {
			t.Fatalf("%s after %v: %v, want %v", w, before, got, want)
		}
	}
}

// TestWhatTheLanguageKeeps: where a sentence begins is no word, and what is never said is none that can be heard.
func TestWhatTheLanguageKeeps(t *testing.T) {
	m := NewModel(nil, english())
	if m.Likely(begin) != 0 {
		t.Errorf("the beginning of a sentence is a word of it, by %v", m.Likely(begin))
	}
	never := language(map[string]float64{"the": 0.9, "</s>": 0.1, "<s>": 0, "never": 0}, nil)
	if got := strings.Join(NewModel(nil, never).Vocabulary(), " "); got != "the" {
		t.Errorf("words that can be heard: %s", got)
	}
	none := func(string) bool { return false }
	for n, want := range map[int]string{1: "</s> <s> the", 2: "</s> <s> of the", 7: "</s> <s> of rare the tide water"} {
		if got := strings.Join(english().Within(n, none).Words, " "); got != want {
			t.Errorf("within %d: %s, want %s", n, got, want)
		}
	}
	first := language(map[string]float64{"'tis": 0.5, "the": 0.4, "</s>": 0.1, "<s>": 0},
		map[string]float64{"'tis the": 0.6, "the 'tis": 0.1})
	if len(first.Pairs) != 2 {
		t.Errorf("of two pairs with the first word %d stay", len(first.Pairs))
	}
}

// TestTheFileHasAWeightWhereMoreFollows, and none behind three words; a number has five places.
func TestTheFileHasAWeightWhereMoreFollows(t *testing.T) {
	var b bytes.Buffer
	if err := NewModel(Lines("The tide turns."), english()).WriteARPA(&b); err != nil {
		t.Fatal(err)
	}
	order := 0
	for line := range strings.Lines(b.String()) {
		fields := strings.Split(strings.TrimRight(line, "\n"), "\t")
		if strings.HasPrefix(line, `\`) {
			order = int(line[1] - '0')
		} else if len(fields) >= 2 && len(fields) != map[int]int{1: 3, 2: 3, 3: 2}[order] {
			t.Errorf("among those of %d: %q", order, line)
		}
		if _, places, ok := strings.Cut(fields[0], "."); ok && len(fields) > 1 && len(places) != 5 {
			t.Errorf("%q has %d places", fields[0], len(places))
		}
	}
}

func TestNumbersAtTheirEdges(t *testing.T) {
	for number, want := range map[string]string{
		"0": "zero", "1": "one", "19": "nineteen", "20": "twenty", "21": "twenty one", "90": "ninety",
		"99": "ninety nine", "100": "one hundred", "101": "one hundred one", "110": "one hundred ten",
		"200": "two hundred", "999": "nine hundred ninety nine", "1000": "one thousand", "1001": "one thousand one",
		"1100": "one thousand one hundred", "20000": "twenty thousand", "100,000": "one hundred thousand",
		"999,999": "nine hundred ninety nine thousand nine hundred ninety nine", "1000000": "", "1000001": "",
	} {
		if got := strings.Join(Words(number), " "); got != want {
			t.Errorf("%s is %q, want %q", number, got, want)
		}
	}
	if !Carries("ebb") || Carries("sea") != !little["sea"] || Carries("oh") {
		t.Error("a word of three letters can carry a meaning, one of two cannot")
	}
}
