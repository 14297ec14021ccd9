package door_test

import (
	"errors"
	"strings"
	"testing"
	"time"

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
	for _, at := range []time.Duration{0, 15 * time.Second, 30 * time.Second, 70 * time.Second, 3 * time.Minute, 3*time.Minute + 15*time.Second} {
		d.Clock = clock.Standing(begin.Add(at))
		s.Must(d.Present(ctx, s.Student, s.Lecture))
	}
	s.Must(d.Present(ctx, s.Lecturer, s.Lecture)) // who teaches is in no register
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
