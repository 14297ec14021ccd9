package caption

import (
	"math/rand"
	"reflect"
	"strings"
	"testing"
	"testing/quick"
	"time"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
)

const ms = time.Millisecond

func at(from, to time.Duration) span.Span { return span.Span{Start: from, End: to} }

// spoken is a text of which each word takes 300 ms, and the pause after one that ends in a comma a second.
func spoken(text string) []Word {
	var out []Word
	var t time.Duration
	for _, w := range strings.Fields(text) {
		out = append(out, Word{Span: at(t, t+300*ms), Text: strings.Trim(w, ",")})
		if t += 320 * ms; strings.HasSuffix(w, ",") {
			t += time.Second
		}
	}
	return out
}

func TestLinesOfWords(t *testing.T) {
	long := strings.Repeat("lighthouse ", 12)
	lines := FromWords(spoken("one two, three four five, " + long))
	if len(lines) < 4 || lines[0].Text != "one two" || lines[1].Text != "three four five" {
		t.Fatalf("%+v", lines)
	}
	var all []Word
	for _, c := range lines {
		if len(c.Text) > mostSigns || c.Len() > mostTime+time.Second || c.Start != c.Words[0].Start ||
			c.End != c.Words[len(c.Words)-1].End {
			t.Errorf("%v %q", c.Span, c.Text)
		}
		all = append(all, c.Words...)
	}
	if !reflect.DeepEqual(all, spoken("one two, three four five, "+long)) {
		t.Error("words were lost, or moved")
	}
	if FromWords(nil) != nil {
		t.Error("lines of nothing")
	}
}

func TestPieces(t *testing.T) {
	speech := span.Of(at(0, 3*time.Second), at(4*time.Second, 6*time.Second), at(20*time.Second, 80*time.Second))
	quiet := []time.Duration{30 * time.Second, 41 * time.Second, 44 * time.Second, 79 * time.Second}
	got := Pieces(speech, quiet, 25*time.Second)
	want := []span.Span{at(0, 6250*ms), at(19750*ms, 44*time.Second), at(44*time.Second, 69*time.Second),
		at(69*time.Second, 80250*ms)}
	if !reflect.DeepEqual(got, want) {
		t.Errorf("%v, want %v", got, want)
	}
}

func TestCorrecting(t *testing.T) {
	words := spoken("the kelp hold fast")
	c := FromWords(words)[0]
	c.As.Markup = "<i>x</i>"
	if same := c.Retext("the  kelp hold fast"); !reflect.DeepEqual(same, c) {
		t.Errorf("nothing was changed: %+v", same)
	}
	if r := c.Retext("The Kelp: hold fast."); r.Text != "The Kelp: hold fast." || len(r.Words) != 4 ||
		r.Words[3].Span != words[3].Span || r.Words[3].Text != "fast." || r.As.Markup != "" {
		t.Errorf("signs alone: %+v", r)
	}
	if r := c.Retext("the kelp holdfast"); r.Words != nil {
		t.Errorf("other words have times: %+v", r.Words)
	}
	if text := Clean(" a\u00a0b \r\n\n\t c\u200b\x07d \n"); text != "a b\ncd" {
		t.Errorf("cleaned: %q", text)
	}
	a, b, ok := c.Split(9)
	if !ok || a.Text != "the kelp" || b.Text != "hold fast" || a.End != b.Start || a.End != 630*ms ||
		len(b.Words) != 2 || b.End != c.End {
		t.Errorf("parted: %+v and %+v", a, b)
	}
	if j := Join(a, b); j.Text != c.Text || j.Span != c.Span || !reflect.DeepEqual(j.Words, c.Words) {
		t.Errorf("joined again: %+v", j)
	}
	for _, place := range []int{-1, 0, 18, 99} {
		if _, _, ok := c.Split(place); ok {
			t.Errorf("parted at %d", place)
		}
	}
	// Without times of words the share of the text says when.
	c.Words = nil
	if a, b, ok := c.Split(9); !ok || a.End != c.Start+c.Len()/2 || b.Start != a.End {
		t.Errorf("parted without times: %v %v", a.Span, b.Span)
	}
}

// TestSpokenWords: each word of a line has its time, one after the other, from its beginning to its end.
func TestSpokenWords(t *testing.T) {
	known := FromWords(spoken("the kelp hold fast"))[0]
	if got := known.Spoken(); !reflect.DeepEqual(got, known.Words) {
		t.Errorf("known times: %v", got)
	}
	c := Cue{Span: span.Span{Start: time.Second, End: 3 * time.Second}, Text: "one\nthree ätolls"}
	got := c.Spoken()
	if len(got) != 3 || got[0].Start != c.Start || got[0].End != c.Start+c.Len()*3/14 || got[1].Text != "three" ||
		got[1].Start != got[0].End || got[2].Start != c.Start+c.Len()*8/14 || got[2].End != c.End {
		t.Errorf("times by length: %v", got)
	}
	if got := (Cue{Span: c.Span}).Spoken(); len(got) != 0 {
		t.Errorf("of no words: %v", got)
	}
}

