package signin

import (
	_ "embed"
	"strings"
	"sync"
)

// commonList are the passwords that are tried first, a line each, the commonest first. It comes with the package
// zxcvbn of npm, under the licence in common.LICENSE.
//
//go:embed common.txt
var commonList string

var commonWords = sync.OnceValue(func() map[string]bool {
	out := map[string]bool{}
	for word := range strings.Lines(commonList) {
		out[strings.TrimSpace(word)] = true
	}
	return out
})

// common reports whether a password is one of the commonest, in any case of letters: as it stands in the list, once or
// several times in a row, or with nothing but digits and signs before or after it.
func common(password string) bool {
	words := commonWords()
	lower := strings.ToLower(password)
	if words[lower] {
		return true
	}
	for n := 1; n <= len(lower)/2; n++ {
		if len(lower)%n == 0 && strings.Repeat(lower[:n], len(lower)/n) == lower && (n < 4 || words[lower[:n]]) {
			return true
		}
	}
	core := strings.TrimFunc(lower, func(r rune) bool { return r < 'a' || r > 'z' && r < 0x80 })
	return len(core) < 4 && len(core) < len(lower) && strings.Trim(lower, "0123456789") == core || words[core]
}
