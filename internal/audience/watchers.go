package audience

import (
	"context"
	"fmt"

	"github.com/google/uuid"

	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// Watchers decides for students of a course, those of people or with nil all, and each of some recordings that it has:
// by recording, by person.
func (s *Service) Watchers(ctx context.Context, q postgres.Querier, course uuid.UUID,
	recordings, people []uuid.UUID) (map[uuid.UUID]map[uuid.UUID]viewing.Reason, error) {
	const query = `select recording_id, person_id, reason from (` + rulesSQL + `, shown as (` + shownSQL +
		` and r.id = any($4))` + decidedSQL + ` and ($5::uuid[] is null or m.person_id = any($5))) d`
	rows, err := postgres.All[struct {
		RecordingID, PersonID uuid.UUID
		Reason                viewing.Reason
	}](ctx, q, query, []uuid.UUID{course}, nil, s.Clock.Now(), recordings, people)
	if err != nil {
		return nil, fmt.Errorf("list who can watch recordings: %w", err)
	}
	out := map[uuid.UUID]map[uuid.UUID]viewing.Reason{}
	for _, x := range rows {
		if out[x.RecordingID] == nil {
			out[x.RecordingID] = map[uuid.UUID]viewing.Reason{}
		}
		out[x.RecordingID][x.PersonID] = x.Reason
	}
	return out, nil
}

// Reached counts the students of a course, and those of them who can watch any of some recordings that it has.
func (s *Service) Reached(ctx context.Context, course uuid.UUID, recordings []uuid.UUID) (viewing.Count, error) {
	reasons, err := s.Watchers(ctx, s.DB, course, recordings, nil)
	if err != nil {
		return viewing.Count{}, err
	}
	can := map[uuid.UUID]bool{}
	for _, people := range reasons {
		for person, why := range people {
			if why == viewing.ByRule {
				can[person] = true
			}
		}
	}
	const students = `select count(*) from membership where course_id = $1 and role = 'student'`
	of, err := postgres.Value[int](ctx, s.DB, students, course)
	if err != nil {
		return viewing.Count{}, fmt.Errorf("count the students of a course: %w", err)
	}
	return viewing.Count{Can: len(can), Of: of}, nil
}

// CoursesOf are the courses that have a recording, that of its lecture first, the others by their codes.
func (s *Service) CoursesOf(ctx context.Context, recording uuid.UUID) ([]uuid.UUID, error) {
	const query = `select e.course_id from released e join course k on k.id = e.course_id where e.recording_id = $1
		order by e.own desc, k.code`
	out, err := postgres.Values[uuid.UUID](ctx, s.DB, query, recording)
	if err != nil {
		return nil, fmt.Errorf("list the courses that have a recording: %w", err)
	}
	return out, nil
}
