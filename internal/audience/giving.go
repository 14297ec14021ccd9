package audience

import (
	"bytes"
	"context"
	"fmt"
	"slices"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// HoldCourses keeps others from changing rules of courses, and of recordings in them, meanwhile.
func (s *Service) HoldCourses(ctx context.Context, tx pgx.Tx, courses []uuid.UUID) error {
	courses = slices.Clone(courses)
	slices.SortFunc(courses, func(a, b uuid.UUID) int { return bytes.Compare(a[:], b[:]) })
	const hold = `select 1 from course where id = any($1) order by id for no key update`
	if _, err := tx.Exec(ctx, hold, slices.Compact(courses)); err != nil {
		return fmt.Errorf("hold courses: %w", err)
	}
	return nil
}

// Give makes a rule that of a recording in a course, as a part of a step, or with nil takes its own away; the course is
// held. It says whether that is a change: it is none of what is so already, nor where the course does not have the
// recording. Its error is ErrInvalid for a rule under which nobody of the course could ever watch.
func (s *Service) Give(ctx context.Context, tx pgx.Tx, step, recording, course, by uuid.UUID,
	r *viewing.Rule) (made bool, err error) {
	of := Scope{Course: course, Recording: recording}
	if ok, err := has(ctx, tx, of); err != nil || !ok {
		return false, err
	}
	if r != nil {
		if err := s.possible(ctx, tx, of, *r); err != nil {
			return false, err
		}
	}
	own, err := ownRules(ctx, tx, []uuid.UUID{recording}, []uuid.UUID{course})
	if err != nil {
		return false, err
	}
	was := own[of]
	if sameRule(was.rule, r) {
		return false, nil
	}
	id, err := s.replace(ctx, tx, of, by, r)
	if err != nil {
		return false, err
	}
	const keep = `insert into rule_change_part (change_id, recording_id, course_id, was_id, made_id)
		values ($1, $2, $3, $4, $5)`
	_, err = tx.Exec(ctx, keep, step, recording, course, postgres.OrNil(was.id), postgres.OrNil(id))
	if err != nil {
		return false, fmt.Errorf("keep a part of a step: %w", err)
	}
	return true, nil
}

// Ungive takes back what a step made of rules; what was changed again since stays as it is.
func (s *Service) Ungive(ctx context.Context, tx pgx.Tx, step, by uuid.UUID) error {
	const parts = `select p.recording_id, p.course_id, p.was_id, p.made_id from rule_change_part p
		join recording r on r.id = p.recording_id and r.deleted_at is null
		where p.change_id = $1 order by p.recording_id, p.course_id`
	type part struct {
		RecordingID, CourseID uuid.UUID
		WasID, MadeID         *uuid.UUID
	}
	list, err := postgres.All[part](ctx, tx, parts, step)
	if err != nil {
		return fmt.Errorf("read what a step made of rules: %w", err)
	}
	courses := make([]uuid.UUID, 0, len(list))
	for _, x := range list {
		courses = append(courses, x.CourseID)
	}
	if err := s.HoldCourses(ctx, tx, courses); err != nil {
		return err
	}
	for _, x := range list {
		of := Scope{Course: x.CourseID, Recording: x.RecordingID}
		own, err := ownRules(ctx, tx, []uuid.UUID{x.RecordingID}, []uuid.UUID{x.CourseID})
		if err != nil {
			return err
		}
		if x.MadeID == nil && own[of].id != uuid.Nil || x.MadeID != nil && own[of].id != *x.MadeID {
			continue
		}
		var was *viewing.Rule
		if x.WasID != nil {
			const earlier = `select ` + ruleColumns + ` from viewing_rule where id = $1`
			row, err := postgres.One[ruleRow](ctx, tx, earlier, *x.WasID)
			if err != nil {
				return fmt.Errorf("read an earlier rule: %w", err)
			}
			was = row.rule()
		}
		if _, err := s.replace(ctx, tx, of, by, was); err != nil {
			return err
		}
	}
	return nil
}

// replace makes r the rule of a scope that is held, and gives it; with nil it takes the rule away. By may be uuid.Nil,
// for nobody.
func (s *Service) replace(ctx context.Context, tx pgx.Tx, of Scope, by uuid.UUID,
	r *viewing.Rule) (id uuid.UUID, err error) {
	now := s.Clock.Now()
	const end = `update viewing_rule set ended_at = $3, ended_by = $4 where course_id is not distinct from $1
		and recording_id is not distinct from $2 and ended_at is null`
	if _, err := tx.Exec(ctx, end, postgres.OrNil(of.Course), postgres.OrNil(of.Recording), now,
		postgres.OrNil(by)); err != nil {
		return id, fmt.Errorf("end a viewing rule: %w", err)
	}
	if r != nil {
		if id, err = keepRule(ctx, tx, of, by, now, *r); err != nil {
			return id, err
		}
	}
	return id, postgres.Notify(ctx, tx, postgres.Event{About: event.Rule, Course: of.Course, Recording: of.Recording})
}

// keptRule is a rule as it is kept.
type keptRule struct {
	id   uuid.UUID // uuid.Nil for none
	rule *viewing.Rule
}

// ownRules are the rules that recordings have of their own in courses, pair by pair of the two lists.
func ownRules(ctx context.Context, db postgres.Querier, recordings, courses []uuid.UUID) (map[Scope]keptRule, error) {
	const query = `select v.id, v.recording_id, v.course_id, ` + ruleColumns + ` from viewing_rule v
		join unnest($1::uuid[], $2::uuid[]) as x(recording_id, course_id) using (recording_id, course_id)
		where v.ended_at is null`
	rows, err := postgres.All[struct {
		ID, RecordingID, CourseID uuid.UUID
		ruleRow
	}](ctx, db, query, recordings, courses)
	if err != nil {
		return nil, fmt.Errorf("read the rules of recordings: %w", err)
	}
	out := map[Scope]keptRule{}
	for _, x := range rows {
		out[Scope{Course: x.CourseID, Recording: x.RecordingID}] = keptRule{x.ID, x.rule()}
	}
	return out, nil
}

func sameRule(a, b *viewing.Rule) bool {
	if a == nil || b == nil {
		return a == b
	}
	return a.Same(*b)
}
