package cuts

import (
	"context"
	"errors"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/event"
	"latelantern/internal/core/signal"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// TrimsEnds tells whether the recordings of a course have their ends trimmed by themselves.
func (s *Service) TrimsEnds(ctx context.Context, course uuid.UUID) (bool, error) {
	trims, err := postgres.Value[bool](ctx, s.DB, `select trim_ends from course_setting where course_id = $1`, course)
	if err != nil {
		return false, fmt.Errorf("read whether ends are trimmed: %w", err)
	}
	return trims, nil
}

// SetTrimsEnds changes that for the recordings that come from now on.
func (s *Service) SetTrimsEnds(ctx context.Context, course uuid.UUID, trims bool) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const keep = `insert into course_cuts (course_id, trim_ends) values ($1, $2) on conflict (course_id)
			do update set trim_ends = excluded.trim_ends`
		if _, err := tx.Exec(ctx, keep, course, trims); err != nil {
			return fmt.Errorf("keep whether ends are trimmed: %w", err)
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Timetable, Course: course})
	})
}

// TrimByItself strikes what comes before and after the lecture, when the course says so and
// nobody has touched the cuts of the recording yet. It is a version like any other, made by no one.
func (s *Service) TrimByItself(ctx context.Context, tx pgx.Tx, id uuid.UUID) error {
	const query = `select k.trim_ends and not exists (select 1 from cut_list where recording_id = r.id)
		from recording r join release e on e.recording_id = r.id and e.own
		join course_setting k on k.course_id = e.course_id where r.id = $1 for no key update of r`
	wanted, err := postgres.Value[bool](ctx, tx, query, id)
	if err != nil {
		return fmt.Errorf("read whether to trim the ends: %w", err)
	}
	r, err := s.Recordings.In(ctx, tx, id)
	if err != nil || !wanted || r.Deleted || r.State != "ready" {
		return err
	}
	strip, err := s.Recordings.StripIn(ctx, tx, id, r.Length)
	if errors.Is(err, recordings.ErrNotReady) { // another part is still to be measured
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
	if err := now(ctx, tx, id, version); err != nil {
		return err
	}
	return recordings.Tell(ctx, tx, event.Cuts, id)
}

// CarryCourse has a course trim its ends as another does, as a part of tx, unless it says already whether.
func (s *Service) CarryCourse(ctx context.Context, tx pgx.Tx, from, to uuid.UUID) error {
	const carry = `insert into course_cuts (course_id, trim_ends) select $2, trim_ends from course_cuts
		where course_id = $1 on conflict do nothing`
	if _, err := tx.Exec(ctx, carry, from, to); err != nil {
		return fmt.Errorf("carry whether ends are trimmed: %w", err)
	}
	return nil
}
