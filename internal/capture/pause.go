package capture

import (
	"context"
	"errors"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/platform/postgres"
)

// SetPaused keeps that the capture of a track is paused, or that it goes on. Of one that is over it changes
// nothing. Its error is ErrUnknown for no track.
func (s *Service) SetPaused(ctx context.Context, track uuid.UUID, on bool) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if _, err := s.begun(ctx, tx, track); errors.Is(err, pgx.ErrNoRows) {
			return ErrUnknown
		} else if err != nil {
			return fmt.Errorf("find a capture that pauses: %w", err)
		}
		const keep = `update capture set paused_at = case when $2 then coalesce(paused_at, $3) end
			where id = (select capture_id from track where id = $1) and stopped_at is null
			and (paused_at is not null) <> $2`
		tag, err := tx.Exec(ctx, keep, track, on, s.Clock.Now())
		if err != nil {
			return fmt.Errorf("keep that a capture pauses: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return nil
		}
		return s.notify(ctx, tx, event.Capture, track)
	})
}
