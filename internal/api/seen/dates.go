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
	accesses, err := s.Audience.DecideAll(ctx, p.ID, recordings)
	if err != nil {
		return nil, err
	}
	reaches, err := s.reachesOfStaff(ctx, lectures, accesses)
	if err != nil {
		return nil, err
	}
	now := s.Clock.Now()
	out := []page.LectureDate{}
	for _, l := range lectures {
		d := page.DateOf(term, l, now)
		if l.RecordingID != nil && accesses[*l.RecordingID].Watch() && (l.Running || l.Ready) {
			d.RecordingID = l.RecordingID
			if teaches(accesses[*l.RecordingID], l) {
				d.Light = string(page.ReachOf(reaches, l).Count(l.Viewing(), now).Light())
			}
		}
		out = append(out, d)
	}
	return out, nil
}

// teaches reports whether someone may watch since the person teaches the course of the lecture.
func teaches(access audience.Access, l schedule.Lecture) bool {
	return access.Reason == viewing.AsStaff && access.Course == l.CourseID
}

// reachesOfStaff is whom the rules reach in the courses that a person teaches, by the accesses that are open to them.
func (s *Seen) reachesOfStaff(ctx context.Context, lectures []schedule.Lecture,
	accesses map[uuid.UUID]audience.Access) (audience.Reaches, error) {
	var courses []uuid.UUID
	for _, l := range lectures {
		if l.RecordingID != nil && teaches(accesses[*l.RecordingID], l) && !slices.Contains(courses, l.CourseID) {
			courses = append(courses, l.CourseID)
		}
	}
	if len(courses) == 0 {
		return nil, nil
	}
	return s.Audience.Reaches(ctx, courses)
}
