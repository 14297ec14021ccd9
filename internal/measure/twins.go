package measure

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fingerprint"
	"latelantern/internal/core/signal"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// findTwins looks for tracks that sound like one that was measured.
type findTwins struct {
	Track uuid.UUID `json:"track"`
}

// Kind names the job.
func (findTwins) Kind() string { return "find_twins" }

// InsertOpts says how it is queued.
func (findTwins) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Reading, MaxAttempts: 3, Priority: 3, UniqueOpts: jobs.OneAtATime}
}

// What is looked through for a twin: what came within so many days, and of that the latest.
const (
	twinDays = 200
	twinMost = 1500
)

func (s *Service) findTwins(ctx context.Context, in findTwins, _ bool) error {
	track := in.Track
	type row struct {
		TrackID uuid.UUID
		Peaks   []byte
	}
	one, err := postgres.One[row](ctx, s.DB, `select track_id, peaks from strip where track_id = $1 and done`, track)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil
	}
	if err != nil {
		return fmt.Errorf("read the sound of a track: %w", err)
	}
	sound := fingerprint.SoundOf(one.Peaks)
	// Two computers that captured one lecture at once are one recording, and no twins.
	const query = `select s.track_id, s.peaks from strip s join track t on t.id = s.track_id
		join capture c on c.id = t.capture_id
		where s.done and s.track_id <> $1 and c.started_at > $2
		and exists (select 1 from recording_capture rc join recording r on r.id = rc.recording_id
			where rc.capture_id = c.id and r.deleted_at is null
			and not exists (select 1 from recording_capture o join track x on x.capture_id = o.capture_id
			where o.recording_id = r.id and x.id = $1))
		order by c.started_at desc limit $3`
	rows, err := s.DB.Query(ctx, query, track, s.Clock.Now().AddDate(0, 0, -twinDays), twinMost)
	if err != nil {
		return fmt.Errorf("list what may sound alike: %w", err)
	}
	type found struct {
		other uuid.UUID
		fingerprint.Match
	}
	var twins []found
	var other row
	if _, err := pgx.ForEachRow(rows, []any{&other.TrackID, &other.Peaks}, func() error {
		if m, ok := sound.Alike(fingerprint.SoundOf(other.Peaks)); ok {
			twins = append(twins, found{other.TrackID, m})
		}
		return ctx.Err()
	}); err != nil {
		return fmt.Errorf("look for what sounds alike: %w", err)
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		for _, x := range twins {
			first, second, offset := track, x.other, x.Offset
			if bytes.Compare(first[:], second[:]) > 0 {
				first, second, offset = second, first, -offset
			}
			const insert = `insert into twin (track_id, other_id, share, offset_ms) values ($1, $2, $3, $4)
				on conflict do nothing`
			if _, err := tx.Exec(ctx, insert, first, second, x.Share,
				int64(offset)*signal.Window.Milliseconds()); err != nil {
				return fmt.Errorf("keep what sounds alike: %w", err)
			}
			if err := s.notifyHolding(ctx, tx, track, x.other); err != nil {
				return err
			}
		}
		return nil
	})
}

// notifyHolding tells everyone who looks at a recording of these tracks.
func (s *Service) notifyHolding(ctx context.Context, tx pgx.Tx, tracks ...uuid.UUID) error {
	const query = `select distinct rc.recording_id from recording_capture rc
		join track t on t.capture_id = rc.capture_id where t.id = any($1)`
	holding, err := postgres.Values[uuid.UUID](ctx, tx, query, tracks)
	if err != nil {
		return fmt.Errorf("find the recordings of tracks: %w", err)
	}
	for _, id := range holding {
		if err := recordings.Tell(ctx, tx, event.Recording, id); err != nil {
			return err
		}
	}
	return nil
}

// Why another recording may be the same.
const (
	SameFile    = "file"    // its bytes are the same
	SameSound   = "sound"   // it sounds nearly the same
	SameLecture = "lecture" // it is of the same lecture
)

// Twin is another recording that may be the same as one, or as a part of it.
type Twin struct {
	recordings.Recording
	Why    string
	Share  float64       // of what is heard that agrees, 0 to 1; 0 when it was not compared
	Offset time.Duration // where it begins on the clock of the one
	Lit    bool
}

