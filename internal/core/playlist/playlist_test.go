package playlist

import (
	"slices"
	"strings"
	"testing"
	"time"

	"latelantern/internal/core/workflow"
)

// stand is a playlist as words: headings in capitals, parts of lecture x as x1, x2; the time of a lecture is the place
// of its letter in the alphabet, and what begins with a dash has none.
func stand(words string) (out []Item[string]) {
	begin := time.Date(2026, 9, 1, 9, 0, 0, 0, time.UTC)
	for _, w := range strings.Fields(words) {
		i := Item[string]{ID: w, Heading: w == strings.ToUpper(w) && w[0] != '-'}
		if !i.Heading && w[0] != '-' {
			i.Lecture, i.At = w[:1], begin.AddDate(0, 0, int(w[0]-'a'))
		}
		if len(w) > 1 && i.Lecture != "" {
			i.Made = begin.AddDate(1, 0, int(w[1]-'0'))
		}
		out = append(out, i)
	}
	return out
}

func said(items []Item[string]) string {
	var words []string
	for _, i := range items {
		words = append(words, i.ID)
	}
	return strings.Join(words, " ")
}

func TestArrange(t *testing.T) {
	for _, c := range []struct {
		by         Arranged
		from, want string
	}{
		{Hand, "c a H b", "c a H b"},
		{Hand, "c2 a H b c1", "c1 c2 a H b"},
		{Date, "c a H d b", "a c H b d"},
		{Date, "c -page a H d -file b", "a -page c H b -file d"},
		{Date, "b2 d H a c b1", "b1 b2 d H a c"},
		{Week, "H c a K -page b2 b1", "-page a b1 b2 c"},
		{Week, "H", ""},
		{Date, "", ""},
	} {
		items := stand(c.from)
		if got := said(Arrange(items, c.by)); got != c.want {
			t.Errorf("%s by %s is %s, want %s", c.from, c.by, got, c.want)
		}
		if said(items) != c.from {
			t.Errorf("what was given was changed: %s is %s", c.from, said(items))
		}
	}
}

func TestMove(t *testing.T) {
	const from = "A a b1 b2 B c d"
	for _, c := range []struct{ moved, before, want string }{
		{"d", "A", "d A a b1 b2 B c"},
		{"a", "c", "A b1 b2 B a c d"},
		{"B", "", "A a b1 b2 c d B"},
		{"c", "c", from},
		{"d a", "B", "A b1 b2 a d B c"},     // in the order in which they stand
		{"b2", "A", "b1 b2 A a B c d"},      // with its other part
		{"d", "b2", "A a d b1 b2 B c"},      // never between parts
		{"a b1 B", "b2", "A a b1 b2 B c d"}, // before one of themselves
		{"x", "A", ""},
		{"a", "x", ""},
	} {
		got, err := Move(stand(from), strings.Fields(c.moved), c.before)
		if strings.Join(got, " ") != c.want || (err != nil) != (c.want == "") {
			t.Errorf("%s before %q: %v %v, want %s", c.moved, c.before, got, err, c.want)
		}
	}
}

func TestPlace(t *testing.T) {
	for _, c := range []struct{ among, letter, want string }{
		{"a c e", "b", "c"}, {"a c e", "f", ""}, {"H c a", "b", "c"}, {"", "a", ""}, {"a -page", "b", ""},
	} {
		if got := Place(stand(c.among), stand(c.letter)[0].At); got != c.want {
			t.Errorf("%s among %s stands before %q, want %q", c.letter, c.among, got, c.want)
		}
	}
}

func TestParts(t *testing.T) {
	got := Parts(stand("A a b1 b2 b3 B -page -file c1"))
	want := []Part{{1, 1}, {1, 1}, {1, 3}, {2, 3}, {3, 3}, {1, 1}, {1, 1}, {1, 1}, {1, 1}}
	if !slices.Equal(got, want) {
		t.Errorf("%v, want %v", got, want)
	}
}

func TestGaps(t *testing.T) {
	over := Lecture{Over: true}
	recorded := func(next workflow.Step, do func(*Lecture)) Lecture {
		l := Lecture{Over: true, Recorded: true, Next: next}
		if do != nil {
			do(&l)
		}
		return l
	}
	for name, c := range map[string]struct {
		lecture Lecture
		why     Why // "" for none
		took    bool
	}{
		"to come":                        {Lecture{}, "", false},
		"over, and nobody captured it":   {over, Uncaptured, true},
		"called off":                     {Lecture{Over: true, CalledOff: true}, "", false},
		"called off, to come":            {Lecture{CalledOff: true}, "", false},
		"called off, and captured":       {Lecture{CalledOff: true, Recorded: true, Next: workflow.Trim}, Waits, true},
		"nobody was invited":             {Lecture{Over: true, Private: true}, "", false},
		"captured, nobody was invited":   {recorded(workflow.Trim, func(l *Lecture) { l.Private = true }), "", false},
		"it runs":                        {recorded(workflow.Stop, func(l *Lecture) { l.Running = true }), "", false},
		"nothing can be watched":         {Lecture{Recorded: true, Failed: true, Next: workflow.TryAgain}, Empty, true},
		"it waits for its trim":          {recorded(workflow.Trim, nil), Waits, true},
		"for its title":                  {recorded(workflow.Title, nil), Waits, true},
		"for a rule":                     {recorded(workflow.Rule, nil), Waits, true},
		"it is being packaged":           {recorded(workflow.Wait, nil), "", true},
		"it could be put there":          {recorded(workflow.List, nil), "", true},
		"it is there":                    {recorded(workflow.Trim, func(l *Lecture) { l.Listed = true }), "", true},
		"it is there, before its time":   {Lecture{Listed: true, Recorded: true}, "", true},
		"recorded ahead":                 {Lecture{Recorded: true, Next: workflow.Trim}, Waits, true},
		"in the bin":                     {Lecture{Over: true, Binned: true}, Binned, true},
		"in the bin, and captured again": {recorded(workflow.List, func(l *Lecture) { l.Binned = true }), "", true},
		"in the bin, and called off":     {Lecture{Over: true, Binned: true, CalledOff: true}, "", false},
	} {
		why, is := c.lecture.Gap()
		if is != (c.why != "") || is && why != c.why || c.lecture.Took() != c.took {
			t.Errorf("%s: %q %v, took place %v", name, why, is, c.lecture.Took())
		}
	}
}

func TestHeaded(t *testing.T) {
	for lines, want := range map[string]string{"": "", "H": "", "a": "a", "Ha": "Ha", "HHa": "Ha", "HaH": "Ha",
		"aHHHbHc": "aHbHc"} {
		got := Headed([]rune(lines), func(r rune) bool { return r == 'H' })
		if string(got) != want {
			t.Errorf("of %q there is %q, want %q", lines, string(got), want)
		}
	}
}
