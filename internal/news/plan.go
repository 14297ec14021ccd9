package news

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/platform/postgres"
)

// Plan has the students of courses told of recordings, each as it is called, as soon as any of them can watch it, as a
// part of a step. All are of the same length.
func (s *Service) Plan(ctx context.Context, tx pgx.Tx, step, by uuid.UUID, courses, recordings []uuid.UUID,
	titles []string) error {
	const keep = `insert into news_plan (step_id, course_id, recording_id, title, position, made_by, made_at, look_at)
		select $1, x.course, x.recording, x.title, x.n, $5, $6, $6
		from unnest($2::uuid[], $3::uuid[], $4::text[]) with ordinality as x(course, recording, title, n)`
	if _, err := tx.Exec(ctx, keep, step, courses, recordings, titles, by, s.Clock.Now()); err != nil {
		return fmt.Errorf("keep what is to be told: %w", err)
	}
	return notify(ctx, tx, courses)
}

// notify notes for those who look at it that what is told by courses is another now.
func notify(ctx context.Context, q execer, courses []uuid.UUID) error {
	said := map[uuid.UUID]bool{}
	for _, c := range courses {
		if said[c] {
			continue
		}
		said[c] = true
		if err := postgres.Notify(ctx, q, postgres.Event{About: event.News, Course: c}); err != nil {
			return err
		}
	}
	return nil
}

// Unplan takes back what a step was to tell, and what was told by it, but for those to whom mail has gone.
func (s *Service) Unplan(ctx context.Context, tx pgx.Tx, step uuid.UUID) error {
	const end = `with gone as (delete from news_plan where step_id = $1 returning course_id, news_id)
		select distinct course_id, news_id from gone order by course_id, news_id`
	gone, err := postgres.All[struct {
		CourseID uuid.UUID
		NewsID   *uuid.UUID
	}](ctx, tx, end, step)
	if err != nil {
		return fmt.Errorf("take back what is to be told: %w", err)
	}
	for _, x := range gone {
		if x.NewsID != nil {
			_, err = s.takeBackIn(ctx, tx, x.CourseID, *x.NewsID)
		} else {
			err = notify(ctx, tx, []uuid.UUID{x.CourseID})
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// Planned is a recording of which the students of a course are told as soon as they can watch it.
type Planned struct {
	RecordingID uuid.UUID
	Title       string
}

// Planned lists them, in the order in which it was asked for; five hundred at most.
func (s *Service) Planned(ctx context.Context, course uuid.UUID) ([]Planned, error) {
	const query = `select p.recording_id, min(p.title) as title from news_plan p
		join recording r on r.id = p.recording_id and r.deleted_at is null
		where p.course_id = $1 and p.news_id is null
		group by p.recording_id order by min(p.made_at), min(p.position) limit 500`
	out, err := postgres.All[Planned](ctx, s.DB, query, course)
	if err != nil {
		return nil, fmt.Errorf("list what is to be told: %w", err)
	}
	return out, nil
}

// Forget has the students of a course not be told of a recording after all. Its error is ErrUnknown.
func (s *Service) Forget(ctx context.Context, course, recording uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, `delete from news_plan where course_id = $1 and recording_id = $2 and news_id is null`,
			course, recording)
		if err != nil {
			return fmt.Errorf("forget what is to be told: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return ErrUnknown
		}
		return notify(ctx, tx, []uuid.UUID{course})
	})
}

// The times after which it is looked again whether any can watch what is planned: soon while its edition may just be
// made, then less often, since the rule begins later or nobody is enrolled; and for how long at all.
const (
	soon     = 10 * time.Minute
	lessSoon = 5 * time.Minute
	gaveUp   = 200 * 24 * time.Hour
)

// TellPlanned tells what is planned of what can be watched by now.
func (s *Service) TellPlanned(ctx context.Context) error {
	const query = `select distinct step_id, course_id from news_plan
		where news_id is null and look_at <= $1 and made_at > $2 order by step_id, course_id limit 200`
	now := s.Clock.Now()
	due, err := postgres.All[struct{ StepID, CourseID uuid.UUID }](ctx, s.DB, query, now, now.Add(-gaveUp))
	if err != nil {
		return fmt.Errorf("list what is to be told: %w", err)
	}
	for _, x := range due { // what goes wrong with one keeps no other from being told
		err = errors.Join(err, postgres.InTx(ctx, s.DB,
			func(tx pgx.Tx) error { return s.tellPlanned(ctx, tx, x.StepID, x.CourseID) }))
	}
	return err
}

// tellPlanned tells the students of a course what of a step they can watch by now. What another process is telling is
// left to it.
func (s *Service) tellPlanned(ctx context.Context, tx pgx.Tx, step, course uuid.UUID) error {
	const hold = `select recording_id, title, made_by, made_at from news_plan
		where step_id = $1 and course_id = $2 and news_id is null order by position for update skip locked`
	rows, err := postgres.All[struct {
		RecordingID uuid.UUID
		Title       string
		MadeBy      *uuid.UUID
		MadeAt      time.Time
	}](ctx, tx, hold, step, course)
	if err != nil || len(rows) == 0 {
		return err
	}
	ids := make([]uuid.UUID, len(rows))
	for i, x := range rows {
		ids[i] = x.RecordingID
	}
	readers, err := s.readers(ctx, tx, course, ids)
	if err != nil {
		return err
	}
	open := map[uuid.UUID]bool{}
	for _, id := range toldIn(readers) {
		open[id] = true
	}
	m := Message{Course: course}
	var told []uuid.UUID
	for _, x := range rows {
		if open[x.RecordingID] {
			m.Recordings, told = append(m.Recordings, Named{x.RecordingID, x.Title}), append(told, x.RecordingID)
		}
	}
	now := s.Clock.Now()
	next := now
	if now.Sub(rows[0].MadeAt) > soon {
		next = now.Add(lessSoon)
	}
	const again = `update news_plan set look_at = $3 where step_id = $1 and course_id = $2 and news_id is null`
	if _, err := tx.Exec(ctx, again, step, course, next); err != nil {
		return fmt.Errorf("keep when it is looked again: %w", err)
	}
	if len(told) == 0 {
		return nil
	}
	id := uuid.Must(uuid.NewV7())
	if err := s.TellIn(ctx, tx, id, postgres.OrZero(rows[0].MadeBy), m); errors.Is(err, ErrNobody) {
		return nil // others told them meanwhile
	} else if err != nil {
		return err
	}
	const done = `update news_plan set news_id = $3 where step_id = $1 and course_id = $2 and recording_id = any($4)`
	if _, err := tx.Exec(ctx, done, step, course, id, told); err != nil {
		return fmt.Errorf("keep what was told: %w", err)
	}
	return nil
}
