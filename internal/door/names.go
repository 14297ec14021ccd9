package door

import (
	"context"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/platform/postgres"
)

// NamesSeen tells whether those of a course who follow a lecture see who else does. Where nothing was said they do not.
func (s *Service) NamesSeen(ctx context.Context, course uuid.UUID) (bool, error) {
	seen, err := postgres.Value[bool](ctx, s.DB,
		`select exists (select 1 from names_seen where course_id = $1 and seen)`, course)
	if err != nil {
		return false, fmt.Errorf("read whether names are seen: %w", err)
	}
	return seen, nil
}

// SetNamesSeen changes that.
func (s *Service) SetNamesSeen(ctx context.Context, course uuid.UUID, seen bool) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const keep = `insert into names_seen (course_id, seen) values ($1, $2)
			on conflict (course_id) do update set seen = excluded.seen`
		if _, err := tx.Exec(ctx, keep, course, seen); err != nil {
			return fmt.Errorf("keep whether names are seen: %w", err)
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Timetable, Course: course})
	})
}

// CarryCourse lets names be seen in a course as they are in another, as a part of tx, unless it says already whether.
func (s *Service) CarryCourse(ctx context.Context, tx pgx.Tx, from, to uuid.UUID) error {
	const carry = `insert into names_seen (course_id, seen) select $2, seen from names_seen where course_id = $1
		on conflict do nothing`
	if _, err := tx.Exec(ctx, carry, from, to); err != nil {
		return fmt.Errorf("carry whether names are seen: %w", err)
	}
	return nil
}
