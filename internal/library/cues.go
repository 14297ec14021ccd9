package library

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/span"
	"latelantern/internal/format/webvtt"
	"latelantern/internal/platform/postgres"
)

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
