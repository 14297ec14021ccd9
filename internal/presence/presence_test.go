package presence_test

import (
	"context"
	"errors"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/capture"
	"latelantern/internal/platform/clock"
	"latelantern/internal/presence"
	"latelantern/internal/testdb"
	"latelantern/internal/testhouse"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// TestWhoHasSeenTheSign is kept once.
func TestWhoHasSeenTheSign(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	for range 2 {
		s.Must(s.Presence.See(ctx, s.Student, s.Lecture))
	}
	for who, want := range map[string]bool{"student": true, "lecturer": false} {
		id := s.Student
		if who == "lecturer" {
			id = s.Lecturer
		}
		if seen, err := s.Presence.Seen(ctx, id, s.Lecture); err != nil || seen != want {
			t.Errorf("%s has seen it: %v %v", who, seen, err)
		}
	}
}

// TestStays: someone who is heard of again and again was there all the time; after a silence a
// new stay begins.
func TestStays(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	d := *s.Presence
	begin := testhouse.Now
	follow(s, s.Student, s.Lecturer)
	for _, at := range []time.Duration{0, 15 * time.Second, 30 * time.Second, 70 * time.Second, 3 * time.Minute,
		3*time.Minute + 15*time.Second} {
		d.Clock = clock.Standing(begin.Add(at))
		s.Must(d.Played(ctx, s.Student, s.Lecture), d.Present(ctx, s.Student, s.Lecture, false))
	}
	s.Must(d.Present(ctx, s.Lecturer, s.Lecture, true)) // who teaches is in no register
	register, err := d.Register(ctx, s.Lecture)
	s.Must(err)
	if len(register) != 1 || register[0].Name != "student" || register[0].Guest {
		t.Fatalf("%+v", register)
	}
	got := register[0].Stays
	want := []presence.Stay{{FromAt: begin, UntilAt: begin.Add(70 * time.Second)},
		{FromAt: begin.Add(3 * time.Minute), UntilAt: begin.Add(195 * time.Second)}}
	if len(got) != len(want) {
		t.Fatalf("%v", got)
	}
	for i := range want {
		if !got[i].FromAt.Equal(want[i].FromAt) || !got[i].UntilAt.Equal(want[i].UntilAt) {
			t.Errorf("stay %d is %v, want %v", i, got[i], want[i])
		}
	}
	if none, err := d.Register(ctx, s.Later); err != nil || len(none) != 0 {
		t.Errorf("another lecture: %v %v", none, err)
	}
}

// follow has a lecture captured, and people see the sign.
func follow(s *testhouse.Stage, people ...uuid.UUID) (recording uuid.UUID) {
	s.T.Helper()
	begun, err := s.Capture.Begin(context.Background(),
		capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.Desk})
	s.Must(err)
	for _, p := range people {
		s.Must(s.Presence.See(context.Background(), p, s.Lecture))
	}
	return begun.Recording
}

// TestPresenceIsNotClaimed: it counts while something is captured, the sign was seen, and it plays or one is in the
// hall; and it ends with the capture.
func TestPresenceIsNotClaimed(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	absent := func(what string, lecture uuid.UUID, inHall bool) {
		t.Helper()
		if err := s.Presence.Present(ctx, s.Student, lecture, inHall); !errors.Is(err, presence.ErrAbsent) {
			t.Errorf("%s: %v", what, err)
		}
	}
	s.Must(s.Presence.See(ctx, s.Student, s.Lecture), s.Presence.Played(ctx, s.Student, s.Lecture))
	absent("nothing is captured", s.Lecture, true)
	recording := follow(s)
	absent("another lecture", s.Later, true)
	s.Do(`delete from notice_seen`)
	absent("the sign was not seen", s.Lecture, true)
	s.Must(s.Presence.See(ctx, s.Student, s.Lecture), s.Presence.Present(ctx, s.Student, s.Lecture, false))
	s.Do(`update following set played_at = played_at - interval '46 seconds'`)
	absent("nothing plays any more", s.Lecture, false)
	s.Must(s.Presence.Present(ctx, s.Student, s.Lecture, true))
	s.Do(`update lecture set hall_id = null where id = $1`, s.Lecture)
	absent("it is in no hall", s.Lecture, true)
	s.Must(s.Presence.Played(ctx, s.Student, s.Lecture), s.Capture.End(ctx, recording))
	absent("the capture has ended", s.Lecture, false)
	s.Do(`update capture set stopped_at = started_at + interval '1 second'`)
	s.Do(`update presence set until_at = from_at + interval '1 hour'`)
	register, err := s.Presence.Register(ctx, s.Lecture)
	s.Must(err)
	if len(register) != 1 || register[0].Stays[0].UntilAt.Sub(register[0].Stays[0].FromAt) > 2*time.Second {
		t.Errorf("present after the end: %+v", register)
	}
}
