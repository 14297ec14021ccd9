package caption

import (
	"slices"
	"strings"
	"testing"
	"time"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
)

func word(at span.Span, text string) Word { return Word{Span: at, Text: text} }

func milli(from, to int) span.Span {
	return span.Span{Start: time.Duration(from) * time.Millisecond, End: time.Duration(to) * time.Millisecond}
}

// said are words one after another, each with how long before it nothing is said, in milliseconds.
func said(at int, words ...any) (out []Word) {
	for i := 0; i < len(words); i += 2 {
		at += words[i].(int)
		out = append(out, word(milli(at, at+100), words[i+1].(string)))
		at += 100
	}
	return out
}

func TestWhereLinesEnd(t *testing.T) {
	w := func(n int) string { return strings.Repeat("m", n) }
	for _, c := range []struct {
		name  string
		words []Word
		want  []string
	}{
		{"no word", nil, nil},
		{"one", said(0, 0, "ebb"), []string{"ebb"}},
		{"a pause that ends a line", said(0, 0, "ebb", 700, "tide"), []string{"ebb", "tide"}},
		{"one that does not", said(0, 0, "ebb", 699, "tide"), []string{"ebb tide"}},
		{"a breath after a long line", said(0, 0, w(49), 250, "tide"), []string{w(49), "tide"}},
		{"a breath after one that is not long", said(0, 0, w(48), 250, "tide"), []string{w(48) + " tide"}},
		{"less than a breath", said(0, 0, w(49), 249, "tide"), []string{w(49) + " tide"}},
		{"as many signs as fit", said(0, 0, w(40), 10, w(42)), []string{w(40) + " " + w(42)}},
		{"one more", said(0, 0, w(40), 10, w(43)), []string{w(40), w(43)}},
		{"counted anew on each line", said(0, 0, w(60), 700, w(30), 10, w(30)), []string{w(60), w(30) + " " + w(30)}},
		{"as long as a line may last", []Word{word(milli(1000, 1100), "ebb"), word(milli(1600, 8000), "tide")},
			[]string{"ebb tide"}},
		{"longer", []Word{word(milli(1000, 1100), "ebb"), word(milli(1600, 8001), "tide")}, []string{"ebb", "tide"}},
	} {
		var got []string
		for _, cue := range FromWords(c.words) {
			got = append(got, cue.Text)
			if cue.Start != cue.Words[0].Start || cue.End != cue.Words[len(cue.Words)-1].End {
				t.Errorf("%s: %q lasts %v", c.name, cue.Text, cue.Span)
			}
		}
		if !slices.Equal(got, c.want) {
			t.Errorf("%s: %q", c.name, got)
		}
	}
}

func TestPiecesAtTheirEdges(t *testing.T) {
	const most = 10 * time.Second
	for _, c := range []struct {
		name   string
		speech []span.Span
		quiet  []time.Duration
		want   []span.Span
	}{
		{"a little more at both ends, never before the beginning", []span.Span{milli(100, 2000), milli(9000, 9500)},
			nil,
			[]span.Span{milli(0, 2250), milli(8750, 9750)}},
		{"a pause that is closed", []span.Span{milli(1000, 2000), milli(4499, 5000)}, nil,
			[]span.Span{milli(750, 5250)}},
		{"one that is not", []span.Span{milli(1000, 2000), milli(4500, 5000)}, nil,
			[]span.Span{milli(750, 2250), milli(4250, 5250)}},
		{"as long as a piece may be", []span.Span{milli(1000, 5000), milli(6000, 10_500)}, nil,
			[]span.Span{milli(750, 10_750)}},
		{"longer together", []span.Span{milli(1000, 5000), milli(6000, 10_501)}, nil,
			[]span.Span{milli(750, 5250), milli(5750, 10_751)}},
		{"longer, and they touch", []span.Span{milli(1000, 5000), milli(5100, 10_501)}, nil,
			[]span.Span{milli(750, 5250), milli(5250, 10_751)}},
		{"parted at the last quiet of its second half", []span.Span{milli(1000, 13_000)},
			[]time.Duration{5750 * time.Millisecond, 6 * time.Second, 8 * time.Second, 10_750 * time.Millisecond},
			[]span.Span{milli(750, 8000), milli(8000, 13_250)}},
		{"without any there, at its end", []span.Span{milli(1000, 13_000)},
			[]time.Duration{5750 * time.Millisecond, 10_750 * time.Millisecond},
			[]span.Span{milli(750, 10_750), milli(10_750, 13_250)}},
		{"just after its half", []span.Span{milli(1000, 13_000)}, []time.Duration{5751 * time.Millisecond},
			[]span.Span{milli(750, 5751), milli(5751, 13_250)}},
		{"exactly as long", []span.Span{milli(1000, 10_500)}, nil, []span.Span{milli(750, 10_750-250+250)}},
	} {
		if got := Pieces(span.Of(c.speech...), c.quiet, most); !slices.Equal(got, c.want) {
			t.Errorf("%s: %v", c.name, got)
		}
	}
}

