package door

import (
	"context"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/doorway"
	"latelantern/internal/core/event"
	"latelantern/internal/platform/postgres"
)

// LetAllIn lets everyone in who waits at the door of a lecture.
func (s *Service) LetAllIn(ctx context.Context, lecture, by uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		let, err := s.letAllIn(ctx, tx, lecture, by)
		if err != nil || let == 0 {
			return err
		}
		return told(ctx, tx, lecture)
	})
}

// letAllIn says how many it let in.
func (s *Service) letAllIn(ctx context.Context, tx pgx.Tx, lecture, by uuid.UUID) (int64, error) {
	const answer = `update doorway_ask set answered_at = $2, answered_by = $3, let_in = true
		where lecture_id = $1 and answered_at is null`
	tag, err := tx.Exec(ctx, answer, lecture, s.Clock.Now(), by)
	if err != nil {
		return 0, fmt.Errorf("let everyone in: %w", err)
	}
	return tag.RowsAffected(), nil
}

// told says that something is another at the door of a lecture.
func told(ctx context.Context, tx pgx.Tx, lecture uuid.UUID) error {
	course, err := postgres.Value[uuid.UUID](ctx, tx, `select course_id from lecture where id = $1`, lecture)
	if err != nil {
		return fmt.Errorf("look whose door it is: %w", err)
	}
	return postgres.Notify(ctx, tx, postgres.Event{About: event.Doorway, Course: course, Lecture: lecture})
}

// KeepOpen lets everyone in who waits at a door at which people ask, and whoever comes from now on; or has them ask
// again, where those who are in stay.
func (s *Service) KeepOpen(ctx context.Context, lecture, by uuid.UUID, open bool) error {
	now := s.Clock.Now()
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if open {
			const keep = `insert into doorway_open (lecture_id, made_by, made_at) values ($1, $2, $3)
				on conflict do nothing`
			if _, err := tx.Exec(ctx, keep, lecture, by, now); err != nil {
				return fmt.Errorf("keep a door open: %w", err)
			}
			if _, err := s.letAllIn(ctx, tx, lecture, by); err != nil {
				return err
			}
			return told(ctx, tx, lecture)
		}
		tag, err := tx.Exec(ctx, `delete from doorway_open where lecture_id = $1`, lecture)
		if err != nil {
			return fmt.Errorf("have people ask at a door again: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return nil
		}
		const stay = `insert into doorway_ask as a (lecture_id, person_id, asked_at, answered_at, answered_by, let_in)
			select $2, i.person_id, $3, $3, $4, true from ` + insideSQL + ` i
			on conflict (lecture_id, person_id) do update set answered_at = excluded.answered_at,
				answered_by = excluded.answered_by, let_in = true, word = '' where a.sent_out_at is null`
		if _, err := tx.Exec(ctx, stay, now.Add(-doorway.Lapse), lecture, now, by); err != nil {
			return fmt.Errorf("let those stay who are in: %w", err)
		}
		return told(ctx, tx, lecture)
	})
}

// Open reports whether whoever comes to a lecture at which people ask is let in for now.
func (s *Service) Open(ctx context.Context, lecture uuid.UUID) (bool, error) {
	open, err := postgres.Value[bool](ctx, s.DB, `select exists (select 1 from doorway_open where lecture_id = $1)`,
		lecture)
	if err != nil {
		return false, fmt.Errorf("look whether a door is open: %w", err)
	}
	return open, nil
}
