// Package naming makes the title that a recording gets until a person gives it a better one.
package naming

import (
	"fmt"
	"strings"
	"time"
)

// Lecture is what a title is made from.
type Lecture struct {
	Course string    // code, such as "TID 210"
	Week   int       // of teaching; 0 in a break or outside the term
	Date   time.Time // in the zone of the college
	Ahead  bool      // made for the week, not for a day
	Topic  string    // what the timetable says it is about; may be empty
	Part   int       // 1 for the only or first recording of a lecture
}

// Title tells course, week, date and, where known, the topic: never a date code alone. What is
// for a whole week has no date.
func Title(l Lecture) string {
	parts := []string{l.Course}
	if l.Week > 0 {
		parts[0] += fmt.Sprintf(", week %d", l.Week)
	}
	if !l.Ahead {
		parts = append(parts, l.Date.Format("Mon 2 Jan"))
	}
	if topic := strings.Join(strings.Fields(l.Topic), " "); topic != "" {
		parts = append(parts, topic)
	}
	if l.Part > 1 {
		parts = append(parts, fmt.Sprintf("part %d", l.Part))
	}
	return strings.Join(parts, " · ")
}

// MaxLength is how many characters a title may have.
const MaxLength = 200

// Clean is a title as it is kept: without line breaks or doubled spaces. It reports an
// error that can be shown when nothing is left or when it is longer than MaxLength.
func Clean(title string) (string, error) {
	clean := strings.Join(strings.Fields(title), " ")
	switch n := len([]rune(clean)); {
	case n == 0:
		return "", fmt.Errorf("a title needs at least one character")
	case n > MaxLength:
		return "", fmt.Errorf("a title may have %d characters; this one has %d", MaxLength, n)
	}
	return clean, nil
}
