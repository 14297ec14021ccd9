package door

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/platform/postgres"
)

// Tail is how long those who followed a lecture can see its last minutes after the stop.
const Tail = 2 * time.Minute

// capturedNow tells the captures c of lectures that go on at $3. One that only comes in now, and began half a day ago or
// before, is none that one could follow.
const capturedNow = `c.source <> 'file' and c.stopped_at is null and c.started_at > $3::timestamptz - interval '12 hours'`

// Live is how a recording can be followed. Its zero value cannot.
type Live struct {
	Running bool // it is captured now
	Open    bool // or was until a moment ago
	Alone   bool // with nobody invited
}

// Live says whether a recording can be followed: what is captured now, and was not lit or darkened before. A capture
// that only comes in now, and began half a day ago or before, is none that one could follow.
func (s *Service) Live(ctx context.Context, recording uuid.UUID) (Live, error) {
	const query = `select coalesce(bool_or(c.stopped_at is null), false) as running, count(*) > 0 as open, coalesce(bool_and(c.alone), false) as alone
		from recording r join recording_capture rc on rc.recording_id = r.id join capture c on c.id = rc.capture_id
		where r.id = $1 and r.deleted_at is null and c.source <> 'file' and c.started_at > $2::timestamptz - interval '12 hours'
		and (c.stopped_at is null or c.stopped_at > $3)
		and not exists (select 1 from publication u where u.recording_id = r.id)`
	now := s.Clock.Now()
	out, err := postgres.One[Live](ctx, s.DB, query, recording, now, now.Add(-Tail))
	if err != nil {
		return out, fmt.Errorf("look whether a recording is live: %w", err)
	}
	return out, nil
}

// Played keeps that someone who follows a lecture was just sent some of it.
func (s *Service) Played(ctx context.Context, person, lecture uuid.UUID) error {
	const keep = `insert into following (lecture_id, person_id, played_at) values ($1, $2, $3)
		on conflict (lecture_id, person_id) do update set played_at = excluded.played_at`
	if _, err := s.DB.Exec(ctx, keep, lecture, person, s.Clock.Now()); err != nil {
		return fmt.Errorf("keep that someone follows: %w", err)
	}
	return nil
}
