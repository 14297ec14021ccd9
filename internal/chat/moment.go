package chat

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/layout"
	"latelantern/internal/core/wall"
	"latelantern/internal/platform/postgres"
)

// ahead is by how much what a player says it shows may lie before what is captured now.
const ahead = 10 * time.Second

// moment is where on the clock of which capture something was said: where the player of who said it was, or else what
// was captured when it was written. Without either it has none.
func (s *Service) moment(ctx context.Context, tx pgx.Tx, x Saying, said time.Time) (*uuid.UUID, *int64, error) {
	running, now, err := runs(ctx, tx, x.Lecture, said)
	if err != nil {
		return nil, nil, err
	}
	if x.Heard != nil {
		pieces, err := s.Recordings.Layout(ctx, tx, x.Heard.Recording)
		if err != nil {
			return nil, nil, err
		}
		capture, at, ok := heard(pieces, x.Heard.At)
		// What a page says of where it is is not believed beyond what is captured.
		if ok && (x.Later || capture == running && at <= now+ahead) {
			return &capture, ms(at), nil
		}
	}
	if running == uuid.Nil || x.Later {
		return nil, nil, nil
	}
	return &running, ms(now), nil
}

func ms(d time.Duration) *int64 {
	n := max(0, d.Milliseconds())
	return &n
}

// heard is where a moment of a recording lies on the clock of its capture: that of the piece in which it is, or for
// what was not cut into segments yet of the last that began before.
func heard(pieces []layout.Shown, at time.Duration) (capture uuid.UUID, local time.Duration, ok bool) {
	for _, p := range pieces {
		if at >= p.At.Start {
			capture, local, ok = p.Capture, at-p.Start, true
		}
	}
	return capture, local, ok
}

// runs is the capture of a lecture that ran at a time, and where it was then; uuid.Nil for none. What somebody captures
// alone is none.
func runs(ctx context.Context, tx pgx.Tx, lecture uuid.UUID, at time.Time) (uuid.UUID, time.Duration, error) {
	type row struct {
		ID            uuid.UUID
		StartedAt     time.Time
		PausedAt      *time.Time
		AtMs, PauseMs []int64
	}
	const query = `select c.id, c.started_at, c.paused_at, m.at_ms, m.pause_ms from capture c
		cross join lateral (select coalesce(array_agg(m.at_ms order by m.at_ms), '{}') as at_ms,
			coalesce(array_agg(m.pause_ms order by m.at_ms), '{}') as pause_ms
			from marker m where m.capture_id = c.id and m.pause_ms is not null) m
		where c.lecture_id = $1 and c.source <> 'file' and not c.alone and c.started_at <= $2
		and (c.stopped_at is null or c.stopped_at > $2) and c.started_at > $2::timestamptz - interval '12 hours'
		order by c.started_at desc, c.id limit 1`
	x, err := postgres.One[row](ctx, tx, query, lecture, at)
	if errors.Is(err, pgx.ErrNoRows) {
		return uuid.Nil, 0, nil
	}
	if err != nil {
		return uuid.Nil, 0, fmt.Errorf("find what is captured: %w", err)
	}
	c := wall.Clock{Began: x.StartedAt}
	for i := range x.AtMs {
		c.Pauses = append(c.Pauses, wall.Pause{At: time.Duration(x.AtMs[i]) * time.Millisecond,
			Long: time.Duration(x.PauseMs[i]) * time.Millisecond})
	}
	if x.PausedAt != nil && x.PausedAt.Before(at) {
		at = *x.PausedAt
	}
	return x.ID, c.At(at), nil
}
