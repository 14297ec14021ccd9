package door_test

import (
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/capture"
	"latelantern/internal/core/fault"
	"latelantern/internal/door"
	"latelantern/internal/platform/clock"
	"latelantern/internal/testhouse"
)

func TestWhatTheCollegeSays(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	if text, err := s.Door.Notice(ctx); err != nil || text != "" {
		t.Errorf("at first: %q %v", text, err)
	}
	s.Must(s.Door.SetNotice(ctx, "  You may be\nseen and  heard. "))
	var wrong fault.Faults
	if err := s.Door.SetNotice(ctx, strings.Repeat("é", door.MaxNotice+1)); !errors.As(err, &wrong) || wrong[0].Field != "capture_notice" {
		t.Errorf("too long: %v", err)
	}
	if text, err := s.Door.Notice(ctx); err != nil || text != "You may be seen and heard." {
		t.Errorf("kept: %q %v", text, err)
	}
	for range 2 {
		s.Must(s.Door.See(ctx, s.Student, s.Lecture))
	}
	for who, want := range map[string]bool{"student": true, "lecturer": false} {
		id := s.Student
		if who == "lecturer" {
			id = s.Lecturer
		}
		if seen, err := s.Door.Seen(ctx, id, s.Lecture); err != nil || seen != want {
			t.Errorf("%s has seen it: %v %v", who, seen, err)
		}
	}
}

// TestStays: someone who is heard of again and again was there all the time; after a silence a
// new stay begins.
func TestStays(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	d := *s.Door
	begin := testhouse.Now
	follow(s, s.Student, s.Lecturer)
	for _, at := range []time.Duration{0, 15 * time.Second, 30 * time.Second, 70 * time.Second, 3 * time.Minute, 3*time.Minute + 15*time.Second} {
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
	want := []door.Stay{{FromAt: begin, UntilAt: begin.Add(70 * time.Second)}, {FromAt: begin.Add(3 * time.Minute), UntilAt: begin.Add(195 * time.Second)}}
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
	begun, err := s.Capture.Begin(context.Background(), capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.Desk})
	s.Must(err)
	for _, p := range people {
		s.Must(s.Door.See(context.Background(), p, s.Lecture))
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
		if err := s.Door.Present(ctx, s.Student, lecture, inHall); !errors.Is(err, door.ErrAbsent) {
			t.Errorf("%s: %v", what, err)
		}
	}
	s.Must(s.Door.See(ctx, s.Student, s.Lecture), s.Door.Played(ctx, s.Student, s.Lecture))
	absent("nothing is captured", s.Lecture, true)
	recording := follow(s)
	absent("another lecture", s.Later, true)
	s.Do(`delete from notice_seen`)
	absent("the sign was not seen", s.Lecture, true)
	s.Must(s.Door.See(ctx, s.Student, s.Lecture), s.Door.Present(ctx, s.Student, s.Lecture, false))
	s.Do(`update following set played_at = played_at - interval '46 seconds'`)
	absent("nothing plays any more", s.Lecture, false)
	s.Must(s.Door.Present(ctx, s.Student, s.Lecture, true))
	s.Do(`update lecture set hall_id = null where id = $1`, s.Lecture)
	absent("it is in no hall", s.Lecture, true)
	s.Must(s.Door.Played(ctx, s.Student, s.Lecture), s.Capture.End(ctx, recording))
	absent("the capture has ended", s.Lecture, false)
	s.Do(`update capture set stopped_at = started_at + interval '1 second'`)
	s.Do(`update presence set until_at = from_at + interval '1 hour'`)
	register, err := s.Door.Register(ctx, s.Lecture)
	s.Must(err)
	if len(register) != 1 || register[0].Stays[0].UntilAt.Sub(register[0].Stays[0].FromAt) > 2*time.Second {
		t.Errorf("present after the end: %+v", register)
	}
}
