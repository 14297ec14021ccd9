package catchup

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/catchup"
	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/postgres"
)

// Word is what a player tells of itself now and then.
type Word struct {
	At     time.Duration // where someone is, in source time
	Played span.Set      // what played since it last told, in source time
	Took   time.Duration // how long that took; 0 when it is not known
	Ago    time.Duration // how long ago that was; where they have been since counts more
}

// grid is to what the edges of what was watched are laid, in milliseconds, so that no one's list grows without end.
const grid = 500

// pacing is how much of someone's watching says how fast they usually watch, in milliseconds.
const pacing = 2 * 60 * 60 * 1000

// clips gives parts of captures that a recording is made of as ranges on the clocks of the captures.
const clips = `int8multirange(int8range(coalesce(rc.from_ms, 0),
	greatest(coalesce(rc.from_ms, 0), least(t.packed_ms, rc.until_ms))))`

// keepSQL keeps a word in one statement: of person $1 in recording $2, that the ranges $3 of its clock played, at time
// $4; that they are at $5; and that so much, $6, was played in $7. Of what they had watched before it is kept that it
// was watched again, by nobody's name.
const keepSQL = `with place as (
	insert into resume_position (person_id, recording_id, source_ms, kept_at) values ($1, $2, $5, $4)
	on conflict (person_id, recording_id) do update set source_ms = excluded.source_ms, kept_at = excluded.kept_at
		where resume_position.kept_at <= excluded.kept_at),
pace as (
	insert into watching_pace as p (person_id, played_ms, took_ms)
	select $1, $6::bigint, $7::bigint where $7::bigint > 0
	on conflict (person_id) do update set
		played_ms = (p.played_ms + excluded.played_ms) * least($9, p.took_ms + excluded.took_ms)
			/ (p.took_ms + excluded.took_ms),
		took_ms = least($9, p.took_ms + excluded.took_ms)),
played as (
	select rc.capture_id, int8range((lower(r) + $8 / 2) / $8 * $8, (upper(r) + $8 / 2) / $8 * $8) as range
	from recording_capture rc join track t on t.capture_id = rc.capture_id and t.role = 'main',
	unnest(` + clips + ` * (select range_agg(int8range(lower(p) - rc.start_ms, upper(p) - rc.start_ms))
		from unnest($3::int8multirange) p)) r
	where rc.recording_id = $2),
again as (
	insert into watched_again as g (capture_id, piece, ms)
	select x.capture_id, m, sum(least(upper(o), (m + 1) * 10000) - greatest(lower(o), m * 10000))
	from played x join watched w on w.person_id = $1 and w.capture_id = x.capture_id,
		unnest(w.ranges * int8multirange(x.range)) o, generate_series(lower(o) / 10000, (upper(o) - 1) / 10000) m
	group by x.capture_id, m order by x.capture_id, m
	on conflict (capture_id, piece) do update set ms = g.ms + excluded.ms)
insert into watched (person_id, capture_id, ranges, kept_at)
select $1, x.capture_id, range_agg(x.range), $4 from played x
where not isempty(x.range) group by x.capture_id
on conflict (person_id, capture_id) do update set ranges = watched.ranges + excluded.ranges,
	kept_at = excluded.kept_at`

// Keep remembers where a person is in a recording and what of it they watched, which lies on the clocks of its
// captures. The same told twice is the same.
func (s *Service) Keep(ctx context.Context, person, recording uuid.UUID, w Word) error {
	played, took := w.Played.Len().Milliseconds(), w.Took.Milliseconds()
	if played*4 <= took || played >= took*4 { // it stood meanwhile, or its clock is not to be believed
		played, took = 0, 0
	}
	db := s.DB
	if s.Often != nil {
		db = s.Often
	}
	if _, err := db.Exec(ctx, keepSQL, person, recording, postgres.Kept(w.Played), s.Clock.Now().Add(-w.Ago),
		max(0, w.At.Milliseconds()), played, took, int64(grid), int64(pacing)); err != nil {
		return fmt.Errorf("keep what someone watched: %w", err)
	}
	return nil
}

// Speed is how fast a person usually watches.
func (s *Service) Speed(ctx context.Context, person uuid.UUID) (float64, error) {
	const query = `select coalesce(max(played_ms), 0)::bigint as played, coalesce(max(took_ms), 0)::bigint as took
		from watching_pace where person_id = $1`
	type row struct{ Played, Took int64 }
	p, err := postgres.All[row](ctx, s.DB, query, person)
	if err != nil {
		return 0, fmt.Errorf("read how fast someone watches: %w", err)
	}
	return catchup.Speed(time.Duration(p[0].Played)*time.Millisecond, time.Duration(p[0].Took)*time.Millisecond), nil
}

// SetKnown keeps that a person knows what is in a recording, or takes that back.
func (s *Service) SetKnown(ctx context.Context, person, recording uuid.UUID, known bool) error {
	var err error
	if known {
		const keep = `insert into known_recording (person_id, recording_id, known_at) values ($1, $2, $3)
			on conflict do nothing`
		_, err = s.DB.Exec(ctx, keep, person, recording, s.Clock.Now())
	} else {
		_, err = s.DB.Exec(ctx, `delete from known_recording where person_id = $1 and recording_id = $2`,
			person, recording)
	}
	if err != nil {
		return fmt.Errorf("keep what someone knows: %w", err)
	}
	return nil
}

// Of is what a person has of a recording as it is published.
type Of struct {
	catchup.Account
	Known bool // they said that they know what is in it
}

// Left is what of it is left to catch up.
func (o Of) Left() span.Set {
	if o.Known {
		return span.Set{}
	}
	return o.Missed
}

// Accounts are what a person has of recordings that are published as the carriers say. A recording that holds nothing
// any more is left out.
func (s *Service) Accounts(ctx context.Context, person uuid.UUID, published map[uuid.UUID]cutlist.Carrier,
) (map[uuid.UUID]Of, error) {
	type row struct {
		RecordingID uuid.UUID
		WholeMs     int64
		Watched     postgres.Multirange
		Known       bool
	}
	const query = `select rc.recording_id, max(rc.start_ms + least(t.packed_ms, rc.until_ms)) as whole_ms,
			coalesce(range_agg(int8range(lower(r) + rc.start_ms, upper(r) + rc.start_ms)), '{}') as watched,
			exists (select 1 from known_recording k
				where k.recording_id = rc.recording_id and k.person_id = $1) as known
		from recording_capture rc join track t on t.capture_id = rc.capture_id and t.role = 'main'
		left join watched w on w.capture_id = rc.capture_id and w.person_id = $1
		left join lateral unnest(w.ranges * ` + clips + `) r on true
		where rc.recording_id = any($2) group by rc.recording_id`
	ids := make([]uuid.UUID, 0, len(published))
	for id := range published {
		ids = append(ids, id)
	}
	rows, err := postgres.All[row](ctx, s.DB, query, person, ids)
	if err != nil {
		return nil, fmt.Errorf("read what someone watched: %w", err)
	}
	attended, err := s.attended(ctx, []uuid.UUID{person}, ids)
	if err != nil {
		return nil, err
	}
	out := map[uuid.UUID]Of{}
	for _, r := range rows {
		whole := time.Duration(r.WholeMs) * time.Millisecond
		out[r.RecordingID] = Of{Known: r.Known, Account: catchup.Reckon(published[r.RecordingID], whole,
			attended[seat{person, r.RecordingID}], postgres.Set(r.Watched))}
	}
	return out, nil
}
