package schedule_test

import (
	"errors"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/timetable"
	"latelantern/internal/schedule"
	"latelantern/internal/testhouse"
)

// day reads a date.
func day(text string) timetable.Day {
	d, err := time.Parse(time.DateOnly, text)
	if err != nil {
		panic(err)
	}
	return d
}

// hall adds a hall.
func hall(s *testhouse.Stage, name string) uuid.UUID {
	s.T.Helper()
	id, err := s.Schedule.KeepHall(s.T.Context(), uuid.Nil, name)
	s.Must(err)
	return id
}

// weekly is a plan on one day of the week, from 10:15 for an hour and a half.
func weekly(d time.Weekday, from string, times int, hall *uuid.UUID) schedule.PlanForm {
	return schedule.PlanForm{Choices: schedule.Usual, Hall: hall,
		Plan: timetable.Plan{Weekdays: []time.Weekday{d}, Every: 1, At: 10*time.Hour + 15*time.Minute,
			Lasts: 90 * time.Minute, From: day(from), Times: times}}
}

// planned is the lectures of a course but those that the stage has.
func planned(s *testhouse.Stage, course uuid.UUID) []schedule.Lecture {
	s.T.Helper()
	all, err := s.Schedule.Lectures(s.T.Context(), []uuid.UUID{course})
	s.Must(err)
	var out []schedule.Lecture
	for _, l := range all {
		if l.PlanID != nil {
			out = append(out, l)
		}
	}
	return out
}

// fieldOf is the field at which an error says that something is wrong.
func fieldOf(t *testing.T, err error) string {
	t.Helper()
	var f fault.Faults
	if !errors.As(err, &f) {
		t.Errorf("no fault at a field: %v", err)
		return ""
	}
	return f[0].Field
}

func starts(list []schedule.Lecture) []string {
	var out []string
	for _, l := range list {
		out = append(out, l.StartsAt.UTC().Format("2006-01-02T15:04Z"))
	}
	return out
}
