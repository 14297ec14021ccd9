package door

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"latelantern/internal/core/fault"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/postgres"
)

// Grace is for how long the end of a class can be taken back before it comes.
const Grace = 10 * time.Second

// endable is for how long after its planned end a class can be ended, if nothing is captured.
const endable = 12 * time.Hour

// ErrNotOn says that a class is not on, so that there is nothing to end.
var ErrNotOn = fault.Code("class.not_on")

// Ending is the end of a class for everyone.
type Ending struct {
	DueAt time.Time
	By    string // name of who ended it; empty when they are gone
	Over  bool   // it has come
}

// Ending is the end of a class that is due or has come; nil for none, and once something was captured after it.
func (s *Service) Ending(ctx context.Context, lecture uuid.UUID) (*Ending, error) {
	x, err := postgres.One[Ending](ctx, s.DB, `select due_at, by, due_at <= $2 as over from ended_class
		where lecture_id = $1`, lecture, s.Clock.Now())
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("look whether a class has ended: %w", err)
	}
	return &x, nil
}

// End ends a class for everyone in a moment: its doorway closes for whoever is not in, what captures it is told to
// stop, and all are told. An end that is due already stays as it is. Its error is ErrNotOn when the class is not on.
func (s *Service) End(ctx context.Context, lecture, by uuid.UUID) error {
	at, err := s.Stands(ctx, by, lecture)
	if err != nil {
		return err
	}
	now := s.Clock.Now()
	if !at.Running && (now.Before(at.Opens) || now.After(at.Ends.Add(endable))) {
		return ErrNotOn
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const keep = `insert into class_end (lecture_id, made_by, made_at, due_at) values ($1, $2, $3, $4)
			on conflict (lecture_id) do update set made_by = $2, made_at = $3, due_at = $4
			where class_end.due_at <= $3
			and not exists (select 1 from ended_class e where e.lecture_id = class_end.lecture_id)`
		due := now.Add(Grace)
		tag, err := tx.Exec(ctx, keep, lecture, by, now, due)
		if err != nil {
			return fmt.Errorf("end a class: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return nil
		}
		if err := s.Queue.Add(ctx, tx, endClass{Lecture: lecture, By: by, Due: due}); err != nil {
			return err
		}
		return told(ctx, tx, lecture)
	})
}

// TakeBackEnd takes the end of a class back: before it comes as if nobody had ended it, afterwards its doorway is open
// again. What was stopped stays so.
func (s *Service) TakeBackEnd(ctx context.Context, lecture uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, `delete from class_end where lecture_id = $1`, lecture)
		if err != nil {
			return fmt.Errorf("take the end of a class back: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return nil
		}
		return told(ctx, tx, lecture)
	})
}

// endClass does what is to be done when the end of a class has come.
type endClass struct {
	Lecture uuid.UUID `json:"lecture"`
	By      uuid.UUID `json:"by"`
	Due     time.Time `json:"due"` // by the clock of the college
}

// Kind implements river.JobArgs.
func (endClass) Kind() string { return "end_class" }

// InsertOpts implements river.JobArgsWithInsertOpts. The queue goes by the clock of the machine.
func (endClass) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Making, MaxAttempts: 10, ScheduledAt: time.Now().Add(Grace)}
}

// Register adds what it does by itself.
func (s *Service) Register(kinds *river.Workers) {
	soon := func(int) time.Duration { return 2 * time.Second }
	jobs.Register(kinds, jobs.Kind[endClass]{Limit: time.Minute, Do: s.ended, After: soon})
}

// ended tells the recorder of a hall to stop, and everyone that the class is over, if nobody took that back.
func (s *Service) ended(ctx context.Context, job endClass, _ bool) error {
	const query = `select exists (select 1 from ended_class
		where lecture_id = $1 and abs(extract(epoch from due_at - $2)) < 0.001)`
	ends, err := postgres.Value[bool](ctx, s.DB, query, job.Lecture, job.Due)
	if err != nil {
		return fmt.Errorf("look whether a class ends: %w", err)
	}
	if !ends {
		return nil
	}
	if err := s.Halls.StopIn(ctx, job.Lecture, job.By); err != nil {
		return err
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error { return told(ctx, tx, job.Lecture) })
}
