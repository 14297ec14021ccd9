package lattice

import (
	"testing"
	"time"

	"latelantern/internal/core/span"
)

func TestTheShareOfAWord(t *testing.T) {
	at := func(from, to int) span.Span {
		return span.Span{Start: time.Duration(from) * time.Millisecond, End: time.Duration(to) * time.Millisecond}
	}
	heard := []Heard{{at(1000, 1400), "tide", 0.3}, {at(1010, 1390), "tied", 0.6}, {at(1020, 1420), "tide", 0.4},
		{at(5000, 5300), "turns", 0.9}, {at(6000, 8999), "slow", 0.2}}
	for _, c := range []struct {
		word  string
		at    span.Span
		share float64
		ok    bool
	}{
		{"tide", at(1000, 1400), 0.4, true}, {"tied", at(1000, 1400), 0.6, true}, {"turns", at(1000, 1400), 0, false},
		{"turns", at(5499, 5700), 0.9, true}, {"turns", at(5500, 5700), 0, false}, {"turns", at(4600, 4801), 0.9, true},
		{"turns", at(4600, 4800), 0, false}, {"slow", at(9000, 9100), 0.2, true}, {"slow", at(9199, 9300), 0, false},
		{"none", at(0, 10_000), 0, false},
	} {
		if share, ok := Share(heard, c.word, c.at); share != c.share || ok != c.ok {
			t.Errorf("%s at %v has %v %v, want %v %v", c.word, c.at, share, ok, c.share, c.ok)
		}
	}
	if _, ok := Share(nil, "tide", at(0, 1)); ok {
		t.Error("of nothing something was heard")
	}
}