func TestWhereACueIsParted(t *testing.T) {
	words := []Word{word(milli(0, 400), "ebb"), word(milli(600, 1000), "tide")}
	cue := Cue{Span: milli(0, 1000), Text: "ebb tide", Words: words, Speaker: "Ada"}
	bare := Cue{Span: milli(0, 1000), Text: "ebb tide"}
	for _, c := range []struct {
		name          string
		in            Cue
		at            int
		first, second string
		when          int // milliseconds
		words         int // of the first
	}{
		{"between its words", cue, 4, "ebb", "tide", 500, 1},
		{"before the space", cue, 3, "ebb", "tide", 500, 1},
		{"within a word, by the share of signs", cue, 6, "ebb ti", "de", 750, 0},
		{"without times, by the share of signs", bare, 4, "ebb", "tide", 500, 0},
		{"after the first sign", bare, 1, "e", "bb tide", 125, 0},
		{"before the last", bare, 7, "ebb tid", "e", 875, 0},
	} {
		a, b, ok := c.in.Split(c.at)
		when := time.Duration(c.when) * time.Millisecond
		if !ok || a.Text != c.first || b.Text != c.second || a.End != when || b.Start != when || b.End != c.in.End ||
			len(a.Words) != c.words || a.Speaker != c.in.Speaker || b.Speaker != c.in.Speaker {
			t.Errorf("%s: %+v and %+v, %v", c.name, a, b, ok)
		}
		if c.words > 0 && len(b.Words) != len(c.in.Words)-c.words {
			t.Errorf("%s: %d words in the second", c.name, len(b.Words))
		}
	}
	for at, in := range map[int]Cue{-1: cue, 0: cue, 8: cue, 9: cue, 1: {Span: milli(0, 1000), Text: " x"},
		2: {Span: milli(0, 1000), Text: "ab  "}} {
		if got, rest, ok := in.Split(at); ok || got.Text != in.Text || rest.Text != "" {
			t.Errorf("%q before %d: %+v and %+v", in.Text, at, got, rest)
		}
	}
	// A part is never empty of time.
	late := Cue{Span: milli(0, 3), Text: "ab", Words: nil}
	if a, b, ok := late.Split(1); !ok || a.End <= a.Start || b.End <= b.Start {
		t.Errorf("of three milliseconds: %v and %v, %v", a.Span, b.Span, ok)
	}
	outside := Cue{Span: milli(0, 100), Text: "a b",
		Words: []Word{word(milli(200, 300), "a"), word(milli(300, 400), "b")}}
	if a, b, _ := outside.Split(2); a.End != 99*time.Millisecond || b.Start != 99*time.Millisecond {
		t.Errorf("words after the cue: %v and %v", a.Span, b.Span)
	}
	before := Cue{Span: milli(100, 200), Text: "a b", Words: []Word{word(milli(0, 10), "a"), word(milli(10, 20), "b")}}
	if a, b, _ := before.Split(2); a.End != 101*time.Millisecond || b.Start != 101*time.Millisecond {
		t.Errorf("words before the cue: %v and %v", a.Span, b.Span)
	}
	if _, _, ok := (Cue{Span: milli(0, 2), Text: "ab"}).Split(1); ok {
		t.Error("two milliseconds are parted")
	}
}

