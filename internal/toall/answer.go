package toall

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/core/toall"
	"latelantern/internal/platform/postgres"
)

// Giving is what somebody answers.
type Giving struct {
	Lecture uuid.UUID
	Asked   uuid.UUID
	Person  uuid.UUID
	Answer  toall.Answer
	Ago     time.Duration // how long ago it was written, if it could not be sent at once
	Later   bool          // in the recording of the lecture
}

// Answer keeps what somebody answers, in place of what they answered before. Its error is ErrUnknown, ErrClosed,
// ErrGiven, or of type fault.Faults about the answer.
func (s *Service) Answer(ctx context.Context, x Giving) error {
	now := s.Clock.Now()
	type row struct {
		kept
		EndsAt time.Time
		Shown  bool
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		// Held against whoever closes it: an answer that is acknowledged was given while it was open.
		if _, err := tx.Exec(ctx, `select 1 from asked_question where id = $1 for share`, x.Asked); err != nil {
			return fmt.Errorf("hold a question: %w", err)
		}
		q, err := postgres.One[row](ctx, tx, `select kind, text, choices, right_choices, ends_at, shown
			from open_question where id = $1 and lecture_id = $2 and withdrawn_at is null`, x.Asked, x.Lecture)
		if errors.Is(err, pgx.ErrNoRows) {
			return ErrUnknown
		}
		if err != nil {
			return fmt.Errorf("read a question: %w", err)
		}
		open := toall.Open{Closes: q.EndsAt, Shown: q.Shown}
		written := now.Add(-max(0, x.Ago))
		if x.Later && open.Goes(now) || !x.Later && !open.Takes(written, now) {
			return ErrClosed
		}
		answer, err := q.question().Take(x.Answer)
		if err != nil {
			return err
		}
		return put(ctx, tx, x, answer, now)
	})
}

// put keeps an answer. What was answered in the lecture is not changed later.
func put(ctx context.Context, tx pgx.Tx, x Giving, a toall.Answer, now time.Time) error {
	const keep = `insert into given_answer as g (asked_id, person_id, later, choices, number, words, given_at)
		values ($1, $2, $3, $4, $5, $6, $7)
		on conflict (asked_id, person_id) do update set choices = $4, number = $5, words = $6, given_at = $7,
			hidden = g.hidden and g.words = $6
		where g.later = $3`
	tag, err := tx.Exec(ctx, keep, x.Asked, x.Person, x.Later, append([]int{}, a.Choices...), a.Number, a.Words, now)
	if err != nil {
		return fmt.Errorf("keep an answer: %w", err)
	}
	if tag.RowsAffected() == 0 {
		return ErrGiven
	}
	return tell(ctx, tx, x.Lecture, event.Answers)
}

// Hide takes words that somebody answered out of what all see, or lets them stand again. Its error is ErrUnknown.
func (s *Service) Hide(ctx context.Context, lecture, asked, person uuid.UUID, hidden bool) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, `update given_answer g set hidden = $4 from asked_question q
			where q.id = g.asked_id and q.lecture_id = $1 and q.id = $2 and g.person_id = $3`,
			lecture, asked, person, hidden)
		if err != nil {
			return fmt.Errorf("hide an answer: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return ErrUnknown
		}
		return tell(ctx, tx, lecture, event.ToAll)
	})
}
