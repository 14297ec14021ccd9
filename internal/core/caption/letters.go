package caption

import (
	"golang.org/x/text/unicode/norm"
)

// plainLetter is a letter without its accents: the first of its canonical parts.
func plainLetter(r rune) rune {
	for _, base := range norm.NFD.String(string(r)) {
		return base
	}
	return r
}
