package schedule

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/timetable"
	"latelantern/internal/platform/postgres"
)

// Matches lists the lectures that a recording may be of, the likeliest first: among those of a
// course, or with uuid.Nil of all courses that a person teaches or coordinates.
func (s *Service) Matches(ctx context.Context, person, course uuid.UUID,
	e timetable.Evidence) ([]timetable.Match, error) {
	zone, err := s.zone(ctx, course)
	if errors.Is(err, ErrUnknown) {
		return nil, nil // there is no term, so there are no lectures
	}
	if err != nil {
		return nil, err
	}
	from, until, any := around(e, zone)
	if !any {
		return nil, nil
	}
	type row struct {
		ID         uuid.UUID
		Code, Hall string
		StartsAt   time.Time
		EndsAt     time.Time
		Captured   bool
	}
	const query = `select l.id, k.code, coalesce(h.name, '') as hall, l.starts_at, l.ends_at,
			exists (select 1 from recording r where r.lecture_id = l.id and r.deleted_at is null) as captured
		from lecture l join course k on k.id = l.course_id left join hall h on h.id = l.hall_id
		where l.starts_at < $2 and l.ends_at > $1 and l.called_off_at is null and not l.unplanned
		and ($4::uuid is null or l.course_id = $4)
		and (exists (select 1 from person p where p.id = $3 and p.coordinator)
		or exists (select 1 from membership m
		where m.course_id = l.course_id and m.person_id = $3 and m.role in ('lecturer', 'assistant')))
		order by l.starts_at, l.id`
	rows, err := postgres.All[row](ctx, s.DB, query, from, until, person, postgres.OrNil(course))
	if err != nil {
		return nil, fmt.Errorf("list the lectures around a recording: %w", err)
	}
	slots := make([]timetable.Slot, len(rows))
	for i, r := range rows {
		slots[i] = timetable.Slot{ID: r.ID.String(), Code: r.Code, Hall: r.Hall, Start: r.StartsAt, End: r.EndsAt,
			Captured: r.Captured}
	}
	return timetable.Matches(e, zone, slots), nil
}

// zone is that of the term of a course, or with uuid.Nil of the term under way.
func (s *Service) zone(ctx context.Context, course uuid.UUID) (*time.Location, error) {
	if course != uuid.Nil {
		t, err := s.TermOf(ctx, course)
		return t.Zone, err
	}
	t, err := s.CurrentTerm(ctx)
	return t.Zone, err
}

// around is a time outside which no lecture can match.
func around(e timetable.Evidence, zone *time.Location) (from, until time.Time, any bool) {
	named, _, dated := timetable.NamedTime(e.Words, zone)
	if !dated {
		named = time.Time{}
	}
	for _, t := range []time.Time{e.Inside, e.Modified, named} {
		if t.IsZero() {
			continue
		}
		if !any || t.Before(from) {
			from = t
		}
		if !any || t.After(until) {
			until = t
		}
		any = true
	}
	return from.Add(-e.Length - 36*time.Hour), until.Add(e.Length + 36*time.Hour), any
}
