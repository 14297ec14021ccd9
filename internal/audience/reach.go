package audience

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// Reach is whom a viewing rule lets watch, and when. That of a course is the same for all its recordings that have no
// rule of their own, so a term is read without deciding for each recording in turn.
type Reach struct {
	Of      int        // enrolled students
	Covered int        // of them, those the rule speaks of
	Ruled   bool       // there is a rule
	Opens   *time.Time // nil: with the end of each lecture
	Closes  *time.Time // nil: never
}

// Count is how many students can watch a recording now.
func (r Reach) Count(x viewing.Release, now time.Time) viewing.Count {
	opens := x.LectureEnd
	if r.Opens != nil {
		opens = *r.Opens
	}
	open := r.Ruled && !now.Before(opens) && (r.Closes == nil || now.Before(*r.Closes))
	if !open || !x.Lit || !x.Watchable {
		return viewing.Count{Of: r.Of}
	}
	return viewing.Count{Can: r.Covered, Of: r.Of}
}

// Reaches are the reaches of courses, and of the recordings in them that have a rule of their own.
type Reaches map[Scope]Reach

// Of is the reach that holds for a recording as a course has it; uuid.Nil is for one that is not there yet.
func (r Reaches) Of(course, recording uuid.UUID) Reach {
	if own, ok := r[Scope{course, recording}]; ok {
		return own
	}
	return r[Scope{Course: course}]
}

// Reaches is whom the rules of the courses reach. Of a course only the groups of its students
// differ, so they are counted by group.
func (s *Service) Reaches(ctx context.Context, courses []uuid.UUID) (Reaches, error) {
	const query = rulesSQL + `, grouped as (
		select course_id, group_name, count(*) as n from membership where role = 'student'
			and course_id = any($1) group by 1, 2
	), scope as (
		select c.id as course_id, null::uuid as recording_id from course c where c.id = any($1)
		union all
		select v.course_id, v.recording_id from rule v where v.recording_id is not null
	)
	select c.course_id, c.recording_id, coalesce(sum(m.n), 0)::int as of, coalesce(sum(m.n) filter (where ` + covers +
		`), 0)::int as covered,
		bool_or(v.course_id is not null) as ruled, max(v.opens) as opens, max(v.closes) as closes
	from scope c
	left join rule v on v.course_id = c.course_id and v.recording_id is not distinct from c.recording_id
	left join grouped m on m.course_id = c.course_id
	group by 1, 2`
	rows, err := postgres.All[struct {
		CourseID    uuid.UUID
		RecordingID *uuid.UUID
		Reach
	}](ctx, s.DB, query, courses, nil, nil)
	if err != nil {
		return nil, fmt.Errorf("read whom the rules reach: %w", err)
	}
	out := make(Reaches, len(rows))
	for _, r := range rows {
		of := Scope{Course: r.CourseID}
		if r.RecordingID != nil {
			of.Recording = *r.RecordingID
		}
		out[of] = r.Reach
	}
	return out, nil
}

// Counts says for each recording of a course how many of the enrolled can watch it now.
func (s *Service) Counts(ctx context.Context, course uuid.UUID) (map[uuid.UUID]viewing.Count, error) {
	reaches, err := s.Reaches(ctx, []uuid.UUID{course})
	if err != nil {
		return nil, err
	}
	type row struct {
		RecordingID uuid.UUID
		CourseID    uuid.UUID
		Lit         bool // and watchable
		LectureEnd  time.Time
	}
	rows, err := postgres.All[row](ctx, s.DB, shownSQL, []uuid.UUID{course})
	if err != nil {
		return nil, fmt.Errorf("count who can watch: %w", err)
	}
	now, out := s.Clock.Now(), map[uuid.UUID]viewing.Count{}
	for _, r := range rows {
		out[r.RecordingID] = reaches.Of(course, r.RecordingID).Count(viewing.Release{Lit: r.Lit, Watchable: r.Lit,
			LectureEnd: r.LectureEnd}, now)
	}
	return out, nil
}
