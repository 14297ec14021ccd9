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

// Cues lists the captions of a recording, in source time: they are kept on the clock of what was
// captured, and carried from there.
func (s *Service) Cues(ctx context.Context, recording uuid.UUID) ([]webvtt.Cue, error) {
	pieces, err := s.layout(ctx, s.DB, recording)
	if err != nil {
		return nil, err
	}
	type row struct {
		CaptureID      uuid.UUID
		StartMs, EndMs int64
		Text           string
	}
	const query = `select q.capture_id, q.start_ms, q.end_ms, q.text from cue q where q.capture_id in (select capture_id from recording_capture where recording_id = $1) order by q.start_ms`
	rows, err := postgres.All[row](ctx, s.DB, query, recording)
	if err != nil {
		return nil, fmt.Errorf("read captions: %w", err)
	}
	var out []webvtt.Cue
	for _, p := range pieces {
		for _, r := range rows {
			at := span.Span{Start: p.Start + time.Duration(r.StartMs)*time.Millisecond, End: p.Start + time.Duration(r.EndMs)*time.Millisecond}.Intersect(p.At)
			if r.CaptureID == p.Capture && !at.Empty() {
				out = append(out, webvtt.Cue{Span: at, Text: r.Text})
			}
		}
	}
	return out, nil
}

// SetCues keeps the captions of a recording in place of any it had. One that lies over two
// captures is kept with that in which it begins; one where nothing was captured is not kept.
func (s *Service) SetCues(ctx context.Context, recording uuid.UUID, cues []webvtt.Cue) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		pieces, err := s.layout(ctx, tx, recording)
		if err != nil {
			return err
		}
		for _, p := range pieces {
			const clear = `delete from cue where capture_id = $1 and start_ms >= $2 and start_ms < $3`
			if _, err := tx.Exec(ctx, clear, p.Capture, (p.At.Start - p.Start).Milliseconds(), (p.At.End - p.Start).Milliseconds()); err != nil {
				return fmt.Errorf("clear captions: %w", err)
			}
			for _, c := range cues {
				if !p.At.Contains(c.Start) {
					continue
				}
				const insert = `insert into cue (capture_id, start_ms, end_ms, text) values ($1, $2, $3, $4) on conflict do nothing`
				if _, err := tx.Exec(ctx, insert, p.Capture, (c.Start - p.Start).Milliseconds(), (c.End - p.Start).Milliseconds(), c.Text); err != nil {
					return fmt.Errorf("keep captions: %w", err)
				}
			}
		}
		return nil
	})
}
