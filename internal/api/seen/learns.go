package seen

import (
	"context"
	"slices"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// learns reports whether p learns that a lecture is there. Every answer that could tell asks here, or known.
func (s *Seen) learns(ctx context.Context, p roster.Person, lecture uuid.UUID) (bool, error) {
	if of, guest := edge.GuestOf(ctx); guest {
		return of.Lecture == lecture, nil
	}
	rows, err := s.Schedule.Lecture(ctx, lecture)
	if err != nil {
		return false, err
	}
	list, err := s.Known(ctx, p, rows)
	return len(list) > 0, err
}

// Known are those of the lectures of which p learns that they are there.
func (s *Seen) Known(ctx context.Context, p roster.Person, lectures []schedule.Lecture) ([]schedule.Lecture, error) {
	if p.Coordinator {
		return lectures, nil
	}
	roles, err := s.Roster.Memberships(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	viewers := map[uuid.UUID]viewing.Viewer{}
	for _, m := range roles {
		viewers[m.CourseID] = viewing.Viewer{Role: m.Role, Group: m.Group}
	}
	var private []uuid.UUID
	for _, l := range lectures {
		if l.Private && l.RecordingID != nil {
			private = append(private, *l.RecordingID)
		}
	}
	var accesses map[uuid.UUID]audience.Access
	if len(private) > 0 {
		if accesses, err = s.Audience.DecideAll(ctx, p.ID, private); err != nil {
			return nil, err
		}
	}
	return slices.DeleteFunc(slices.Clone(lectures), func(l schedule.Lecture) bool {
		open := l.RecordingID != nil && accesses[*l.RecordingID].Watch()
		return !viewing.Learns(viewers[l.CourseID], l.Private, open)
	}), nil
}

// Comes refuses who has nothing to do with a lecture: neither a role in its course nor a link. To a student of the
// course one of which they do not learn is not there.
func (s *Seen) Comes(ctx context.Context, p roster.Person, lecture uuid.UUID) error {
	if of, guest := edge.GuestOf(ctx); guest && of.Lecture == lecture {
		return nil
	}
	course, err := edge.OfLecture{Lecture: lecture}.Belongs(ctx, s.Edge)
	if err != nil {
		return err
	}
	v, err := s.Roster.Viewer(ctx, p.ID, course)
	if err != nil {
		return err
	}
	if !v.Coordinator && v.Role == "" {
		return edge.ErrNotYours
	}
	return s.Hidden(ctx, p, lecture)
}

// Hidden is errNowhere for a lecture of which p, who has a role in its course, does not learn.
func (s *Seen) Hidden(ctx context.Context, p roster.Person, lecture uuid.UUID) error {
	ok, err := s.learns(ctx, p, lecture)
	if err == nil && !ok {
		err = edge.ErrNowhere
	}
	return err
}
