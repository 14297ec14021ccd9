// Package catchup helps a student to find what they missed and to go on where they stopped.
package catchup

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
)

// Service keeps where people stopped and what they watched. All its fields but Often are needed. It may be used by many
// at once. A call whose context ends gives its error and has changed nothing.
type Service struct {
	DB    *pgxpool.Pool
	Often *pgxpool.Pool // for what is told again and again; nil: DB
	Clock clock.Clock
}

// Position is where a person stopped, in source time; 0 when they never watched.
func (s *Service) Position(ctx context.Context, person, recording uuid.UUID) (time.Duration, error) {
	ms, err := postgres.Value[int64](ctx, s.DB,
		`select source_ms from resume_position where person_id = $1 and recording_id = $2`, person, recording)
	if errors.Is(err, pgx.ErrNoRows) {
		return 0, nil
	}
	if err != nil {
		return 0, fmt.Errorf("read a resume position: %w", err)
	}
	return time.Duration(ms) * time.Millisecond, nil
}

// Shift moves where people stopped in a recording whose clock begins earlier by as much.
func (s *Service) Shift(ctx context.Context, tx pgx.Tx, recording uuid.UUID, by time.Duration) error {
	const move = `update resume_position set source_ms = greatest(0, source_ms + $2) where recording_id = $1`
	if _, err := tx.Exec(ctx, move, recording, by.Milliseconds()); err != nil {
		return fmt.Errorf("move where people stopped: %w", err)
	}
	return nil
}
