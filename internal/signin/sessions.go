package signin

import (
	"context"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/platform/postgres"
)

// EndSessions ends all sessions of a person. Its error is ErrUnknown for nobody.
func (s *Service) EndSessions(ctx context.Context, person uuid.UUID) error {
	const next = `insert into account (person_id, session_era) select id, 1 from person where id = $1
		on conflict (person_id) do update set session_era = account.session_era + 1`
	tag, err := s.DB.Exec(ctx, next, person)
	if err != nil {
		return fmt.Errorf("end the sessions of a person: %w", err)
	}
	if tag.RowsAffected() == 0 {
		return ErrUnknown
	}
	return nil
}

// SetClosed closes the account of a person and ends all their sessions, or opens it again. What they did stays. Its
// error is ErrUnknown for nobody and for guests, and that of People.Coordinated when no coordinator would be left.
func (s *Service) SetClosed(ctx context.Context, person uuid.UUID, closed bool) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if err := s.People.HoldCoordinators(ctx, tx); err != nil {
			return err
		}
		const set = `insert into account (person_id, closed_at, session_era)
			select id, case when $2 then now() end, 1 from person where id = $1 and not guest
			on conflict (person_id) do update
			set closed_at = excluded.closed_at, session_era = account.session_era + 1`
		tag, err := tx.Exec(ctx, set, person, closed)
		if err != nil {
			return fmt.Errorf("close an account: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return ErrUnknown
		}
		return s.People.Coordinated(ctx, tx)
	})
}
