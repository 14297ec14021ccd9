package schedule_test

import (
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/capture"
	"latelantern/internal/core/timetable"
	"latelantern/internal/schedule"
	"latelantern/internal/testhouse"
)

// TestTheStandingRoomIsNoLectureOfAnyDay: it is never the one that is meant today, and stands
// nowhere until someone captures there.
func TestTheStandingRoomIsNoLectureOfAnyDay(t *testing.T) {
	s := testhouse.New(t, true)
	room, err := s.Schedule.Room(t.Context(), s.Course, "Questions")
	s.Must(err)
	again, err := s.Schedule.Room(t.Context(), s.Course, "An hour of questions")
	s.Must(err)
	if again != room {
		t.Error("a room that nobody used is not used again")
	}
	term, err := s.Schedule.CurrentTerm(t.Context())
	s.Must(err)
	nearest := func() []schedule.Lecture {
		t.Helper()
		all, err := s.Schedule.Lectures(t.Context(), []uuid.UUID{s.Course})
		s.Must(err)
		if l := schedule.Nearest(all, testhouse.Now, term.Zone); l == nil || l.ID != s.Lecture {
			t.Errorf("the lecture that is meant is %+v", l)
		}
		return all
	}
	if all := nearest(); len(all) != 2 {
		t.Errorf("before a capture there are %d lectures", len(all))
	}
	_, events, err := s.Schedule.Calendar(t.Context(), schedule.OfCourse, s.Course, "")
	s.Must(err)
	if len(events) != 2 {
		t.Errorf("a calendar has %d", len(events))
	}
	_, err = s.Capture.Begin(t.Context(), capture.Start{Lecture: room, By: s.Lecturer, Source: capture.Desk})
	s.Must(err)
	if all := nearest(); len(all) != 3 {
		t.Errorf("while it is captured there are %d", len(all))
	}
	if next, err := s.Schedule.Room(t.Context(), s.Course, ""); err != nil || next == room {
		t.Errorf("the next use is the same lecture (%v)", err)
	}
	if _, err := s.Schedule.Room(t.Context(), s.Course, string(make([]byte, 201))); fieldOf(t, err) != "topic" {
		t.Errorf("a long topic: %v", err)
	}
}

// TestALessonRecordedAhead lies over its week, in no calendar and on no run sheet; it is shown
// from that week on, whenever it was recorded.
func TestALessonRecordedAhead(t *testing.T) {
	s := testhouse.New(t, true)
	day := func(text string) timetable.Day {
		d, err := time.Parse(time.DateOnly, text)
		s.Must(err)
		return d
	}
	lesson, err := s.Schedule.Lesson(t.Context(), s.Course, day("2026-10-22"), " Read  ahead ")
	s.Must(err)
	again, err := s.Schedule.Lesson(t.Context(), s.Course, day("2026-10-28"), "Neap tides")
	s.Must(err)
	if again != lesson {
		t.Error("a lesson that was never captured is not used again")
	}
	room, err := s.Schedule.Room(t.Context(), s.Course, "")
	s.Must(err)
	if room == lesson {
		t.Error("the standing room takes a lesson")
	}
	_, err = s.Capture.Begin(t.Context(),
		capture.Start{Lecture: lesson, By: s.Lecturer, Source: capture.Desk, Alone: true})
	s.Must(err)
	rows, err := s.Schedule.Lecture(t.Context(), lesson)
	s.Must(err)
	term, err := s.Schedule.CurrentTerm(t.Context())
	s.Must(err)
	l := rows[0]
	if !l.Ahead || !l.Running || !l.Alone || l.Topic != "Neap tides" || term.Week(l.StartsAt).Number != 6 ||
		l.EndsAt.Sub(l.StartsAt).Round(time.Hour).Hours() < 167 {
		t.Errorf("%+v", l)
	}
	if title := l.SuggestedTitle(term); title != "COU 1, week 6 · Neap tides" {
		t.Errorf("it is called %q", title)
	}
	s.Do(`update capture set stopped_at = $1`, testhouse.Now)
	rows, err = s.Schedule.Lecture(t.Context(), lesson)
	s.Must(err)
	if opens := rows[0].Viewing().LectureEnd; !opens.Equal(l.StartsAt) {
		t.Errorf("it is shown from %v, and its week begins on %v", opens, l.StartsAt)
	}
	_, events, err := s.Schedule.Calendar(t.Context(), schedule.OfCourse, s.Course, "")
	s.Must(err)
	on, err := s.Schedule.Between(t.Context(), l.StartsAt, l.EndsAt, nil)
	s.Must(err)
	if len(events) != 2 || len(on) != 0 {
		t.Errorf("%d in the calendar, %d on run sheets", len(events), len(on))
	}
	// It can be put into another week, though it is captured.
	next := day("2026-11-02")
	_, err = s.Schedule.Edit(t.Context(), lesson, s.Lecturer, schedule.Edit{Day: &next})
	s.Must(err)
	if rows, err = s.Schedule.Lecture(t.Context(), lesson); err != nil || term.Week(rows[0].StartsAt).Number != 7 ||
		term.Week(rows[0].EndsAt.Add(-time.Second)).Number != 7 {
		t.Errorf("%+v %v", rows[0].Dated, err)
	}
	for _, wrong := range []timetable.Day{{}, day("2031-01-01")} {
		if _, err := s.Schedule.Lesson(t.Context(), s.Course, wrong, ""); fieldOf(t, err) != "week" {
			t.Errorf("the week of %v: %v", wrong, err)
		}
	}
}