func TestJoinKeepsTimesOnlyWhereAllAreKnown(t *testing.T) {
	one := Cue{Span: milli(0, 500), Text: "ebb", Words: []Word{word(milli(0, 400), "ebb")}, Speaker: "Ada"}
	two := Cue{Span: milli(500, 900), Text: "tide", Words: []Word{word(milli(500, 900), "tide")}, Speaker: "Bo"}
	bare := Cue{Span: milli(500, 900), Text: "tide"}
	for _, c := range []struct {
		a, b  Cue
		words int
	}{{one, two, 2}, {one, bare, 0}, {bare, two, 0}, {bare, bare, 0}} {
		got := Join(c.a, c.b)
		if len(got.Words) != c.words || got.Text != c.a.Text+" "+c.b.Text || got.Speaker != c.a.Speaker ||
			got.End != 900*time.Millisecond {
			t.Errorf("%+v", got)
		}
	}
}

func TestFindAtTheEdgesOfWords(t *testing.T) {
	for _, c := range []struct {
		f    Finding
		in   string
		want [][2]int
	}{
		{Finding{Text: "tide", Whole: true}, "tide", [][2]int{{0, 4}}},
		{Finding{Text: "tide", Whole: true}, "a tide", [][2]int{{2, 6}}},
		{Finding{Text: "tide", Whole: true}, "atide tides ebb-tide", [][2]int{{16, 20}}},
		{Finding{Text: "tide.", Whole: true}, "tide.x tide.", [][2]int{{0, 5}, {7, 12}}},
		{Finding{Text: "-tide", Whole: true}, "x-tide", [][2]int{{1, 6}}},
		{Finding{Text: "aa"}, "aaaaa", [][2]int{{0, 2}, {2, 4}}},
		{Finding{Text: "a\u00a0b"}, "a b a\nb", [][2]int{{0, 3}, {4, 7}}},
		{Finding{Text: "À"}, "à a Á", [][2]int{{0, 1}, {2, 3}, {4, 5}}},
		{Finding{Text: "À", Marked: true}, "à a Á", [][2]int{{0, 1}}},
		{Finding{Text: "À", Marked: true, Exact: true}, "à a Á", nil},
		{Finding{Text: "×"}, "× x", [][2]int{{0, 1}}},
		{Finding{Text: "longer"}, "long", nil},
		{Finding{}, "long", nil},
	} {
		if got := c.f.Find(c.in); !slices.Equal(got, c.want) {
			t.Errorf("%+v in %q: %v", c.f, c.in, got)
		}
	}
}

func TestCleanLeavesOutWhatDoesNotShow(t *testing.T) {
	for in, want := range map[string]string{"a\x7f\ufeff\u200b\x01b": "ab", " a\u00a0 b\t\n\n c ": "a b\nc",
		"\u0080x": "\u0080x", "\uff00": "\uff00", "": ""} {
		if got := Clean(in); got != want {
			t.Errorf("%q: %q", in, got)
		}
	}
}

