package catchup

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/catchup"
	"latelantern/internal/core/span"
	"latelantern/internal/core/wall"
	"latelantern/internal/platform/postgres"
)

// seat is someone at a recording.
type seat struct{ person, recording uuid.UUID }

// attended is what of recordings people followed live, on the clocks of the recordings.
func (s *Service) attended(ctx context.Context, people, recordings []uuid.UUID) (map[seat]span.Set, error) {
	type row struct {
		RecordingID     uuid.UUID
		PersonID        uuid.UUID
		StartMs, FromMs int64
		UntilMs         int64
		StartedAt       time.Time
		FromAt, UntilAt []time.Time
		AtMs, PauseMs   []int64
	}
	const query = `select rc.recording_id, n.person_id, rc.start_ms, coalesce(rc.from_ms, 0) as from_ms,
			least(t.packed_ms, rc.until_ms) as until_ms, c.started_at, n.from_at, n.until_at, m.at_ms, m.pause_ms
		from recording_capture rc join capture c on c.id = rc.capture_id
		join track t on t.capture_id = c.id and t.role = 'main'
		cross join lateral (select p.person_id, array_agg(p.from_at order by p.from_at) as from_at,
			array_agg(p.until_at order by p.from_at) as until_at from attendance p
			where p.lecture_id = c.lecture_id and p.person_id = any($1) and p.by not in ('said', 'answered')
			group by p.person_id) n
		cross join lateral (select coalesce(array_agg(m.at_ms order by m.at_ms), '{}') as at_ms,
			coalesce(array_agg(m.pause_ms order by m.at_ms), '{}') as pause_ms
			from marker m where m.capture_id = c.id and m.pause_ms is not null) m
		where rc.recording_id = any($2) and c.source <> 'file' and not c.alone`
	rows, err := postgres.All[row](ctx, s.DB, query, people, recordings)
	if err != nil {
		return nil, fmt.Errorf("read what someone followed live: %w", err)
	}
	const ms = time.Millisecond
	out := map[seat]span.Set{}
	for _, r := range rows {
		clock := wall.Clock{Began: r.StartedAt}
		for i := range r.AtMs {
			clock.Pauses = append(clock.Pauses,
				wall.Pause{At: time.Duration(r.AtMs[i]) * ms, Long: time.Duration(r.PauseMs[i]) * ms})
		}
		var stays []catchup.Stay
		for i := range r.FromAt {
			stays = append(stays, catchup.Stay{From: r.FromAt[i], Until: r.UntilAt[i]})
		}
		window := span.Of(span.Span{Start: time.Duration(r.FromMs) * ms, End: time.Duration(r.UntilMs) * ms})
		heard := catchup.Attended(clock, stays).Intersect(window).Shift(time.Duration(r.StartMs) * ms)
		at := seat{r.PersonID, r.RecordingID}
		out[at] = out[at].Union(heard)
	}
	return out, nil
}
