package capture

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"latelantern/internal/core/event"
	"latelantern/internal/core/watchdog"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/postgres"
)

// GiveUp ends every capture to which nothing comes any more, where it stands, and says how
// many. What comes all the same afterwards is taken: see resume.
func (s *Service) GiveUp(ctx context.Context) (ended int, err error) {
	type row struct {
		Track  uuid.UUID
		EndsAt time.Time
		Last   time.Time
	}
	const query = `select t.id as track, l.ends_at, t.arrived_at as last from track t
		join capture c on c.id = t.capture_id join lecture l on l.id = c.lecture_id
		where c.source <> 'file' and c.stopped_at is null and t.length is null order by c.started_at`
	list, err := postgres.All[row](ctx, s.DB, query)
	if err != nil {
		return 0, fmt.Errorf("list captures under way: %w", err)
	}
	for _, r := range list {
		now := s.Clock.Now()
		if !watchdog.GivenUp(r.EndsAt, r.Last, now) {
			if silent := now.Sub(r.Last); silent >= watchdog.BrokenAfter && silent < watchdog.BrokenAfter+2*lookEvery {
				if err := s.tell(ctx, event.Capture, r.Track); err != nil {
					return ended, err
				}
			}
			continue
		}
		err := s.giveUp(ctx, r.Track)
		if errors.Is(err, errCame) {
			continue
		}
		if err != nil {
			return ended, fmt.Errorf("end a capture to which nothing comes: %w", err)
		}
		ended++
	}
	return ended, nil
}

// lookEvery is about how often captures are looked after: an event more or less does no harm.
const lookEvery = 15 * time.Second

// tell is notify by itself.
func (s *Service) tell(ctx context.Context, about event.Kind, track uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error { return s.notify(ctx, tx, about, track) })
}

// forget removes the bytes of captures, and then that there were any.
func (s *Service) forget(ctx context.Context, tx pgx.Tx, captures []uuid.UUID) error {
	tracks, err := postgres.Values[uuid.UUID](ctx, tx, `select id from track where capture_id = any($1)`, captures)
	if err != nil {
		return fmt.Errorf("find the tracks of captures: %w", err)
	}
	for _, t := range tracks {
		if err := errors.Join(s.Blobs.Delete(logKey(t)), s.Blobs.Delete("pack/"+t.String())); err != nil {
			return err
		}
	}
	if _, err := tx.Exec(ctx, `delete from capture where id = any($1)`, captures); err != nil {
		return fmt.Errorf("forget captures: %w", err)
	}
	return nil
}

// Look is the job of looking for captures that are over, though nobody stopped them, and for
// originals and recordings in the bin whose time is over.
type Look struct{}

// Kind implements river.JobArgs.
func (Look) Kind() string { return "look_for_silent_captures" }

// InsertOpts implements river.JobArgsWithInsertOpts.
func (Look) InsertOpts() river.InsertOpts { return jobs.Looking }

func (s *Service) lookAfter(ctx context.Context, _ Look, _ bool) error {
	_, err := s.GiveUp(ctx)
	_, cleared := s.ClearOriginals(ctx)
	_, binned := s.Recordings.ClearBin(ctx, s.forget)
	return errors.Join(err, cleared, binned)
}

var errCame = errors.New("something came after all")

func (s *Service) giveUp(ctx context.Context, track uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		now := s.Clock.Now()
		t, err := postgres.One[struct {
			EndsAt time.Time
			Last   time.Time
			Length *int64
		}](ctx, tx, `select l.ends_at, t.arrived_at as last, t.length from track t join capture c on c.id = t.capture_id
			join lecture l on l.id = c.lecture_id where t.id = $1 for no key update of t`, track)
		if err != nil {
			return err
		}
		if t.Length != nil || !watchdog.GivenUp(t.EndsAt, t.Last, now) {
			return errCame
		}
		if _, err := tx.Exec(ctx, `update track set length = stored, given_up = true where id = $1`,
			track); err != nil {
			return err
		}
		if err := s.complete(ctx, tx, track); err != nil {
			return err
		}
		return s.notify(ctx, tx, event.Capture, track)
	})
}

// resume takes a capture that was given up under way again, since more of it came. It is
// packaged anew from its beginning; until that has caught up, what there was is watched.
func (s *Service) resume(ctx context.Context, tx pgx.Tx, track uuid.UUID) error {
	const again = `with c as (update capture set stopped_at = null
		where id = (select capture_id from track where id = $1))
		update track set length = null, given_up = false, state = 'waiting', fault = '' where id = $1`
	if _, err := tx.Exec(ctx, again, track); err != nil {
		return fmt.Errorf("take up a capture again: %w", err)
	}
	return s.Queue.Add(ctx, tx, packLive{Track: track})
}
