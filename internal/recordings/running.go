package recordings

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/wall"
	"latelantern/internal/platform/postgres"
)

// Running is the capture of a lecture that ran at a time, and where it was then; uuid.Nil for none. What somebody
// captures alone is none.
func (s *Reader) Running(ctx context.Context, q postgres.Querier, lecture uuid.UUID, at time.Time) (uuid.UUID,
	time.Duration, error) {
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
	x, err := postgres.One[row](ctx, q, query, lecture, at)
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
