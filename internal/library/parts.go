package library

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/platform/postgres"
)

// together is how long after a part of a lecture another may begin and still belong to the
// same recording.
const together = 4 * time.Hour

// Open gives the recording that a capture of a lecture belongs to. What is captured live goes
// on in the recording of the lecture that was captured live before; anything else
// becomes a recording of its own.
func (s *Service) Open(ctx context.Context, tx pgx.Tx, lecture, capture uuid.UUID, began time.Time, live bool) (uuid.UUID, error) {
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
	return id, nil
}

// untouched tells the recordings r with which nobody has done anything yet: what comes later joins no other by itself,
// since whoever trimmed, titled, lit or darkened one has decided about what it held. It is proposed as a twin.
const untouched = `r.cut_list_id is null and r.titled_at is null and r.wanted_edition_id is null
	and not exists (select 1 from publication u where u.recording_id = r.id)
	and not exists (select 1 from rearrangement a where r.id in (a.recording_id, a.other_id))`

// goOn adds a capture to the recording of the same lecture, and is uuid.Nil when there is none that nobody has touched.
func (s *Service) goOn(ctx context.Context, tx pgx.Tx, lecture, capture uuid.UUID, began time.Time) (uuid.UUID, error) {
	type row struct {
		ID       uuid.UUID
		OriginAt time.Time
		Parts    int
	}
	// The lecture is held, so that two computers that begin at once do not make two.
	if _, err := tx.Exec(ctx, `select 1 from lecture where id = $1 for update`, lecture); err != nil {
		return uuid.Nil, fmt.Errorf("hold a lecture: %w", err)
	}
	const query = `select r.id, r.origin_at, (select max(position) + 1 from recording_capture n where n.recording_id = r.id) as parts
		from recording r join recording_capture rc on rc.recording_id = r.id join capture c on c.id = rc.capture_id join track t on t.capture_id = c.id
		where r.lecture_id = $1 and r.deleted_at is null and ` + untouched + `
		group by r.id having bool_and(c.source <> 'file') and $2 between min(c.started_at) - $3::interval and max(coalesce(c.stopped_at, t.arrived_at)) + $3::interval
		order by max(c.started_at) desc, r.origin_at desc limit 1`
	r, err := postgres.One[row](ctx, tx, query, lecture, began, together)
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
	if _, err := tx.Exec(ctx, `insert into recording_capture (recording_id, capture_id, position, start_ms) values ($1, $2, $3, $4)`, r.ID, capture, r.Parts, began.Sub(r.OriginAt).Milliseconds()); err != nil {
		return uuid.Nil, fmt.Errorf("add a part to a recording: %w", err)
	}
	return r.ID, nil
}

// beginEarlier moves the beginning of the clock of a recording, and with it all that is kept
// on that clock.
func (s *Service) beginEarlier(ctx context.Context, tx pgx.Tx, id uuid.UUID, began time.Time, by time.Duration) error {
	type row struct {
		ID          uuid.UUID
		Struck, Led multirange
	}
	lists, err := postgres.All[row](ctx, tx, `select id, struck, led from cut_list where recording_id = $1`, id)
	if err != nil {
		return fmt.Errorf("read the cut lists of a recording: %w", err)
	}
	for _, l := range lists {
		if _, err := tx.Exec(ctx, `update cut_list set struck = $2, led = $3 where id = $1`, l.ID, toSQL(fromSQL(l.Struck).Shift(by)), toSQL(fromSQL(l.Led).Shift(by))); err != nil {
			return fmt.Errorf("move a cut list: %w", err)
		}
	}
	for _, sql := range []string{
		`update recording_capture set start_ms = start_ms + $2 where recording_id = $1`,
		`update place set source_ms = greatest(0, source_ms + $2) where recording_id = $1`,
	} {
		if _, err := tx.Exec(ctx, sql, id, by.Milliseconds()); err != nil {
			return fmt.Errorf("move what is kept on the clock of a recording: %w", err)
		}
	}
	if _, err := tx.Exec(ctx, `update recording set origin_at = $2 where id = $1`, id, began); err != nil {
		return fmt.Errorf("move the beginning of a recording: %w", err)
	}
	return nil
}

// Packed has the recording of a capture measured, now that all of the capture can be read.
// What was published before it came does not hold it: it no longer counts as the edition of
// any cut list, so that the next step is to publish again.
func (s *Service) Packed(ctx context.Context, tx pgx.Tx, capture uuid.UUID) error {
	recordings, err := s.Holding(ctx, tx, capture)
	if err != nil {
		return err
	}
	for _, id := range recordings {
		if err := s.outdate(ctx, tx, id); err != nil {
			return err
		}
	}
	track, err := postgres.Value[uuid.UUID](ctx, tx, `select id from track where capture_id = $1 and role = 'main'`, capture)
	if err != nil {
		return fmt.Errorf("find the track of a capture: %w", err)
	}
	return s.Queue.Add(ctx, tx, Measure{Track: track})
}

// outdate sets the editions of a recording aside that do not hold what it is made of now.
func (s *Service) outdate(ctx context.Context, tx pgx.Tx, id uuid.UUID) error {
	old := uuid.Must(uuid.NewV7())
	const outdate = `with list as (
			insert into cut_list (id, recording_id, parent_id, struck, made_at) select $2, $1, $2, '{}', $3
			where exists (select 1 from edition where recording_id = $1) returning id)
		update edition set cut_list_id = list.id from list where recording_id = $1`
	if _, err := tx.Exec(ctx, outdate, id, old, s.Clock.Now()); err != nil {
		return fmt.Errorf("set editions aside that lack a part: %w", err)
	}
	// One that is being made would hold what nobody looked at before it was asked for.
	const unwant = `update recording r set wanted_edition_id = edition_id where id = $1
		and exists (select 1 from edition e where e.id = r.wanted_edition_id and e.state = 'making')`
	if _, err := tx.Exec(ctx, unwant, id); err != nil {
		return fmt.Errorf("want no edition that lacks a part: %w", err)
	}
	return nil
}