func TestWhenAPartOfATextIsSaid(t *testing.T) {
	cue := Cue{Span: milli(0, 1000), Text: "ebb tide\nmoon",
		Words: []Word{word(milli(0, 200), "ebb"), word(milli(300, 600), "tide"),
			word(milli(700, 900), "moon")}}
	few := Cue{Span: milli(0, 1000), Text: "ebb tide moon", Words: []Word{word(milli(0, 200), "ebb")}}
	for _, c := range []struct {
		in       Cue
		from, to int
		want     span.Span
	}{
		{cue, 0, 3, milli(0, 200)},
		{cue, 1, 2, milli(0, 200)},
		{cue, 4, 8, milli(300, 600)},
		{cue, 3, 8, milli(300, 600)},
		{cue, 5, 13, milli(300, 900)},
		{cue, 9, 13, milli(700, 900)},
		{cue, 10, 99, milli(700, 900)},
		{cue, -5, 3, milli(0, 200)},
		{cue, 0, 13, milli(0, 900)},
		{cue, 4, 4, cue.Span},
		{cue, 8, 4, cue.Span},
		{cue, 3, 4, cue.Span}, // no word
		{few, 4, 8, few.Span},
		{few, 0, 3, milli(0, 200)},
		{Cue{Span: milli(5, 9), Text: "ebb"}, 0, 3, milli(5, 9)},
	} {
		if got := c.in.At(c.from, c.to); got != c.want {
			t.Errorf("[%d, %d) of %q: %v, want %v", c.from, c.to, c.in.Text, got, c.want)
		}
	}
	if got := Speakers([]Cue{{Speaker: "Bo"}, {}, {Speaker: "Ada"}, {Speaker: "Bo"}}); !slices.Equal(got,
		[]string{"Ada", "Bo"}) {
		t.Errorf("%q speak", got)
	}
}

// TestWordsThatAreCutStayWithinTheirLine, at the moment where they were cut.
func TestWordsThatAreCutStayWithinTheirLine(t *testing.T) {
	kept := cutlist.CarrierOf(span.Of(milli(1000, 2000), milli(3000, 4000)))
	in := []Cue{{Span: milli(500, 2500), Text: "a b c d",
		Words: []Word{word(milli(500, 700), "a"), word(milli(1200, 1400), "b"),
			word(milli(1900, 2100), "c"), word(milli(2200, 2400), "d")}}}
	got := Carry(in, kept)
	if len(got) != 1 || got[0].Span != milli(0, 1000) {
		t.Fatalf("%+v", got)
	}
	want := []Word{word(milli(0, 0), "a"), word(milli(200, 400), "b"),
		word(milli(900, 1000), "c"), word(milli(1000, 1000), "d")}
	if !slices.Equal(got[0].Words, want) {
		t.Errorf("%+v", got[0].Words)
	}
	back := Back([]Cue{{Span: milli(0, 1000), Words: []Word{word(milli(200, 200), "x")}},
		{Span: milli(500, 500)}}, kept)
	if len(back) != 1 || back[0].Span != milli(1000, 2000) || back[0].Words[0].Span != milli(1200, 1200) {
		t.Errorf("back: %+v", back)
	}
}

// TestADoubtStaysWithItsWord through cuts and corrections of other words, and goes with a correction of its own.
func TestADoubtStaysWithItsWord(t *testing.T) {
	c := Cue{Span: milli(0, 1000), Text: "the tied turns", Words: []Word{word(milli(0, 200), "the"),
		{Span: milli(200, 500), Text: "tied", Unsure: true}, word(milli(500, 1000), "turns")}}
	doubts := func(c Cue) (out []string) {
		for _, w := range c.Words {
			if w.Unsure {
				out = append(out, w.Text)
			}
		}
		return out
	}
	by := cutlist.CarrierOf(span.Of(milli(0, 2000)))
	carried := Carry([]Cue{c}, by)
	back := Back(carried, by)
	for name, x := range map[string]struct {
		cue  Cue
		want []string
	}{"carried": {carried[0], []string{"tied"}}, "back": {back[0], []string{"tied"}},
		"another word": {c.Retext("the tied turned"), []string{"tied"}}, "this word": {c.Retext("the tide turns"), nil},
		"a word less": {c.Retext("the turns"), nil}} {
		if got := doubts(x.cue); !slices.Equal(got, x.want) {
			t.Errorf("%s: %v, want %v", name, got, x.want)
		}
	}
}