func TestFindAndReplace(t *testing.T) {
	for _, c := range []struct {
		f        Finding
		in, with string
		want     string
		n        int
	}{
		{Finding{Text: "tide"}, "Tide after tide,\ntidal", "current", "current after current,\ntidal", 2},
		{Finding{Text: "tide", Exact: true}, "Tide after tide", "T", "Tide after T", 1},
		{Finding{Text: "tid", Whole: true}, "tid tide tid.", "x", "x tide x.", 2},
		{Finding{Text: "cafe"}, "The café", "inn", "The inn", 1},
		{Finding{Text: "cafe", Marked: true}, "The café", "inn", "The café", 0},
		{Finding{Text: "low water"}, "low\nwater", "ebb", "ebb", 1},
		{Finding{Text: "it's"}, "it’s", "it is", "it is", 1},
		{Finding{Text: "aa"}, "aaa", "b", "ba", 1},
		{Finding{}, "anything", "x", "anything", 0},
		{Finding{Text: "x"}, "axa", "xx", "axxa", 1},
	} {
		if got, n := c.f.Replace(c.in, c.with); got != c.want || n != c.n {
			t.Errorf("%+v in %q: %q in %d places", c.f, c.in, got, n)
		}
	}
}

func TestWhenSomethingIsSaid(t *testing.T) {
	c := FromWords(spoken("read the tide staff"))[0]
	if when := c.At(9, 13); when != c.Words[2].Span {
		t.Errorf("a word is said at %v", when)
	}
	if when := c.At(10, 19); when != at(c.Words[2].Start, c.Words[3].End) {
		t.Errorf("from within a word at %v", when)
	}
	c.Words = nil
	if when := c.At(9, 13); when != c.Span {
		t.Errorf("without times of words at %v", when)
	}
}

// random makes cues in order, and a cut list over them.
func random(r *rand.Rand) ([]Cue, cutlist.List) {
	var cues []Cue
	var t time.Duration
	for range 1 + r.Intn(30) {
		t += time.Duration(r.Intn(3000)) * ms
		n := 1 + r.Intn(6)
		var words []Word
		var texts []string
		from := t
		for i := range n {
			to := t + time.Duration(50+r.Intn(500))*ms
			word := string(rune('a' + i))
			words, texts = append(words, Word{Span: at(t, to), Text: word}), append(texts, word)
			t = to + time.Duration(r.Intn(100))*ms
		}
		cues = append(cues, Cue{Span: at(from, words[n-1].End), Text: strings.Join(texts, " "), Words: words})
	}
	length := t + time.Duration(1+r.Intn(5000))*ms
	list := cutlist.New(length, span.Set{})
	for range r.Intn(6) {
		from := time.Duration(r.Int63n(int64(length/ms))) * ms
		if cut, err := list.Strike(at(from, from+time.Duration(r.Intn(8000))*ms)); err == nil {
			list = cut
		}
	}
	return cues, list
}

// TestWordsFollowTheCuts: whatever is struck, no word that is published is lost or shifted; what is
// restored stands where it was; and a line that goes out and comes back is where it was.
func TestWordsFollowTheCuts(t *testing.T) {
	law := func(seed int64) bool {
		cues, list := random(rand.New(rand.NewSource(seed)))
		by := list.Carrier()
		carried := Carry(cues, by)
		n := 0
		for _, c := range cues {
			span, ok := by.Span(c.Span)
			if !ok || span.Len() <= time.Duration(float64(c.Len())*leastKept) {
				continue
			}
			got := carried[n]
			n++
			if got.Text != c.Text || len(got.Words) != len(c.Words) || got.Span != span {
				t.Logf("%+v became %+v", c, got)
				return false
			}
			for i, w := range c.Words {
				// A word that is kept whole is said as long after the beginning as what is kept between says.
				if kept, ok := by.Span(w.Span); ok && got.Words[i].Span != kept || got.Words[i].Start < got.Start ||
					got.Words[i].End > got.End {
					return false
				}
			}
		}
		if n != len(carried) {
			return false
		}
		// All of it kept, it is as it was.
		whole := cutlist.New(list.Length(), span.Set{}).Carrier()
		if !reflect.DeepEqual(Carry(cues, whole), cues) {
			return false
		}
		// Back from what is published, each line begins and ends where what is kept of it does.
		for i, c := range Back(carried, by) {
			again, ok := by.Span(c.Span)
			if !ok || again != carried[i].Span {
				t.Logf("%v came back as %v and goes out as %v", carried[i].Span, c.Span, again)
				return false
			}
		}
		return true
	}
	if err := quick.Check(law, &quick.Config{MaxCount: 2000}); err != nil {
		t.Error(err)
	}
}
