package signal

import (
	"slices"
	"testing"
	"time"

	"latelantern/internal/core/span"
)

func TestQuiet(t *testing.T) {
	peaks := make([]byte, 300)
	for i := range peaks {
		peaks[i] = 120
	}
	for _, i := range []int{10, 11, 12, 50, 51, 52, 53, 54, 55, 56, 57, 58, 59, 80} { // the last one alone is too short
		peaks[i] = 9
	}
	for i := 200; i < 300; i++ {
		peaks[i] = 8
	}
	ms := time.Millisecond
	for _, c := range []struct {
		at, want time.Duration
		ok       bool
	}{{1100 * ms, 1100 * ms, true}, {2900 * ms, 1200 * ms, true}, {4000 * ms, 5100 * ms, true},
		{8000 * ms, 5900 * ms, true}, {25000 * ms, 25000 * ms, true}, {45000 * ms, 0, false}} {
		if got, ok := Quiet(peaks, c.at); got != c.want || ok != c.ok {
			t.Errorf("near %v: %v %v", c.at, got, ok)
		}
	}
	if _, ok := Quiet(nil, 0); ok {
		t.Error("a silence in nothing")
	}
}

func TestPausesBetweenWords(t *testing.T) {
	peaks := []byte{9, 9, 9, 9, 9, 120, 130, 9, 110, 9, 9, 9, 9, 90, 80, 9}
	got := Pauses(peaks, 4*Window)
	want := []span.Span{{Start: 0, End: 5 * Window}, {Start: 9 * Window, End: 13 * Window}}
	if !slices.Equal(got, want) {
		t.Errorf("%v, want %v", got, want)
	}
	if got := Pauses(nil, Window); got != nil {
		t.Errorf("of nothing: %v", got)
	}
}

func TestSilences(t *testing.T) {
	at := func(tenths ...int) span.Set {
		var out []span.Span
		for i := 0; i < len(tenths); i += 2 {
			out = append(out, span.Span{Start: time.Duration(tenths[i]) * time.Second / 10,
				End: time.Duration(tenths[i+1]) * time.Second / 10})
		}
		return span.Of(out...)
	}
	for _, c := range []struct {
		name         string
		speech, want span.Set
	}{
		{"nobody ever speaks", at(), at()},
		{"someone speaks all the time", at(0, 600), at()},
		{"a breath is none", at(0, 100, 114, 600), at()},
		{"a pause is, but for a little at its ends", at(0, 100, 115, 600), at(103, 112)},
		{"before the first word and after the last", at(100, 400), at(3, 97, 403, 597)},
	} {
		if got := span.Of(Silences(c.speech, time.Minute)...); !got.Equal(c.want) {
			t.Errorf("%s: %v, want %v", c.name, got.Spans(), c.want.Spans())
		}
	}
}
