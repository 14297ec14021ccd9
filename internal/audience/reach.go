package audience

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// Reach is whom the viewing rule of a course lets watch its recordings, and when. It is the
// same for all of them, so a term is read without deciding for each recording in turn.
type Reach struct {
	CourseID uuid.UUID
	Of       int        // enrolled students
	Covered  int        // of them, those the rule speaks of
	Ruled    bool       // the course has a rule
	Opens    *time.Time // nil: with the end of each lecture
	Closes   *time.Time // nil: never
}

// Count is how many students can watch a recording now.
func (r Reach) Count(x viewing.Recording, now time.Time) viewing.Count {
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

// Reaches is the reach of each of the courses. Of a course only the groups of its students
// differ, so they are counted by group.
func (s *Service) Reaches(ctx context.Context, courses []uuid.UUID) (map[uuid.UUID]Reach, error) {
	const query = rulesSQL + `, seats as (
		select m.course_id, sum(m.n)::int as of, coalesce(sum(m.n) filter (where ` + covers + `), 0)::int as covered
		from (select course_id, group_name, count(*) as n from membership where part = 'student' and course_id = any($1) group by 1, 2) m
		left join rule v on v.course_id = m.course_id group by 1
	)
	select c.id as course_id, coalesce(n.of, 0) as of, coalesce(n.covered, 0) as covered, v.course_id is not null as ruled, v.opens, v.closes
	from course c left join seats n on n.course_id = c.id left join rule v on v.course_id = c.id where c.id = any($1)`
	rows, err := postgres.All[Reach](ctx, s.DB, query, courses, nil, nil)
	if err != nil {
		return nil, fmt.Errorf("read whom the rules reach: %w", err)
	}
	out := make(map[uuid.UUID]Reach, len(rows))
	for _, r := range rows {
		out[r.CourseID] = r
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
		out[r.RecordingID] = reaches[course].Count(viewing.Recording{Lit: r.Lit, Watchable: r.Lit, LectureEnd: r.LectureEnd}, now)
	}
	return out, nil
}
