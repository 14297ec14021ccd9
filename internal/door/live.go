package door

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/watchdog"
	"latelantern/internal/platform/postgres"
)

// Tail is how long those who followed a lecture can see what they missed of its end after the stop.
const Tail = 10 * time.Minute

// remembered is for how long after the stop it is said that a lecture is over, and not that a door is closed.
const remembered = 12 * time.Hour

// Live is how a recording can be followed. Its zero value cannot.
type Live struct {
	Running bool // it is captured now
	Open    bool // or was until a moment ago
	Alone   bool // with nobody invited
	Over    bool // it was captured, and stopped within remembered
	Last    *time.Time
	Paused  *time.Time
	Stopped *time.Time
	HeldMs  int64
}

// Pulse is how what is captured goes.
func (l Live) Pulse() watchdog.Pulse {
	p := watchdog.Pulse{Paused: l.Paused, Stopped: l.Stopped, Held: time.Duration(l.HeldMs) * time.Millisecond}
	if l.Last != nil {
		p.Last = *l.Last
	}
	if l.Running {
		p.Stopped = nil
	}
	return p
}

// Live says whether a recording can be followed: what is captured now, and was not lit or darkened before. A capture
// that only comes in now, and began half a day ago or before, is none that one could follow.
func (s *Service) Live(ctx context.Context, recording uuid.UUID) (Live, error) {
	const query = `select coalesce(bool_or(c.stopped_at is null), false) as running,
		coalesce(bool_or(c.stopped_at is null or c.stopped_at > $3), false) as open,
			coalesce(bool_and(c.alone) filter (where c.stopped_at is null or c.stopped_at > $3), false) as alone,
			coalesce(bool_and(c.stopped_at is not null), false)
			and bool_or(not c.alone) as over, max(t.arrived_at) filter (where c.stopped_at is null) as last,
			case when bool_and(c.paused_at is not null) filter (where c.stopped_at is null) then max(c.paused_at) filter
			(where c.stopped_at is null) end as paused,
			max(c.stopped_at) as stopped, coalesce(max(t.packed_ms), 0) as held_ms
		from recording r join recording_capture rc on rc.recording_id = r.id join capture c on c.id = rc.capture_id
		join track t on t.capture_id = c.id and t.role = 'main'
		where r.id = $1 and r.deleted_at is null and c.source <> 'file'
		and c.started_at > $2::timestamptz - interval '12 hours'
		and (c.stopped_at is null or c.stopped_at > $4)
		and not exists (select 1 from lighting u where u.recording_id = r.id)`
	now := s.Clock.Now()
	out, err := postgres.One[Live](ctx, s.DB, query, recording, now, now.Add(-Tail), now.Add(-remembered))
	if err != nil {
		return out, fmt.Errorf("look whether a recording is live: %w", err)
	}
	// What somebody captured alone has no followers who would see its end.
	out.Open = out.Open && (out.Running || !out.Alone)
	return out, nil
}
