// Package toall keeps questions to all: those that a course has prepared, those that were put to everyone in a lecture,
// and what each answered, then or later in the recording.
package toall

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/toall"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/platform/together"
	"latelantern/internal/recordings"
)

// Service keeps questions to all; New makes it. It may be used by many at once. A call whose context ends gives its
// error and has changed nothing.
type Service struct {
	DB         *pgxpool.Pool
	Clock      clock.Clock
	Recordings *recordings.Reader
	results    *together.Question[uuid.UUID, toall.Result] // of questions that are shown
}

// New keeps questions to all in a database.
func New(db *pgxpool.Pool, c clock.Clock, r *recordings.Reader) *Service {
	s := &Service{DB: db, Clock: c, Recordings: r}
	s.results = together.New(s.reckon)
	return s
}

var (
	// ErrUnknown says that there is no such question.
	ErrUnknown = fault.Code("toall.unknown")
	// ErrTaken says that another question has this id.
	ErrTaken = fault.Code("toall.taken")
	// ErrClosed says that a question takes no more answers, or, of one that is answered later, that it still does.
	ErrClosed = fault.Code("toall.closed")
	// ErrGiven says that somebody answered it in the lecture, who answers it later.
	ErrGiven = fault.Code("toall.given")
	// ErrTeaches says that those who teach do not answer.
	ErrTeaches = fault.Code("toall.teaches")
	// ErrMany says that a course has as many questions as it can keep.
	ErrMany = fault.Code("toall.many")
)

// kept is a question as a row has it.
type kept struct {
	Kind         toall.Kind
	Text         string
	Choices      []string
	RightChoices []int
}

func (k kept) question() toall.Question {
	q := toall.Question{Kind: k.Kind, Text: k.Text}
	if k.Kind.Choose() {
		q.Choices = k.Choices
	}
	if len(k.RightChoices) > 0 {
		q.Right = k.RightChoices
	}
	return q
}

// columns are what a row has of a question, as arguments: none of its arrays is null.
func columns(q toall.Question) (kind toall.Kind, text string, choices []string, right []int) {
	return q.Kind, q.Text, append([]string{}, q.Choices...), append([]int{}, q.Right...)
}

// tell tells those who are in a lecture that a question was put to all, or changed; of an answer only those who teach.
func tell(ctx context.Context, tx pgx.Tx, lecture uuid.UUID, about event.Kind) error {
	course, err := postgres.Value[uuid.UUID](ctx, tx, `select course_id from lecture where id = $1`, lecture)
	if err != nil {
		return fmt.Errorf("find whom to tell: %w", err)
	}
	return postgres.Notify(ctx, tx, postgres.Event{About: about, Course: course, Lecture: lecture})
}

// Asking is a question that is put to all.
type Asking struct {
	ID       uuid.UUID // which whoever asks makes, so that it is asked once
	Lecture  uuid.UUID
	By       uuid.UUID
	Question toall.Question
	For      time.Duration // for how long it is open; 0 until it is closed
}

// untilClosed is for how long a question that nobody closes is open at least; it ends with the lecture as planned.
const untilClosed = 15 * time.Minute

