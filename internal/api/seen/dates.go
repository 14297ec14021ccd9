package seen

import (
	"context"
	"slices"

	"github.com/google/uuid"

	"latelantern/internal/api/page"
	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// DatesOf are lectures as one person sees them, each with the recording that they can open.
func (s *Seen) DatesOf(ctx context.Context, p roster.Person, term schedule.Term,
	lectures []schedule.Lecture) ([]page.LectureDate, error) {
	var recordings []uuid.UUID
	for _, l := range lectures {
		if l.RecordingID != nil {
			recordings = append(recordings, *l.RecordingID)
		}
	}
	doors, err := s.Audience.Doors(ctx, p.ID, recordings)
	if err != nil {
		return nil, err
	}
	reaches, err := s.reachesOfStaff(ctx, lectures, doors)
	if err != nil {
		return nil, err
	}
	now := s.Clock.Now()
	out := []page.LectureDate{}
	for _, l := range lectures {
		d := page.DateOf(term, l, now)
		if l.RecordingID != nil && doors[*l.RecordingID].Watch && (l.Running || l.Ready) {
			d.RecordingID = l.RecordingID
			if teaches(doors[*l.RecordingID], l) {
				d.Light = string(page.ReachOf(reaches, l).Count(l.Viewing(), now).Light())
			}
		}
		out = append(out, d)
	}
	return out, nil
}

// teaches reports whether a door is open since the person teaches the course of the lecture.
func teaches(door audience.Door, l schedule.Lecture) bool {
	return door.Reason == viewing.AsStaff && door.Course == l.CourseID
}

// reachesOfStaff is whom the rules reach in the courses that a person teaches, by the doors that are open to them.
func (s *Seen) reachesOfStaff(ctx context.Context, lectures []schedule.Lecture,
	doors map[uuid.UUID]audience.Door) (audience.Reaches, error) {
	var courses []uuid.UUID
	for _, l := range lectures {
		if l.RecordingID != nil && teaches(doors[*l.RecordingID], l) && !slices.Contains(courses, l.CourseID) {
			courses = append(courses, l.CourseID)
		}
	}
	if len(courses) == 0 {
		return nil, nil
	}
	return s.Audience.Reaches(ctx, courses)
}
