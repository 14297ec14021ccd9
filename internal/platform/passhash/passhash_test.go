package passhash_test

import (
	"testing"

	"latelantern/internal/platform/passhash"
)

// TestHashesAreSalted: the same text twice gives two hashes, both of which it matches, and nothing else does.
func TestHashesAreSalted(t *testing.T) {
	a, err := passhash.Of("the same")
	if err != nil {
		t.Fatal(err)
	}
	b, err := passhash.Of("the same")
	if err != nil || a == b || len(a) < 60 {
		t.Errorf("%s and %s (%v)", a, b, err)
	}
	if !passhash.Matches("the same", a) || !passhash.Matches("the same", b) {
		t.Error("they are not of what they were made of")
	}
	for _, hash := range []string{a, passhash.None, "", "nothing"} {
		if passhash.Matches("the Same", hash) {
			t.Errorf("another text matches %q", hash)
		}
	}
}
