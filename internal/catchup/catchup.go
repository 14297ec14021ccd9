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

	"latelantern/internal/core/span"
	"latelantern/internal/format/webvtt"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
)

// Service is the use-case.
type Service struct {
	DB    *pgxpool.Pool
	Clock clock.Clock
}

// KeepPlace remembers where a person stopped, in source time, so that it holds when the
// recording is trimmed again.
func (s *Service) KeepPlace(ctx context.Context, person, recording uuid.UUID, at time.Duration) error {
	const upsert = `insert into place (person_id, recording_id, source_ms, kept_at) values ($1, $2, $3, $4)
		on conflict (person_id, recording_id) do update set source_ms = excluded.source_ms, kept_at = excluded.kept_at`
	if _, err := s.DB.Exec(ctx, upsert, person, recording, max(0, at.Milliseconds()), s.Clock.Now()); err != nil {
		return fmt.Errorf("keep a place: %w", err)
	}
	return nil
}

// Place is where a person stopped, in source time; 0 when they never watched.
func (s *Service) Place(ctx context.Context, person, recording uuid.UUID) (time.Duration, error) {
	ms, err := postgres.Value[int64](ctx, s.DB, `select source_ms from place where person_id = $1 and recording_id = $2`, person, recording)
	if errors.Is(err, pgx.ErrNoRows) {
		return 0, nil
	}
	if err != nil {
		return 0, fmt.Errorf("read a place: %w", err)
	}
	return time.Duration(ms) * time.Millisecond, nil
}

// Places is where a person stopped, by recording.
func (s *Service) Places(ctx context.Context, person uuid.UUID) (map[uuid.UUID]time.Duration, error) {
	rows, err := postgres.All[struct {
		RecordingID uuid.UUID
		SourceMs    int64
	}](ctx, s.DB, `select recording_id, source_ms from place where person_id = $1`, person)
	if err != nil {
		return nil, fmt.Errorf("read places: %w", err)
	}
	out := map[uuid.UUID]time.Duration{}
	for _, r := range rows {
		out[r.RecordingID] = time.Duration(r.SourceMs) * time.Millisecond
	}
	return out, nil
}

// Cues lists the captions of a recording, in source time.
func (s *Service) Cues(ctx context.Context, recording uuid.UUID) ([]webvtt.Cue, error) {
	rows, err := postgres.All[struct {
		StartMs, EndMs int64
		Text           string
	}](ctx, s.DB, `select start_ms, end_ms, text from cue where recording_id = $1 order by start_ms`, recording)
	if err != nil {
		return nil, fmt.Errorf("read captions: %w", err)
	}
	out := make([]webvtt.Cue, len(rows))
	for i, r := range rows {
		out[i] = webvtt.Cue{Span: span.Span{Start: time.Duration(r.StartMs) * time.Millisecond, End: time.Duration(r.EndMs) * time.Millisecond}, Text: r.Text}
	}
	return out, nil
}

// SetCues keeps the captions of a recording in place of any it had.
func (s *Service) SetCues(ctx context.Context, recording uuid.UUID, cues []webvtt.Cue) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `delete from cue where recording_id = $1`, recording); err != nil {
			return fmt.Errorf("clear captions: %w", err)
		}
		for _, c := range cues {
			const insert = `insert into cue (recording_id, start_ms, end_ms, text) values ($1, $2, $3, $4) on conflict do nothing`
			if _, err := tx.Exec(ctx, insert, recording, c.Start.Milliseconds(), c.End.Milliseconds(), c.Text); err != nil {
				return fmt.Errorf("keep captions: %w", err)
			}
		}
		return nil
	})
}
