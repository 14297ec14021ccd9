package fingerprint

import (
	"bytes"
	"encoding/hex"
	"math/rand"
	"testing"
)

func printOf(t *testing.T, b []byte) string {
	t.Helper()
	p, err := Print(int64(len(b)), bytes.NewReader(b))
	if err != nil || len(p) != Length {
		t.Fatalf("%d bytes: %v", len(p), err)
	}
	return hex.EncodeToString(p)
}

func TestPrint(t *testing.T) {
	r := rand.New(rand.NewSource(4))
	seen := map[string]int{}
	for _, size := range []int{0, 1, Window, Windows*Window - 1, Windows * Window, Windows*Window + 1, 5_000_000} {
		b := make([]byte, size)
		r.Read(b)
		first := printOf(t, b)
		if again := printOf(t, bytes.Clone(b)); again != first {
			t.Errorf("%d bytes: the same content has another print", size)
		}
		seen[first]++
		if size < 2 {
			continue
		}
		for _, at := range []int{0, size - 1} {
			b[at] ^= 1
			seen[printOf(t, b)]++
			b[at] ^= 1
		}
		seen[printOf(t, b[:size-1])]++
	}
	for p, n := range seen {
		if n > 1 && p != printOf(t, nil) {
			t.Errorf("%d contents have one print", n)
		}
	}
	if _, err := Print(10, bytes.NewReader([]byte("short"))); err == nil {
		t.Error("a file that is shorter than it says has a print")
	}
}

func TestWindowsLieInTheFile(t *testing.T) {
	for _, size := range []int64{0, 1, Windows * Window, Windows*Window + 1, 3 << 30, 48<<30 + 7} {
		last := int64(0)
		for _, w := range windows(size) {
			if w[0] < 0 || w[0]+w[1] > size {
				t.Errorf("of %d bytes: %v", size, w)
			}
			last = w[0] + w[1]
		}
		if last != size {
			t.Errorf("the end of %d bytes is not read", size)
		}
	}
}
