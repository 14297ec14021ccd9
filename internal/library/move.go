package library

import (
	"context"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/recordings"
)

// ErrShown says that a recording stays at its lecture, since students are shown it.
var ErrShown = fault.Code("shown")

// Move takes a recording to another lecture. Its errors are ErrUnknown and, while it gives light
// or stands in a playlist, ErrShown.
func (s *Service) Move(ctx context.Context, tx pgx.Tx, recording, lecture uuid.UUID) error {
	shown, err := recordings.Shown(ctx, tx, recording)
	if err != nil {
		return err
	}
	if shown {
		return ErrShown
	}
	if _, err := tx.Exec(ctx, `update recording set lecture_id = $2 where id = $1`, recording, lecture); err != nil {
		return fmt.Errorf("take a recording to another lecture: %w", err)
	}
	if err := s.Releases.Belong(ctx, tx, recording); err != nil {
		return err
	}
	return recordings.Tell(ctx, tx, event.Recording, recording)
}
