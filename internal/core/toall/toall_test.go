package toall

import (
	"math"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"latelantern/internal/core/fault"
)

func fields(err error) []string {
	f, _ := err.(fault.Faults)
	out := []string{}
	for _, x := range f {
		out = append(out, x.Field+" "+string(x.Text.Code))
	}
	return out
}

func TestWhatAQuestionMayBe(t *testing.T) {
	many := make([]string, MaxChoices+1)
	for i := range many {
		many[i] = strings.Repeat("x", i+1)
	}
	for _, c := range []struct {
		name  string
		q     Question
		wrong []string
	}{
		{"one of two", Question{One, "When is ebb?", []string{"at six", "at noon"}, []int{1}}, nil},
		{"several, none of them right or wrong", Question{Several, "Which?", []string{"a", "b", "c"}, nil}, nil},
		{"a number", Question{Kind: Number, Text: "How high?"}, nil},
		{"words", Question{Kind: Words, Text: "One word for it?"}, nil},
		{"of no kind", Question{Kind: "essay", Text: "Why?"}, []string{"kind toall.kind"}},
		{"without a text", Question{Kind: Number, Text: " \u202e"}, []string{"text chat.empty"}},
		{"long", Question{Kind: Number, Text: strings.Repeat("ä", MaxText+1)}, []string{"text chat.long"}},
		{"one choice", Question{One, "Which?", []string{"a"}, nil}, []string{"choices toall.choices"}},
		{"ten choices", Question{One, "Which?", many[:MaxChoices], nil}, nil},
		{"eleven choices", Question{One, "Which?", many, nil}, []string{"choices toall.choices"}},
		{"two alike", Question{One, "Which?", []string{"a", "b", " a\n"}, nil}, []string{"choices.2 toall.same"}},
		{"an empty one", Question{One, "Which?", []string{"a", "", "b"}, nil}, []string{"choices.1 chat.empty"}},
		{"two right of one", Question{One, "Which?", []string{"a", "b"}, []int{0, 1}}, []string{"right toall.right"}},
		{"right is what is not there", Question{Several, "Which?", []string{"a", "b"}, []int{2}},
			[]string{"right toall.right"}},
		{"right is less than none", Question{Several, "Which?", []string{"a", "b"}, []int{-1}},
			[]string{"right toall.right"}},
	} {
		q, err := Clean(c.q)
		if got := fields(err); len(got)+len(c.wrong) > 0 && !slices.Equal(got, c.wrong) {
			t.Errorf("%s: %q", c.name, got)
		}
		if again, err := Clean(q); c.wrong == nil && (err != nil || !reflect.DeepEqual(q, again)) {
			t.Errorf("%s: cleaned again it is %+v, %v", c.name, again, err)
		}
	}
	q, err := Clean(Question{Several, " a\u202e ", []string{" b\n", "c"}, []int{1, 0, 1}})
	if want := (Question{Several, "a", []string{"b", "c"}, []int{0, 1}}); err != nil || !reflect.DeepEqual(q, want) {
		t.Errorf("%+v %v", q, err)
	}
	q, err = Clean(Question{Number, "How high?", []string{"b"}, []int{4}})
	if err != nil || q.Choices != nil || q.Right != nil {
		t.Errorf("choices of a number: %+v %v", q, err)
	}
}

func n(x float64) *float64 { return &x }

func TestWhatIsAnAnswer(t *testing.T) {
	one := Question{One, "?", []string{"a", "b", "c"}, []int{1}}
	several := Question{Several, "?", []string{"a", "b", "c"}, []int{0, 2}}
	number, words := Question{Kind: Number}, Question{Kind: Words}
	for _, c := range []struct {
		name  string
		q     Question
		a     Answer
		want  Answer
		wrong []string
	}{
		{"one", one, Answer{Choices: []int{2}}, Answer{Choices: []int{2}}, nil},
		{"the same twice", one, Answer{Choices: []int{2, 2}}, Answer{Choices: []int{2}}, nil},
		{"two of one", one, Answer{Choices: []int{1, 2}}, Answer{}, []string{"choices toall.choose"}},
		{"none", several, Answer{}, Answer{}, []string{"choices toall.choose"}},
		{"what is not there", several, Answer{Choices: []int{3}}, Answer{}, []string{"choices toall.choose"}},
		{"less than none", several, Answer{Choices: []int{-1}}, Answer{}, []string{"choices toall.choose"}},
		{"several, with what is not asked", several, Answer{Choices: []int{2, 0}, Number: n(1), Words: "x"},
			Answer{Choices: []int{0, 2}}, nil},
		{"a number", number, Answer{Number: n(-2.5)}, Answer{Number: n(-2.5)}, nil},
		{"the largest", number, Answer{Number: n(-MaxNumber)}, Answer{Number: n(-MaxNumber)}, nil},
		{"no number", number, Answer{Words: "two"}, Answer{}, []string{"number toall.number"}},
		{"not a number", number, Answer{Number: n(math.NaN())}, Answer{}, []string{"number toall.number"}},
		{"without an end", number, Answer{Number: n(math.Inf(-1))}, Answer{}, []string{"number toall.number"}},
		{"words", words, Answer{Words: " ebb \u202e tide"}, Answer{Words: "ebb tide"}, nil},
		{"no words", words, Answer{Words: "\u200b"}, Answer{}, []string{"words chat.empty"}},
		{"long words", words, Answer{Words: strings.Repeat("x", MaxWords+1)}, Answer{}, []string{"words chat.long"}},
	} {
		got, err := c.q.Take(c.a)
		if f := fields(err); len(f)+len(c.wrong) > 0 && !slices.Equal(f, c.wrong) {
			t.Errorf("%s: %q", c.name, f)
		}
		if err == nil && !reflect.DeepEqual(got, c.want) {
			t.Errorf("%s: %+v", c.name, got)
		}
	}
	for _, c := range []struct {
		q     Question
		given []int
		right bool
	}{{one, []int{1}, true}, {one, []int{0}, false}, {several, []int{0, 2}, true}, {several, []int{0}, false},
		{several, []int{0, 1, 2}, false}, {Question{Kind: One}, nil, false}} {
		if c.q.IsRight(Answer{Choices: c.given}) != c.right {
			t.Errorf("%v of %v", c.given, c.q.Right)
		}
	}
}

// TestUntilWhenAnAnswerIsTaken: while it is open whenever it was written; then for a while what waited for its line,
// unless all have seen the results.
func TestUntilWhenAnAnswerIsTaken(t *testing.T) {
	noon := time.Date(2026, 10, 14, 12, 0, 0, 0, time.UTC)
	at := func(s int) time.Time { return noon.Add(time.Duration(s) * time.Second) }
	for _, c := range []struct {
		name         string
		shown        bool
		written, now int
		takes        bool
	}{
		{"while it is open", false, -30, -30, true},
		{"while it is open, and the results are seen", true, -30, -30, true},
		{"from a clock that is an hour slow", false, -3600, -30, true},
		{"at its end", false, 0, 0, false},
		{"written before it", false, -1, 0, true},
		{"written before it, and long on its way", false, -1, 119, true},
		{"longer", false, -1, 120, false},
		{"written after it", false, 1, 2, false},
		{"written before it, and the results are seen", true, -1, 2, false},
	} {
		if got := (Open{noon, c.shown}).Takes(at(c.written), at(c.now)); got != c.takes {
			t.Errorf("%s: %v", c.name, got)
		}
	}
}
