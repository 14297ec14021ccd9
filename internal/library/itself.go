package library

import (
	"context"
	"errors"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/signal"
	"latelantern/internal/platform/postgres"
)

// TrimsEnds tells whether the recordings of a course have their ends trimmed by themselves.
func (s *Service) TrimsEnds(ctx context.Context, course uuid.UUID) (bool, error) {
	trims, err := postgres.Value[bool](ctx, s.DB, `select trim_ends from course where id = $1`, course)
	if err != nil {
		return false, fmt.Errorf("read whether ends are trimmed: %w", err)
	}
	return trims, nil
}

// SetTrimsEnds changes that for the recordings that come from now on.
func (s *Service) SetTrimsEnds(ctx context.Context, course uuid.UUID, trims bool) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `update course set trim_ends = $2 where id = $1`, course, trims); err != nil {
			return fmt.Errorf("keep whether ends are trimmed: %w", err)
		}
		return postgres.Notify(ctx, tx, postgres.Notice{About: "timetable", Course: course})
	})
}

// trimByItself strikes what comes before and after the lecture, when the course says so and
// nobody has touched the cuts of the recording yet. It is a version like any other, made by no one.
func (s *Service) trimByItself(ctx context.Context, tx pgx.Tx, id uuid.UUID) error {
	const query = `select k.trim_ends and not exists (select 1 from cut_list where recording_id = r.id)
		from recording r join lecture l on l.id = r.lecture_id join course k on k.id = l.course_id where r.id = $1 for update of r`
	wanted, err := postgres.Value[bool](ctx, tx, query, id)
	if err != nil {
		return fmt.Errorf("read whether to trim the ends: %w", err)
	}
	r, err := s.recording(ctx, tx, id)
	if err != nil || !wanted || r.Deleted || r.State != "ready" {
		return err
	}
	strip, err := s.strip(ctx, tx, id, r.Length)
	if errors.Is(err, ErrNotReady) { // another part is still to be measured
		return nil
	}
	if err != nil {
		return err
	}
	list := r.Cuts()
	for _, p := range strip.Proposals {
		if p.Why != signal.Before && p.Why != signal.After {
			continue
		}
		if list, err = list.Strike(round(p.Span)); err != nil && !errors.Is(err, cutlist.ErrNothingLeft) {
			return fmt.Errorf("trim the ends: %w", err)
		}
	}
	if list.Struck().Empty() {
		return nil
	}
	version, err := s.insertVersion(ctx, tx, r, uuid.Nil, edit{list, r.Led})
	if err != nil {
		return err
	}
	if _, err := tx.Exec(ctx, `update recording set cut_list_id = $2 where id = $1`, id, version); err != nil {
		return fmt.Errorf("keep trimmed ends: %w", err)
	}
	return s.Tell(ctx, tx, "cuts", id)
}