// Twins lists what may be the same as a recording, but for what someone said is wanted as well.
func (s *Service) Twins(ctx context.Context, recording uuid.UUID) ([]Twin, error) {
	type row struct {
		ID       uuid.UUID
		Why      string
		Share    float64
		OffsetMs int64
		Lit      bool
	}
	// What was split apart is of one lecture, and not twice the same.
	const query = `with mine as (select t.id, t.fingerprint, rc.start_ms from recording_capture rc
		join track t on t.capture_id = rc.capture_id where rc.recording_id = $1 and t.role = 'main'),
		alike as (
			select case when w.track_id = m.id then w.other_id else w.track_id end as track, w.share, m.start_ms + case
			when w.track_id = m.id then w.offset_ms else -w.offset_ms end as offset_ms
				from mine m join twin w on m.id in (w.track_id, w.other_id) where w.both_wanted_at is null),
		others as (
			select rc.recording_id as id, $2::text as why, a.share, a.offset_ms, 1 as rank from alike a
			join track t on t.id = a.track join recording_capture rc on rc.capture_id = t.capture_id
			union all
			select rc.recording_id, $3, 1, m.start_ms, 0 from mine m
			join track t on t.fingerprint = m.fingerprint and t.id <> m.id
			join recording_capture rc on rc.capture_id = t.capture_id
				where not exists (select 1 from twin w
				where w.both_wanted_at is not null and (w.track_id, w.other_id) in ((t.id, m.id), (m.id, t.id)))
			union all
			select r.id, $4, 0, 0, 2 from recording o join recording r on r.lecture_id = o.lecture_id where o.id = $1
				and not exists (select 1 from recording_capture a
				join recording_capture b on b.capture_id = a.capture_id
				where a.recording_id = o.id and b.recording_id = r.id)
				and not exists (select 1 from mine m, twin w join track t on t.id in (w.track_id, w.other_id)
				join recording_capture rc on rc.capture_id = t.capture_id
					where w.both_wanted_at is not null and m.id in (w.track_id, w.other_id) and rc.recording_id = r.id))
		select distinct
		on (x.id) x.id, x.why, x.share, x.offset_ms, exists (select 1 from released p
		where p.recording_id = x.id and p.lit) as lit
			from others x join recording r on r.id = x.id where x.id <> $1 and r.deleted_at is null
			order by x.id, x.rank, x.share desc`
	rows, err := postgres.All[row](ctx, s.DB, query, recording, SameSound, SameFile, SameLecture)
	if err != nil {
		return nil, fmt.Errorf("list what may be the same as a recording: %w", err)
	}
	var out []Twin
	for _, x := range rows {
		r, err := s.Recordings.Recording(ctx, x.ID)
		if errors.Is(err, recordings.ErrUnknown) {
			continue
		}
		if err != nil {
			return nil, err
		}
		out = append(out, Twin{r, x.Why, x.Share, time.Duration(x.OffsetMs) * time.Millisecond, x.Lit})
	}
	return out, nil
}

// WantBoth says that two recordings are both wanted, or takes it back.
func (s *Service) WantBoth(ctx context.Context, recording, other uuid.UUID, wanted bool) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const keep = `insert into twin (track_id, other_id, share, offset_ms, both_wanted_at)
			select distinct least(a.id, b.id), greatest(a.id, b.id), 0, 0, $3::timestamptz from recording_capture ra
			join track a on a.capture_id = ra.capture_id, recording_capture rb
			join track b on b.capture_id = rb.capture_id
			where ra.recording_id = $1 and rb.recording_id = $2 and a.role = 'main' and b.role = 'main' and a.id <> b.id
			on conflict (track_id, other_id) do update set both_wanted_at = excluded.both_wanted_at`
		var at *time.Time
		if now := s.Clock.Now(); wanted {
			at = &now
		}
		if _, err := tx.Exec(ctx, keep, recording, other, at); err != nil {
			return fmt.Errorf("keep that two recordings are wanted: %w", err)
		}
		// What never was compared, or was found to be different, says nothing by itself.
		if _, err := tx.Exec(ctx, `delete from twin where share = 0 and both_wanted_at is null`); err != nil {
			return fmt.Errorf("forget that two recordings are wanted: %w", err)
		}
		for _, id := range []uuid.UUID{recording, other} {
			if err := recordings.Tell(ctx, tx, event.Recording, id); err != nil {
				return err
			}
		}
		return nil
	})
}
