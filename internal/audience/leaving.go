package audience

import (
	"context"
	"fmt"
	"slices"

	"github.com/google/uuid"

	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// PreviewShut says which recordings a student can watch now, and no more once they are shut out of a scope. Its error
// is ErrUnknown for nobody of the course, or a recording that it does not have.
func (s *Service) PreviewShut(ctx context.Context, of Scope, person uuid.UUID) ([]uuid.UUID, error) {
	if err := shutsWhom(ctx, s.DB, of, person, ""); err != nil {
		return nil, err
	}
	return s.fewer(ctx, of, person, func(w *viewing.Way, by uuid.UUID, own bool) {
		if own || by == of.Course {
			w.ShutUntil = viewing.ForGood
		}
	})
}

// PreviewOff says which recordings someone of a course can watch now, and no more once they are taken off it.
func (s *Service) PreviewOff(ctx context.Context, course, person uuid.UUID) ([]uuid.UUID, error) {
	return s.fewer(ctx, Scope{Course: course}, person, func(w *viewing.Way, by uuid.UUID, _ bool) {
		if by == course && w.Opening == nil {
			w.Viewer.Role, w.Viewer.Group = "", ""
		}
	})
}

// fewer says which recordings of a scope someone can watch, and not when each of their ways was changed: the one by a
// course, to a recording that is the scope's own or not.
func (s *Service) fewer(ctx context.Context, of Scope, person uuid.UUID,
	change func(w *viewing.Way, by uuid.UUID, own bool)) ([]uuid.UUID, error) {
	const has = `select e.recording_id from release e join recording r on r.id = e.recording_id
		where e.course_id = $1 and ($2::uuid is null or e.recording_id = $2) and r.deleted_at is null`
	recordings, err := postgres.Values[uuid.UUID](ctx, s.DB, has, of.Course, postgres.OrNil(of.Recording))
	if err != nil {
		return nil, fmt.Errorf("list what someone could no longer watch: %w", err)
	}
	ways, rows, err := s.ways(ctx, person, recordings)
	if err != nil {
		return nil, err
	}
	now, out := s.Clock.Now(), []uuid.UUID{}
	for _, id := range recordings {
		before, _ := viewing.Decide(ways[id], now)
		own := slices.ContainsFunc(rows[id], func(x releaseRow) bool { return x.Own && x.CourseID == of.Course })
		changed := slices.Clone(ways[id])
		for i, x := range rows[id] {
			change(&changed[i], x.CourseID, own)
		}
		if after, _ := viewing.Decide(changed, now); before.Watch() && !after.Watch() {
			out = append(out, id)
		}
	}
	return out, nil
}

// Watchable are the recordings that students with these addresses can watch, by any of their courses, as the roster is
// for q; those of who coordinates are not among them.
func (s *Service) Watchable(ctx context.Context, q postgres.Querier, emails []string) (map[string][]uuid.UUID, error) {
	const theirs = `select distinct m.course_id from membership m join person p on p.id = m.person_id
		where p.email = any($1)`
	courses, err := postgres.Values[uuid.UUID](ctx, q, theirs, emails)
	if err != nil {
		return nil, fmt.Errorf("list the courses of students: %w", err)
	}
	const query = `select distinct p.email, d.recording_id from (` + decisionsSQL + `) d
		join person p on p.id = d.person_id where p.email = any($4) and not p.coordinator and d.reason = 'rule'`
	rows, err := postgres.All[struct {
		Email       string
		RecordingID uuid.UUID
	}](ctx, q, query, courses, nil, s.Clock.Now(), emails)
	if err != nil {
		return nil, fmt.Errorf("decide what students can watch: %w", err)
	}
	out := map[string][]uuid.UUID{}
	for _, x := range rows {
		out[x.Email] = append(out[x.Email], x.RecordingID)
	}
	return out, nil
}
