// Package fault says what is wrong, as codes: which sentence of the catalogue says it to people, and what stands in
// that sentence. How it is worded, and in which language, is decided where it is shown.
package fault

import (
	"errors"
	"fmt"
	"slices"
	"strings"
)

// Code names a sentence of the catalogue, such as "cut.turned". As an error it is compared by errors.Is; two codes
// are the same error if they are the same text.
type Code string

// Error implements error, for logs; it is no sentence.
func (c Code) Error() string { return string(c) }

// Text is a sentence before it is put into words. Its zero value says nothing.
type Text struct {
	Code Code
	With map[string]any // by name: an int, a string, a Day, a Clock, an Hour, a Moment, or another Text; nil for none
}

// Say is the sentence of a code. What stands in it comes in pairs, a name and a value each; it panics on half a pair.
func Say(code Code, with ...any) Text {
	t := Text{Code: code}
	for pair := range slices.Chunk(with, 2) {
		if t.With == nil {
			t.With = map[string]any{}
		}
		t.With[pair[0].(string)] = pair[1]
	}
	return t
}

// Error implements error, for logs: the code alone, since what stands in the sentence may be a name.
func (t Text) Error() string { return string(t.Code) }

// Is makes a sentence the same error as its code.
func (t Text) Is(target error) bool { return target == error(t.Code) }

// None reports whether t says nothing.
func (t Text) None() bool { return t.Code == "" }

// wrapped is all that err and what it wraps say, from the outside in.
func wrapped(err error) []Text {
	switch x := err.(type) {
	case nil:
		return nil
	case Code:
		return []Text{{Code: x}}
	case Text:
		return []Text{x}
	case interface{ Text() Text }:
		return []Text{x.Text()}
	case interface{ Unwrap() []error }:
		var out []Text
		for _, e := range x.Unwrap() {
			out = append(out, wrapped(e)...)
		}
		return out
	}
	return wrapped(errors.Unwrap(err))
}

// Of is what err says to people: of several codes that it wraps the last, which says most. It is the zero Text when
// err says nothing to people.
func Of(err error) Text {
	all := wrapped(err)
	if len(all) == 0 {
		return Text{}
	}
	return all[len(all)-1]
}

// Codes are all codes that err wraps, from the outside in.
func Codes(err error) []Code {
	all := wrapped(err)
	out := make([]Code, len(all))
	for i, t := range all {
		out[i] = t.Code
	}
	return out
}

// All is everything that err says to people: each fault of Faults, or what Of says of it.
func All(err error) []Text {
	var many Faults
	if errors.As(err, &many) {
		out := make([]Text, len(many))
		for i, f := range many {
			out[i] = f.Text
		}
		return out
	}
	if t := Of(err); !t.None() {
		return []Text{t}
	}
	return nil
}

// Fault is one thing that is wrong. Its sentence says what to do.
type Fault struct {
	Field string // as the contract names it
	Text  Text
}

// Faults is everything that is wrong with one form. Its zero value means that nothing is.
type Faults []Fault

// One is a single fault at a field.
func One(field string, code Code, with ...any) Faults {
	return Faults{{Field: field, Text: Say(code, with...)}}
}

// Error implements error, for logs.
func (f Faults) Error() string {
	texts := make([]string, len(f))
	for i, x := range f {
		texts[i] = fmt.Sprintf("%s: %s", x.Field, x.Text.Code)
	}
	return strings.Join(texts, ", ")
}

// Add notes a fault at a field; with is as Say takes it.
func (f *Faults) Add(field string, code Code, with ...any) {
	*f = append(*f, One(field, code, with...)...)
}

// When notes a fault at a field if wrong holds.
func (f *Faults) When(wrong bool, field string, code Code, with ...any) {
	if wrong {
		f.Add(field, code, with...)
	}
}

// Err is nil when nothing is wrong.
func (f Faults) Err() error {
	if len(f) == 0 {
		return nil
	}
	return f
}
