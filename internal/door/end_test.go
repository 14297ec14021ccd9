package door_test

import (
	"errors"
	"testing"
	"time"

	"latelantern/internal/capture"
	"latelantern/internal/core/doorway"
	"latelantern/internal/door"
	"latelantern/internal/platform/clock"
	"latelantern/internal/testhouse"
)

// TestAClassEndsForEveryone: after ten seconds in which that can be taken back nobody new comes in, who followed sees
// what they miss of it, and what is captured afterwards opens the doorway again.
func TestAClassEndsForEveryone(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	d := *s.Door
	begin := s.House.Clock.Now()
	at := func(seconds int) { d.Clock = clock.Standing(begin.Add(time.Duration(seconds) * time.Second)) }
	want := func(after string, who any, enter bool, why doorway.Reason) {
		t.Helper()
		person := s.Student
		if who == "second" {
			person = s.Second
		}
		if x, err := d.Stands(ctx, person, s.Lecture); err != nil || x.Enter != enter || x.Reason != why {
			t.Errorf("%s: %+v %v, want %v %s", after, x.Decision, err, enter, why)
		}
	}
	at(0)
	s.Must(s.Presence.Played(ctx, s.Student, s.Lecture))
	if err := d.End(ctx, s.Later, s.Lecturer); !errors.Is(err, door.ErrNotOn) {
		t.Errorf("a class of next week is ended: %v", err)
	}
	if e, err := d.Ending(ctx, s.Lecture); err != nil || e != nil {
		t.Errorf("before it is ended: %+v %v", e, err)
	}
	s.Must(d.End(ctx, s.Lecture, s.Lecturer))
	e, err := d.Ending(ctx, s.Lecture)
	s.Must(err)
	if e == nil || e.Over || !e.DueAt.Equal(begin.Add(door.Grace).Truncate(time.Microsecond)) || e.By != "lecturer" {
		t.Fatalf("%+v", e)
	}
	at(9)
	want("before it is due", "second", true, doorway.AsEnrolled)
	s.Must(d.End(ctx, s.Lecture, s.Colleague)) // another press changes nothing
	if again, err := d.Ending(ctx, s.Lecture); err != nil || *again != *e {
		t.Errorf("pressed twice: %+v %v", again, err)
	}
	at(11)
	want("when it is due", "second", false, doorway.IsOver)
	want("who followed it", "student", true, doorway.AsEnrolled)
	s.Do(`delete from following`)
	want("who followed and is not heard of", "student", false, doorway.IsOver)
	if x, err := d.Stands(ctx, s.Lecturer, s.Lecture); err != nil || !x.Enter {
		t.Errorf("who teaches it: %+v %v", x, err)
	}
	s.Must(d.TakeBackEnd(ctx, s.Lecture), d.TakeBackEnd(ctx, s.Lecture))
	want("taken back", "second", true, doorway.AsEnrolled)

	// Ended again, and captured again.
	s.Must(d.End(ctx, s.Lecture, s.Lecturer))
	at(30)
	want("ended again", "second", false, doorway.IsOver)
	_, err = s.Capture.Begin(ctx, capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.Desk, Alone: true})
	s.Must(err)
	s.Do(`update capture set started_at = $1`, begin.Add(25*time.Second))
	if e, err := d.Ending(ctx, s.Lecture); err != nil || e == nil || !e.Over {
		t.Errorf("captured alone since: %+v %v", e, err)
	}
	s.Do(`update capture set alone = false`)
	want("captured since", "second", true, doorway.AsEnrolled)
	s.Do(`update capture set stopped_at = now()`)
	want("captured since, and stopped", "second", true, doorway.AsEnrolled)
	if e, err := d.Ending(ctx, s.Lecture); err != nil || e != nil {
		t.Errorf("captured since: %+v %v", e, err)
	}
	s.Must(d.End(ctx, s.Lecture, s.Lecturer))
	at(45)
	want("ended once more", "second", false, doorway.IsOver)
	at(26 * 3600)
	s.Must(d.TakeBackEnd(ctx, s.Lecture))
	if err := d.End(ctx, s.Lecture, s.Lecturer); !errors.Is(err, door.ErrNotOn) {
		t.Errorf("a class of yesterday is ended: %v", err)
	}
}
