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

// SetCues keeps the captions of a recording in place of any it had, also before any of it can be
// watched. One that lies over two captures is kept with that in which it begins.
func (s *Service) SetCues(ctx context.Context, recording uuid.UUID, cues []webvtt.Cue) error {
	type row struct {
		CaptureID       uuid.UUID
		StartMs, FromMs int64
		UntilMs         int64
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const query = `select capture_id, start_ms, coalesce(from_ms, 0) as from_ms, coalesce(until_ms, 9223372036854775807) as until_ms from recording_capture where recording_id = $1 order by start_ms + coalesce(from_ms, 0) desc`
		parts, err := postgres.All[row](ctx, tx, query, recording)
		if err != nil {
			return fmt.Errorf("read the parts of a recording: %w", err)
		}
		for _, p := range parts {
			if _, err := tx.Exec(ctx, `delete from cue where capture_id = $1 and start_ms >= $2 and start_ms < $3`, p.CaptureID, p.FromMs, p.UntilMs); err != nil {
				return fmt.Errorf("clear captions: %w", err)
			}
		}
		for _, c := range cues {
			from := c.Start.Milliseconds()
			for _, p := range parts { // the latest that has begun by then
				if local := from - p.StartMs; local >= p.FromMs && local < p.UntilMs {
					const insert = `insert into cue (capture_id, start_ms, end_ms, text) values ($1, $2, $3, $4) on conflict do nothing`
					if _, err := tx.Exec(ctx, insert, p.CaptureID, local, c.End.Milliseconds()-p.StartMs, c.Text); err != nil {
						return fmt.Errorf("keep captions: %w", err)
					}
					break
				}
			}
		}
		return nil
	})
}
