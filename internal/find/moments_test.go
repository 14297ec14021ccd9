package find

import (
	"slices"
	"testing"
)

func TestPieces(t *testing.T) {
	for _, c := range []struct {
		text, marked string
		want         []Piece
	}{
		{"The café floods", "the \u0001cafe\u0002 \u0001floods\u0002",
			[]Piece{{"The ", false}, {"café", true}, {" ", false}, {"floods", true}}},
		{"Two\nlines", "two\n\u0001lines\u0002", []Piece{{"Two ", false}, {"lines", true}}},
		{"none", "none", []Piece{{"none", false}}},
		{"Straße", "\u0001strasse\u0002", []Piece{{"Straße", false}}},
		{"", "", nil},
	} {
		if got := pieces(c.text, c.marked); !slices.Equal(got, c.want) {
			t.Errorf("%q: %v, want %v", c.marked, got, c.want)
		}
	}
}
