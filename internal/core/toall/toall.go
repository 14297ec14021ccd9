// Package toall says what a short question to everyone in class may be, how it is answered, until when, and what the
// answers come to.
package toall

import (
	"fmt"
	"math"
	"slices"
	"time"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/plain"
)

// Kind is how a question is answered.
type Kind string

const (
	One     Kind = "one"     // with one of its choices
	Several Kind = "several" // with one of them or more
	Number  Kind = "number"
	Words   Kind = "words" // with a short text
)

// Kinds are all of them.
var Kinds = []Kind{One, Several, Number, Words}

// Choose reports whether a question of this kind has choices.
func (k Kind) Choose() bool { return k == One || k == Several }

// The most that a question may have; lengths are in characters.
const (
	MaxText    = 500
	MaxChoice  = 200
	MaxChoices = 10
	MaxWords   = 200  // of an answer in words
	MaxNumber  = 1e12 // of an answer that is a number, and -MaxNumber the least
)

// Question is one that can be put to all.
type Question struct {
	Kind    Kind
	Text    string
	Choices []string // of what has choices: 2 to MaxChoices, each another
	Right   []int    // which of them are right, from 0 on, in order; none where there is no right and wrong
}

// Clean is a question as it is kept. Its error is of type fault.Faults, about kind, text, choices (from choices.0 on)
// and right.
func Clean(q Question) (Question, error) {
	var f fault.Faults
	f.When(!slices.Contains(Kinds, q.Kind), "kind", "toall.kind")
	text, err := plain.Text("text", q.Text, MaxText)
	f = append(f, faults(err)...)
	out := Question{Kind: q.Kind, Text: text}
	if !q.Kind.Choose() {
		return out, f.Err()
	}
	for i, c := range q.Choices {
		field := fmt.Sprintf("choices.%d", i)
		c, err := plain.Line(field, c, MaxChoice)
		f = append(f, faults(err)...)
		f.When(err == nil && slices.Contains(out.Choices, c), field, "toall.same")
		out.Choices = append(out.Choices, c)
	}
	n := len(out.Choices)
	f.When(n < 2 || n > MaxChoices, "choices", "toall.choices", "most", MaxChoices)
	out.Right = slices.Compact(slices.Sorted(slices.Values(q.Right)))
	wrong := slices.ContainsFunc(out.Right, func(i int) bool { return i < 0 || i >= n })
	f.When(wrong || q.Kind == One && len(out.Right) > 1, "right", "toall.right")
	return out, f.Err()
}

// faults are those that err is; none for nil.
func faults(err error) fault.Faults {
	f, _ := err.(fault.Faults)
	return f
}

// Answer is what somebody answers: what the kind of the question asks for, and nothing else.
type Answer struct {
	Choices []int // which, from 0 on, in order
	Number  *float64
	Words   string
}

// Take is an answer to q as it is kept. Its error is of type fault.Faults, about choices, number or words.
func (q Question) Take(a Answer) (Answer, error) {
	switch q.Kind {
	case Number:
		if a.Number == nil || math.IsNaN(*a.Number) || math.Abs(*a.Number) > MaxNumber {
			return Answer{}, fault.One("number", "toall.number")
		}
		return Answer{Number: a.Number}, nil
	case Words:
		words, err := plain.Line("words", a.Words, MaxWords)
		return Answer{Words: words}, err
	}
	chosen := slices.Compact(slices.Sorted(slices.Values(a.Choices)))
	wrong := slices.ContainsFunc(chosen, func(i int) bool { return i < 0 || i >= len(q.Choices) })
	if wrong || len(chosen) == 0 || q.Kind == One && len(chosen) > 1 {
		return Answer{}, fault.One("choices", "toall.choose")
	}
	return Answer{Choices: chosen}, nil
}

// IsRight reports whether an answer has all that is right, and nothing else; false where there is no right and wrong.
func (q Question) IsRight(a Answer) bool { return len(q.Right) > 0 && slices.Equal(a.Choices, q.Right) }

// How long a question can be open, where it is for a time.
const (
	LeastOpen = 10 * time.Second
	MostOpen  = time.Hour
)

// late is how long after its end an answer is still taken that was written before it: it waited for its line.
const late = 2 * time.Minute

// Open is until when a question is open, and whether all see what was answered.
type Open struct {
	Closes time.Time
	Shown  bool
}

// Goes reports whether it is open now.
func (o Open) Goes(now time.Time) bool { return now.Before(o.Closes) }

// Takes reports whether an answer is taken now that was written then: while it is open, or soon after, if it was
// written before it closed and nobody has seen what others answered.
func (o Open) Takes(written, now time.Time) bool {
	return o.Goes(now) || !o.Shown && written.Before(o.Closes) && now.Before(o.Closes.Add(late))
}
