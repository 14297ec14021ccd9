package doorway

import (
	"testing"
	"time"
)

var start = time.Date(2026, 10, 14, 10, 15, 0, 0, time.UTC)

func TestDecide(t *testing.T) {
	early, open := start.Add(-11*time.Minute), start.Add(-10*time.Minute)
	staff, student, stranger := Visitor{Staff: true}, Visitor{Enrolled: true}, Visitor{}
	listener, speaker := Visitor{Guest: Listener}, Visitor{Guest: Speaker}
	for _, c := range []struct {
		name    string
		way     Way
		off     bool
		who     Visitor
		running bool
		now     time.Time
		enter   bool
		reason  Reason
	}{
		{"staff at any time", Closed, false, staff, false, early, true, AsStaff},
		{"a student before it opens", WalkIn, false, student, false, early, false, NotYet},
		{"a student when it opens", WalkIn, false, student, false, open, true, AsEnrolled},
		{"a student early, while it is captured", WalkIn, false, student, true, early, true, AsEnrolled},
		{"a student must ask", Ask, false, student, false, open, false, MustAsk},
		{"a student who asked", Ask, false, Visitor{Enrolled: true, Asked: true}, false, open, false, Waiting},
		{"a student who was let in", Ask, false, Visitor{Enrolled: true, Asked: true, LetIn: true}, false, open, true,
			WasLetIn},
		{"let in, and then closed", Closed, false, Visitor{Enrolled: true, Asked: true, LetIn: true}, true, open, false,
			IsClosed},
		{"a student at a closed door", Closed, false, student, true, open, false, IsClosed},
		{"a stranger", WalkIn, false, stranger, true, open, false, NotEnrolled},
		{"a listener walks in", WalkIn, false, listener, false, open, true, AsGuest},
		{"a listener asks", Ask, false, listener, false, open, false, MustAsk},
		{"a listener at a closed door", Closed, false, listener, true, open, false, IsClosed},
		{"a speaker at a closed door", Closed, false, speaker, true, open, true, AsGuest},
		{"a speaker need not ask", Ask, false, speaker, false, open, true, AsGuest},
		{"a speaker before it opens", WalkIn, false, speaker, false, early, false, NotYet},
		{"called off", WalkIn, true, student, false, open, false, IsOff},
		{"called off and captured all the same", WalkIn, true, student, true, open, true, AsEnrolled},
	} {
		d := Door{Way: c.way, Opens: 10 * time.Minute, Start: start, CalledOff: c.off}
		got := Decide(d, c.who, c.running, c.now)
		if got != (Decision{c.enter, c.reason}) {
			t.Errorf("%s: %+v, want %v %s", c.name, got, c.enter, c.reason)
		}
	}
	for _, c := range []struct {
		name   string
		way    Way
		who    Visitor
		enter  bool
		reason Reason
	}{
		{"staff", WalkIn, staff, true, AsStaff},
		{"who comes after the end", WalkIn, student, false, IsOver},
		{"who followed until the end", WalkIn, Visitor{Enrolled: true, Followed: true}, true, AsEnrolled},
		{"who waited at the door", Ask, Visitor{Enrolled: true, Asked: true}, false, IsOver},
		{"who was let in and followed", Ask, Visitor{Enrolled: true, Asked: true, LetIn: true, Followed: true}, true,
			WasLetIn},
		{"who followed and was sent out", WalkIn, Visitor{Enrolled: true, SentOut: true, Followed: true}, false,
			WasSentOut},
		{"who was invited to speak", Closed, speaker, false, IsOver},
		{"a stranger", WalkIn, stranger, false, NotEnrolled},
	} {
		for _, running := range []bool{true, false} {
			got := Decide(Door{Way: c.way, Start: start, Ended: true}, c.who, running, open.Add(time.Hour))
			if got != (Decision{c.enter, c.reason}) {
				t.Errorf("ended, %s: %+v, want %v %s", c.name, got, c.enter, c.reason)
			}
		}
	}
	if !Ask.Valid() || Way("open").Valid() {
		t.Error("the ways in are not told from others")
	}
}
