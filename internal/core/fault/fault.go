// Package fault says what is wrong with what someone entered, and where.
package fault

import (
	"fmt"
	"strings"
)

// Fault is one thing that is wrong. Text is a sentence that says what to do.
type Fault struct {
	Field string // as the contract names it
	Text  string
}

// Faults is everything that is wrong with one form. Its zero value means that nothing is.
type Faults []Fault

// Error implements error.
func (f Faults) Error() string {
	texts := make([]string, len(f))
	for i, x := range f {
		texts[i] = x.Text
	}
	return strings.Join(texts, " ")
}

// Add notes a fault at a field.
func (f *Faults) Add(field, format string, args ...any) {
	*f = append(*f, Fault{field, fmt.Sprintf(format, args...)})
}

// When notes a fault at a field if wrong holds.
func (f *Faults) When(wrong bool, field, format string, args ...any) {
	if wrong {
		f.Add(field, format, args...)
	}
}

// Err is nil when nothing is wrong.
func (f Faults) Err() error {
	if len(f) == 0 {
		return nil
	}
	return f
}
