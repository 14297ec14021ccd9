package library

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// Open gives the recording that a capture of a lecture belongs to. What is captured live goes
// on in the recording of the lecture that was captured live before; anything else
// becomes a recording of its own.
func (s *Service) Open(ctx context.Context, tx pgx.Tx, lecture, capture uuid.UUID, began time.Time,
	live bool) (uuid.UUID, error) {
	if live {
		id, err := s.goOn(ctx, tx, lecture, capture, began)
		if err != nil || id != uuid.Nil {
			return id, err
		}
	}
	id := uuid.Must(uuid.NewV7())
	const insert = `with r as (insert into recording (id, lecture_id, created_at, origin_at) values ($1, $2, $3, $5))
		insert into recording_capture (recording_id, capture_id, position, start_ms) values ($1, $4, 0, 0)`
	if _, err := tx.Exec(ctx, insert, id, lecture, s.Clock.Now(), capture, began); err != nil {
		return id, fmt.Errorf("open a recording: %w", err)
	}
	return id, s.Releases.Belong(ctx, tx, id)
}

// untouched tells the recordings r with which nobody has done anything yet: what comes later joins no other by itself,
// since whoever trimmed, titled, lit or darkened one has decided about what it held. It is proposed as a twin.
const untouched = `r.cut_list_id is null and r.titled_at is null and r.wanted_edition_id is null
	and not exists (select 1 from lighting u where u.recording_id = r.id)
	and not exists (select 1 from rearrangement a where r.id in (a.recording_id, a.other_id))`

// goOn adds a capture to the recording of the same lecture, and is uuid.Nil when there is none that nobody has touched.
func (s *Service) goOn(ctx context.Context, tx pgx.Tx, lecture, capture uuid.UUID, began time.Time) (uuid.UUID, error) {
	type row struct {
		ID       uuid.UUID
		OriginAt time.Time
		Parts    int
	}
	// The lecture is held, so that two computers that begin at once do not make two.
	if _, err := tx.Exec(ctx, `select 1 from lecture where id = $1 for no key update`, lecture); err != nil {
		return uuid.Nil, fmt.Errorf("hold a lecture: %w", err)
	}
	const query = `select r.id, r.origin_at, (select max(position) + 1 from recording_capture n
		where n.recording_id = r.id) as parts
		from recorded r join recording_capture rc on rc.recording_id = r.id join capture c on c.id = rc.capture_id
		join track t on t.capture_id = c.id
		where r.lecture_id = $1 and r.deleted_at is null and ` + untouched + `
		group by r.id, r.origin_at
		having bool_and(c.source <> 'file') and $2 between min(c.started_at) - $3::interval
		and max(coalesce(c.stopped_at, t.arrived_at)) + $3::interval
		order by max(c.started_at) desc, r.origin_at desc limit 1`
	r, err := postgres.One[row](ctx, tx, query, lecture, began, recordings.Together)
	if errors.Is(err, pgx.ErrNoRows) {
		return uuid.Nil, nil
	}
	if err != nil {
		return uuid.Nil, fmt.Errorf("look for the recording of a lecture: %w", err)
	}
	if began.Before(r.OriginAt) {
		if err := s.beginEarlier(ctx, tx, r.ID, began, r.OriginAt.Sub(began).Round(time.Millisecond)); err != nil {
			return uuid.Nil, err
		}
		r.OriginAt = began
	}
	if _, err := tx.Exec(ctx,
		`insert into recording_capture (recording_id, capture_id, position, start_ms) values ($1, $2, $3, $4)`, r.ID,
		capture, r.Parts, began.Sub(r.OriginAt).Milliseconds()); err != nil {
		return uuid.Nil, fmt.Errorf("add a part to a recording: %w", err)
	}
	return r.ID, nil
}

// beginEarlier moves the beginning of the clock of a recording, and with it all that is kept
// on that clock.
func (s *Service) beginEarlier(ctx context.Context, tx pgx.Tx, id uuid.UUID, began time.Time, by time.Duration) error {
	if err := s.Cuts.Shift(ctx, tx, id, by); err != nil {
		return err
	}
	if err := s.Positions.Shift(ctx, tx, id, by); err != nil {
		return err
	}
	if _, err := tx.Exec(ctx, `update recording_capture set start_ms = start_ms + $2 where recording_id = $1`, id,
		by.Milliseconds()); err != nil {
		return fmt.Errorf("move the parts of a recording: %w", err)
	}
	if _, err := tx.Exec(ctx, `update recording set origin_at = $2 where id = $1`, id, began); err != nil {
		return fmt.Errorf("move the beginning of a recording: %w", err)
	}
	return nil
}

// Leave takes a capture that never became complete out of the recording that it belongs to, which goes into the bin
// when there is nothing else in it. It reports whether there was one.
func (s *Service) Leave(ctx context.Context, tx pgx.Tx, capture uuid.UUID) (bool, error) {
	holding, err := s.Recordings.Holding(ctx, tx, capture)
	if err != nil {
		return false, err
	}
	if err := recordings.Hold(ctx, tx, holding...); err != nil {
		return false, err
	}
	for _, id := range holding {
		const part = `delete from recording_capture where recording_id = $1 and capture_id = $2
			and exists (select 1 from recording_capture o where o.recording_id = $1 and o.capture_id <> $2)`
		tag, err := tx.Exec(ctx, part, id, capture)
		if err == nil && tag.RowsAffected() == 0 {
			_, err = tx.Exec(ctx, `update recording set deleted_at = $2 where id = $1`, id, s.Clock.Now())
		}
		if err != nil {
			return false, fmt.Errorf("take a capture out of a recording: %w", err)
		}
	}
	return len(holding) > 0, nil
}

// Packed has the recording of a capture measured, now that all of the capture can be read.
// What was published before it came does not hold it: it no longer counts as the edition of
// any cut list, so that the next step is to publish again.
func (s *Service) Packed(ctx context.Context, tx pgx.Tx, capture uuid.UUID) error {
	holding, err := s.Recordings.Holding(ctx, tx, capture)
	if err != nil {
		return err
	}
	if err := recordings.Hold(ctx, tx, holding...); err != nil {
		return err
	}
	for _, id := range holding {
		if err := s.Editions.Outdate(ctx, tx, id); err != nil {
			return err
		}
	}
	track, err := postgres.Value[uuid.UUID](ctx, tx, `select id from track where capture_id = $1 and role = 'main'`,
		capture)
	if err != nil {
		return fmt.Errorf("find the track of a capture: %w", err)
	}
	return s.Measures.Later(ctx, tx, track)
}
