package chat

import (
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"latelantern/internal/core/fault"
)

// TestALineHasItsLength: it is kept as what people write is, up to so much.
func TestALineHasItsLength(t *testing.T) {
	if got, err := Clean("text", "\u202e"+strings.Repeat("ä", MaxText)); err != nil || got[0] != "ä"[0] {
		t.Errorf("the longest: %q %v", got[:8], err)
	}
	_, err := Clean("text", strings.Repeat("ä", 10_000))
	if all := fault.All(err); len(all) != 1 || all[0].Code != "chat.long" {
		t.Errorf("10,000 letters: %v", err)
	}
}

// TestNobodyIsFasterThanThePace: whoever says things as soon as they may says at most Burst in any Within.
func TestNobodyIsFasterThanThePace(t *testing.T) {
	now := time.Date(2026, 10, 14, 10, 0, 0, 0, time.UTC)
	random := rand.New(rand.NewPCG(4, 2))
	var said []time.Time
	for range 500 {
		now = now.Add(time.Duration(random.IntN(1200)) * time.Millisecond)
		wait := Wait(said, now)
		if wait < 0 || wait > Within {
			t.Fatalf("waits %v", wait)
		}
		now = now.Add(wait)
		if Wait(said, now) != 0 {
			t.Fatal("who waited waits again")
		}
		said = append([]time.Time{now}, said...)
		if n := len(said); n > Burst && now.Sub(said[Burst]) < Within {
			t.Fatalf("%d within %v", Burst+1, now.Sub(said[Burst]))
		}
	}
	// The earliest of the last few is what counts, not the latest.
	said = nil
	for i := range Burst {
		said = append(said, now.Add(-time.Duration(1+2*i)*time.Second))
	}
	if got := Wait(said, now); got != Within-9*time.Second {
		t.Errorf("after %d within nine seconds they wait %v", Burst, got)
	}
	if Wait(make([]time.Time, Burst-1), now) != 0 {
		t.Error("the first few wait")
	}
}

// TestWhoReads holds for all readers and lines: who teaches reads all, what is gone or to those who teach reaches no
// other student, and one's own is read until it is gone.
func TestWhoReads(t *testing.T) {
	bits := func(n, bit int) bool { return n>>bit&1 == 1 }
	for n := range 1 << 7 {
		r := Reader{bits(n, 0), bits(n, 1), bits(n, 2)}
		l := Line{bits(n, 3), bits(n, 4), bits(n, 5), bits(n, 6)}
		got := Reads(r, l)
		var want bool
		switch {
		case r.Teaches:
			want = true
		case l.Gone:
			want = false
		default:
			want = r.Wrote || l.Later && l.Shown || !l.Later && r.Of && !l.ToTeachers
		}
		if got != want {
			t.Errorf("%+v reads %+v: %v", r, l, got)
		}
	}
}

func TestUntilWhenItGoes(t *testing.T) {
	at := func(min int) time.Time { return time.Date(2026, 10, 14, 10, min, 0, 0, time.UTC) }
	h := Hours{Opens: at(5), Ends: at(60)}
	for min, want := range map[int]bool{4: false, 5: true, 60: true, 89: true, 90: false} {
		if h.Goes(at(min)) != want {
			t.Errorf("minute %d: %v", min, !want)
		}
	}
	h.Running = true
	if !h.Goes(at(0)) || !h.Goes(at(300)) {
		t.Error("while it is captured it stands still")
	}
}

func TestStatesAndWays(t *testing.T) {
	for s, waits := range map[State]bool{None: false, Open: true, Taken: true, PutOff: true, Answered: false} {
		if !s.Valid() || s.Waits() != waits {
			t.Errorf("%q: %v %v", s, s.Valid(), s.Waits())
		}
	}
	if State("done").Valid() || Way("some").Valid() || !All.Valid() {
		t.Error("what is a state or a way is not told from what is none")
	}
}
