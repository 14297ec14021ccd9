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

// Service keeps where people stopped. All its fields are needed. It may be used by many at once. A call whose context
// ends gives its error and has changed nothing.
type Service struct {
	DB    *pgxpool.Pool
	Clock clock.Clock
}

// KeepPosition remembers where a person stopped, in source time, so that it holds when the
// recording is trimmed again.
func (s *Service) KeepPosition(ctx context.Context, person, recording uuid.UUID, at time.Duration) error {
	const upsert = `insert into resume_position (person_id, recording_id, source_ms, kept_at) values ($1, $2, $3, $4)
		on conflict (person_id, recording_id) do update set source_ms = excluded.source_ms, kept_at = excluded.kept_at`
	if _, err := s.DB.Exec(ctx, upsert, person, recording, max(0, at.Milliseconds()), s.Clock.Now()); err != nil {
		return fmt.Errorf("keep a resume position: %w", err)
	}
	return nil
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

// Positions is where a person stopped, by recording.
func (s *Service) Positions(ctx context.Context, person uuid.UUID) (map[uuid.UUID]time.Duration, error) {
	rows, err := postgres.All[struct {
		RecordingID uuid.UUID
		SourceMs    int64
	}](ctx, s.DB, `select recording_id, source_ms from resume_position where person_id = $1`, person)
	if err != nil {
		return nil, fmt.Errorf("read resume positions: %w", err)
	}
	out := map[uuid.UUID]time.Duration{}
	for _, r := range rows {
		out[r.RecordingID] = time.Duration(r.SourceMs) * time.Millisecond
	}
	return out, nil
}

// Shift moves where people stopped in a recording whose clock begins earlier by as much.
func (s *Service) Shift(ctx context.Context, tx pgx.Tx, recording uuid.UUID, by time.Duration) error {
	const move = `update resume_position set source_ms = greatest(0, source_ms + $2) where recording_id = $1`
	if _, err := tx.Exec(ctx, move, recording, by.Milliseconds()); err != nil {
		return fmt.Errorf("move where people stopped: %w", err)
	}
	return nil
}