// Ask puts a question to all. One that is open is closed by it; the same one asked again changes nothing. Its error is
// of type fault.Faults about the question or seconds, or ErrTaken.
func (s *Service) Ask(ctx context.Context, x Asking) error {
	q, err := toall.Clean(x.Question)
	if err != nil {
		return err
	}
	if err := lasts(x.For); x.For != 0 && err != nil {
		return err
	}
	now := s.Clock.Now()
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		capture, at, err := s.Recordings.Running(ctx, tx, x.Lecture, now)
		if err != nil {
			return err
		}
		var moment *int64
		if capture != uuid.Nil {
			ms := max(0, at.Milliseconds())
			moment = &ms
		}
		// One after the other: of two that are asked at once one closes the other.
		closes, err := postgres.Value[time.Time](ctx, tx, `select ends_at from lecture where id = $1 for no key update`,
			x.Lecture)
		if err != nil {
			return fmt.Errorf("wait for another question: %w", err)
		}
		if least := now.Add(untilClosed); closes.Before(least) {
			closes = least
		}
		if x.For > 0 {
			closes = now.Add(x.For)
		}
		kind, text, choices, right := columns(q)
		const keep = `insert into asked_question (id, lecture_id, asked_by, kind, text, choices, right_choices,
			opened_at, closes_at, timed, capture_id, at_ms) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12)
			on conflict (id) do nothing`
		tag, err := tx.Exec(ctx, keep, x.ID, x.Lecture, x.By, kind, text, choices, right, now, closes, x.For > 0,
			postgres.OrNil(capture), moment)
		if err != nil {
			return fmt.Errorf("keep a question to all: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return again(ctx, tx, x, q)
		}
		if _, err := tx.Exec(ctx, `update asked_question set closes_at = $3
			where lecture_id = $1 and id <> $2 and closes_at > $3`, x.Lecture, x.ID, now); err != nil {
			return fmt.Errorf("close the question before: %w", err)
		}
		return tell(ctx, tx, x.Lecture, event.ToAll)
	})
}

// again refuses an id by which something else was asked.
func again(ctx context.Context, tx pgx.Tx, x Asking, q toall.Question) error {
	kind, text, choices, right := columns(q)
	mine, err := postgres.Value[bool](ctx, tx, `select lecture_id = $2 and asked_by is not distinct from $3
		and (kind, text, choices, right_choices) = ($4, $5, $6, $7) from asked_question where id = $1`,
		x.ID, x.Lecture, x.By, kind, text, choices, right)
	if err != nil {
		return fmt.Errorf("look for a question: %w", err)
	}
	if !mine {
		return ErrTaken
	}
	return nil
}

// lasts refuses a time for which no question is open.
func lasts(d time.Duration) error {
	if d < toall.LeastOpen || d > toall.MostOpen {
		return fault.One("seconds", "toall.seconds", "least", int(toall.LeastOpen/time.Second),
			"most", int(toall.MostOpen/time.Minute))
	}
	return nil
}

// Change is what somebody who teaches does with a question that was put to all. Its zero value changes nothing.
type Change struct {
	Close     bool
	More      time.Duration // it is open for so long from now on, whether it was closed or not; 0 for no change
	Shown     *bool         // all see what was answered
	Withdrawn *bool         // it was not asked after all
}

// Change changes a question that was put to all. Of two that are open one goes on: the other is closed. Its error is
// ErrUnknown, or of type fault.Faults about seconds.
func (s *Service) Change(ctx context.Context, lecture, asked uuid.UUID, c Change) error {
	if err := lasts(c.More); c.More != 0 && err != nil {
		return err
	}
	now := s.Clock.Now()
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `select 1 from lecture where id = $1 for no key update`, lecture); err != nil {
			return fmt.Errorf("wait for another question: %w", err)
		}
		const change = `update asked_question set
			closes_at = case when $3 then least(closes_at, $4) when $5::timestamptz is not null then $5
				else closes_at end,
			timed = timed or $5 is not null, shown = coalesce($6::boolean, shown),
			withdrawn_at = case when $7::boolean is null then withdrawn_at when $7
				then coalesce(withdrawn_at, $4::timestamptz) end
			where id = $2 and lecture_id = $1`
		var until *time.Time
		if c.More > 0 {
			at := now.Add(c.More)
			until = &at
		}
		tag, err := tx.Exec(ctx, change, lecture, asked, c.Close || c.Withdrawn != nil && *c.Withdrawn, now, until,
			c.Shown, c.Withdrawn)
		if err != nil {
			return fmt.Errorf("change a question to all: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return ErrUnknown
		}
		if until != nil {
			if _, err := tx.Exec(ctx, `update asked_question set closes_at = $3
				where lecture_id = $1 and id <> $2 and closes_at > $3`, lecture, asked, now); err != nil {
				return fmt.Errorf("close another question: %w", err)
			}
		}
		return tell(ctx, tx, lecture, event.ToAll)
	})
}
