package toall

import (
	"context"
	"errors"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/core/toall"
	"latelantern/internal/platform/postgres"
)

// MostPrepared is how many questions a course can keep.
const MostPrepared = 500

// Prepared is a question that a course keeps to put to all.
type Prepared struct {
	ID       uuid.UUID
	Question toall.Question
}

// Prepared are the questions of a course, in the order in which they were made.
func (s *Service) Prepared(ctx context.Context, course uuid.UUID) ([]Prepared, error) {
	type row struct {
		kept
		ID uuid.UUID
	}
	rows, err := postgres.All[row](ctx, s.DB, `select id, kind, text, choices, right_choices from prepared_question
		where course_id = $1 and dropped_at is null order by position`, course)
	if err != nil {
		return nil, fmt.Errorf("list the questions of a course: %w", err)
	}
	out := make([]Prepared, len(rows))
	for i, r := range rows {
		out[i] = Prepared{r.ID, r.question()}
	}
	return out, nil
}

// Prepare keeps a question with a course, in place of the one that had its id. Its error is of type fault.Faults,
// ErrMany, or ErrTaken for the id of a question of another course.
func (s *Service) Prepare(ctx context.Context, course, by uuid.UUID, p Prepared) error {
	return s.bring(ctx, course, by, []Prepared{p})
}

// Bring keeps several questions with a course, all of them or none. Its error is as that of Prepare.
func (s *Service) Bring(ctx context.Context, course, by uuid.UUID, all []toall.Question) error {
	list := make([]Prepared, len(all))
	for i, q := range all {
		list[i] = Prepared{uuid.Must(uuid.NewV7()), q}
	}
	return s.bring(ctx, course, by, list)
}

func (s *Service) bring(ctx context.Context, course, by uuid.UUID, all []Prepared) error {
	return s.prepares(ctx, course, func(tx pgx.Tx) error {
		const keep = `insert into prepared_question as p (id, course_id, kind, text, choices, right_choices, made_by,
				made_at) values ($1, $2, $3, $4, $5, $6, $7, $8)
			on conflict (id) do update set kind = $3, text = $4, choices = $5, right_choices = $6, dropped_at = null
			where p.course_id = $2`
		for _, x := range all {
			q, err := toall.Clean(x.Question)
			if err != nil {
				return err
			}
			kind, text, choices, right := columns(q)
			tag, err := tx.Exec(ctx, keep, x.ID, course, kind, text, choices, right, by, s.Clock.Now())
			if err != nil {
				return fmt.Errorf("keep a question of a course: %w", err)
			}
			if tag.RowsAffected() == 0 {
				return ErrTaken
			}
		}
		n, err := postgres.Value[int](ctx, tx,
			`select count(*) from prepared_question where course_id = $1 and dropped_at is null`, course)
		if err != nil {
			return fmt.Errorf("count the questions of a course: %w", err)
		}
		if n > MostPrepared {
			return ErrMany
		}
		return nil
	})
}

// Drop takes a question from a course, or with back puts it back where it was. Its error is ErrUnknown or ErrMany.
func (s *Service) Drop(ctx context.Context, course, question uuid.UUID, back bool) error {
	return s.prepares(ctx, course, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, `update prepared_question set dropped_at = case when $3 then null
			else coalesce(dropped_at, $4::timestamptz) end where id = $2 and course_id = $1`,
			course, question, back, s.Clock.Now())
		if err == nil && tag.RowsAffected() == 0 {
			return ErrUnknown
		}
		if err != nil {
			return fmt.Errorf("drop a question of a course: %w", err)
		}
		return nil
	})
}

// prepares changes what a course keeps, one after the other, and tells those who teach it.
func (s *Service) prepares(ctx context.Context, course uuid.UUID, do func(pgx.Tx) error) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		_, err := postgres.Value[int](ctx, tx, `select 1 from course where id = $1 for no key update`, course)
		if errors.Is(err, pgx.ErrNoRows) {
			return ErrUnknown
		}
		if err != nil {
			return fmt.Errorf("wait for another question: %w", err)
		}
		if err := do(tx); err != nil {
			return err
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Prepared, Course: course})
	})
}
