// Package naming makes the titles of recordings: by the pattern of their course, until a person
// gives a better one.
package naming

import (
	"regexp"
	"strings"
	"time"

	"latelantern/internal/core/fault"
)

// Lecture is what a title is made from.
type Lecture struct {
	Course  string    // code, such as "TID 210"
	Name    string    // of the course, such as "Reading the Tides"
	Week    int       // of teaching; 0 in a break or outside the term
	Date    time.Time // in the zone of the college
	Ahead   bool      // made for the week, not for a day
	Subject string    // what it is about, as the timetable or else its first slide says; may be empty
	Part    int       // 1 for the only or first recording of a lecture
}

// MaxLength is how many characters a title may have.
const MaxLength = 200

// Clean is a title as it is kept: without line breaks or doubled spaces. It reports an
// error that can be shown when nothing is left or when it is longer than MaxLength.
func Clean(title string) (string, error) {
	clean := strings.Join(strings.Fields(title), " ")
	switch n := len([]rune(clean)); {
	case n == 0:
		return "", fault.Say("title.empty")
	case n > MaxLength:
		return "", fault.Say("title.long", "most", MaxLength, "n", n)
	}
	return clean, nil
}

var language = regexp.MustCompile(`^[A-Za-z]{2,3}(-[A-Za-z0-9]{2,8}){0,3}$`)

// Language tells whether text has the shape of a language tag (RFC 5646), as far as it is used here.
func Language(text string) bool { return language.MatchString(text) }
