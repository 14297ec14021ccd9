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
	Covered int        // of them, those the rule speaks of and who are not shut out
	Ruled   bool       // there is a rule
	Opens   *time.Time // nil: with the end of each lecture, or days after it
	Days    int        // so many
	Closes  *time.Time // nil: never
}

// Count is how many students can watch a recording now.
func (r Reach) Count(x viewing.Release, now time.Time) viewing.Count {
	opens := x.LectureEnd.Add(time.Duration(r.Days) * 24 * time.Hour)
	if r.Opens != nil {
		opens = *r.Opens
	}
	open := r.Ruled && !now.Before(opens) && (r.Closes == nil || now.Before(*r.Closes))
	if !open || !x.Lit || !x.Watchable {
		return viewing.Count{Of: r.Of}
	}
	return viewing.Count{Can: r.Covered, Of: r.Of}
}

// Reaches are the reaches of courses, and of the recordings in them of which something else holds: a
// rule of their own, or that someone is shut out.
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
	), shut as (
		select person_id, course_id, recording_id from shut_out
		where ended_at is null and (until_at is null or $4 < until_at)
	), scope as (
		select c.id as course_id, null::uuid as recording_id, c.id as own_id from course c where c.id = any($1)
		union
		select v.course_id, v.recording_id, l.course_id from rule v
		join recording r on r.id = v.recording_id join lecture l on l.id = r.lecture_id
		union
		select e.course_id, e.recording_id, l.course_id from release e
		join recording r on r.id = e.recording_id join lecture l on l.id = r.lecture_id
		join shut z on z.course_id in (e.course_id, l.course_id) and (z.recording_id = e.recording_id
			or z.recording_id is null and e.course_id <> l.course_id and z.course_id = l.course_id)
		where e.course_id = any($1)
	)
	select s.course_id, s.recording_id, coalesce(sum(m.n), 0)::int as of,
		(coalesce(sum(m.n) filter (where ` + covers + `), 0) - max(x.n))::int as covered,
		bool_or(v.course_id is not null) as ruled, max(v.opens) as opens,
		coalesce(max(v.days_after_lecture), 0) as days, max(v.closes) as closes
	from scope s` + holdsSQL + `
	left join grouped m on m.course_id = s.course_id
	cross join lateral (select count(distinct m.person_id) as n from shut z
		join membership m on m.person_id = z.person_id and m.course_id = s.course_id and m.role = 'student'
		where z.course_id in (s.course_id, s.own_id) and (z.recording_id is null or z.recording_id = s.recording_id)
		and ` + covers + `) x
	group by 1, 2`
	rows, err := postgres.All[struct {
		CourseID    uuid.UUID
		RecordingID *uuid.UUID
		Reach
	}](ctx, s.DB, query, courses, nil, nil, s.Clock.Now())
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
		OwnID       uuid.UUID
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
