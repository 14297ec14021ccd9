package presence

import (
	"slices"
	"strings"
	"time"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"latelantern/internal/core/fault"
)

// Said is what a line of a file says of somebody.
type Said struct {
	Line        int    // in the file, from 1
	Who         string // an address, or a name, as it stands there
	State       State  // Unknown where it says no more than that they were there
	Late, Early time.Duration
	Reason      string
}

// Why a line of a file is nobody's.
const (
	ErrNobody  = fault.Code("register.nobody")
	ErrSeveral = fault.Code("register.several")
)

// Seats finds people by how a file calls them.
type Seats struct{ byMail, byName map[string][]int }

// Sit adds the person who is number n of a list.
func (s *Seats) Sit(n int, name, email string) {
	if s.byMail == nil {
		s.byMail, s.byName = map[string][]int{}, map[string][]int{}
	}
	mail, key := strings.ToLower(email), nameKey(name)
	s.byMail[mail] = append(s.byMail[mail], n)
	s.byName[key] = append(s.byName[key], n)
}

// Find is the number of whom a file names: by their address, or by all words of their name in whatever order, whatever
// the case and the accents. Its error is ErrNobody or ErrSeveral.
func (s *Seats) Find(who string) (int, error) {
	found := s.byMail[strings.ToLower(strings.TrimSpace(who))]
	if key := nameKey(who); len(found) == 0 && key != "" {
		found = s.byName[key]
	}
	switch len(found) {
	case 0:
		return 0, ErrNobody
	case 1:
		return found[0], nil
	}
	return 0, ErrSeveral
}

// nameKey is a name as it is compared: its words in order of the alphabet, without case and accents.
func nameKey(name string) string {
	plain := strings.Map(func(r rune) rune {
		if unicode.Is(unicode.Mn, r) {
			return -1
		}
		return unicode.ToLower(r)
	}, norm.NFD.String(name))
	words := strings.FieldsFunc(plain, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
	slices.Sort(words)
	return strings.Join(words, " ")
}
