package publication

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/event"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// makeEdition makes an edition: a recording as its cut list says.
type makeEdition struct {
	Edition uuid.UUID `json:"edition"`
}

// Kind names the job.
func (makeEdition) Kind() string { return "make_edition" }

// InsertOpts says how it is queued.
func (makeEdition) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Making, MaxAttempts: 3}
}

// Want names the edition that is wanted: the one of the current cut list, which is made unless it is there. It
// becomes the published one now if it is whole, or else once it is, unless another is named meanwhile; until then
// what was published stays, if shown says that it is shown to anyone, and else nothing is. Its errors are
// recordings.ErrUnknown and recordings.ErrNotReady.
func (s *Service) Want(ctx context.Context, tx pgx.Tx, recording, by uuid.UUID, shown bool) error {
	// Whoever publishes at the same moment, and an edition that is ready, take turns.
	if err := recordings.Hold(ctx, tx, recording); err != nil {
		return err
	}
	r, err := s.Recordings.In(ctx, tx, recording)
	if err != nil {
		return err
	}
	if r.State != "ready" {
		return recordings.ErrNotReady
	}
	id, state, err := s.editionOf(ctx, tx, r, by)
	if err != nil {
		return err
	}
	const want = `insert into recording_edition as x (recording_id, wanted_edition_id, edition_id)
		values ($1, $2, case when $3 then $2::uuid end)
		on conflict (recording_id)
		do update set wanted_edition_id = $2, edition_id = case when $3 then $2::uuid when $4 then x.edition_id end`
	if _, err := tx.Exec(ctx, want, recording, id, state == Ready, shown); err != nil {
		return fmt.Errorf("name the edition that is wanted: %w", err)
	}
	if err := s.sweepLater(ctx, tx, recording); err != nil {
		return err
	}
	return recordings.Tell(ctx, tx, event.Edition, recording)
}

// editionOf is the edition of the current cut list of a recording, ready or asked for.
func (s *Service) editionOf(ctx context.Context, tx pgx.Tx, r recordings.Recording,
	by uuid.UUID) (uuid.UUID, State, error) {
	const query = `select id, state from edition where recording_id = $1 and cut_list_id is not distinct from $2
		and not outdated and state in ('making', 'ready') order by state = 'ready' desc, asked_at desc limit 1`
	e, err := postgres.One[struct {
		ID    uuid.UUID
		State State
	}](ctx, tx, query, r.ID, r.CutListID)
	if err == nil {
		return e.ID, e.State, nil
	}
	if !errors.Is(err, pgx.ErrNoRows) {
		return uuid.Nil, "", fmt.Errorf("look for an edition: %w", err)
	}
	id := uuid.Must(uuid.NewV7())
	const insert = `insert into edition (id, recording_id, cut_list_id, asked_by, asked_at) values ($1, $2, $3, $4, $5)`
	if _, err := tx.Exec(ctx, insert, id, r.ID, r.CutListID, by, s.Clock.Now()); err != nil {
		return id, "", fmt.Errorf("ask for an edition: %w", err)
	}
	return id, Making, s.Queue.Add(ctx, tx, makeEdition{Edition: id})
}

// Outdate sets the editions of a recording aside that do not hold what it is made of now: the next step is to publish
// again.
func (s *Service) Outdate(ctx context.Context, tx pgx.Tx, recording uuid.UUID) error {
	if _, err := tx.Exec(ctx, `update edition set outdated = true where recording_id = $1`, recording); err != nil {
		return fmt.Errorf("set editions aside that lack a part: %w", err)
	}
	// One that is being made would hold what nobody looked at before it was asked for.
	const unwant = `update recording_edition r set wanted_edition_id = edition_id where recording_id = $1
		and exists (select 1 from edition e where e.id = r.wanted_edition_id and e.state = 'making')`
	if _, err := tx.Exec(ctx, unwant, recording); err != nil {
		return fmt.Errorf("want no edition that lacks a part: %w", err)
	}
	return nil
}

// wanted is an edition that was asked for: what it is to hold.
type wanted struct {
	ID        uuid.UUID
	Recording uuid.UUID
	Struck    span.Set
	Led       span.Set // where of two videos the second leads
	State     State
}

// wantedBy reads what an edition is to hold; its state is "" when it is not there.
func (s *Service) wantedBy(ctx context.Context, id uuid.UUID) (wanted, error) {
	const query = `select e.recording_id as recording, coalesce(c.struck, '{}'::int8multirange) as struck,
			coalesce(c.led, '{}'::int8multirange) as led, e.state
		from edition e left join cut_list c on c.id = e.cut_list_id where e.id = $1`
	x, err := postgres.One[struct {
		Recording   uuid.UUID
		Struck, Led postgres.Multirange
		State       State
	}](ctx, s.DB, query, id)
	if errors.Is(err, pgx.ErrNoRows) {
		return wanted{ID: id}, nil
	}
	if err != nil {
		return wanted{}, fmt.Errorf("read what edition to make: %w", err)
	}
	return wanted{ID: id, Recording: x.Recording, Struck: postgres.Set(x.Struck), Led: postgres.Set(x.Led),
		State: x.State}, nil
}

// make makes an edition that was asked for, keeps it, and publishes it if it is still the one that is wanted.
func (s *Service) make(ctx context.Context, id uuid.UUID) error {
	w, err := s.wantedBy(ctx, id)
	if err != nil || w.State != Making {
		return err
	}
	source, err := s.Recordings.Source(ctx, w.Recording)
	if err != nil {
		return fmt.Errorf("make an edition: %w", err)
	}
	made, _, err := s.splice(ctx, source, w.Struck, id, false)
	if errors.Is(err, errMismatch) {
		slog.Warn("an edition does not hold what was planned, so all of it is encoded anew", "edition", id, "error",
			err)
		made, _, err = s.splice(ctx, source, w.Struck, id, true)
	}
	if err != nil {
		return fmt.Errorf("make an edition: %w", err)
	}
	if made.SecondVideo != nil {
		made.Led = cutlist.Carrier(made.Stretches).Set(w.Led).Spans()
	}
	if made.Gain, err = s.Recordings.GainOf(ctx, w.Recording, made); err != nil {
		return fmt.Errorf("make an edition: %w", err)
	}
	if err := s.keep(editionKey(id, "plan.json"), made); err != nil {
		return err
	}
	return s.finish(ctx, id, made, "")
}

// keep writes a presentation under a key.
func (s *Service) keep(key string, p *recordings.Presentation) error {
	b, err := json.Marshal(p)
	if err != nil {
		return fmt.Errorf("write an edition: %w", err)
	}
	return s.Blobs.Put(key, bytes.NewReader(b))
}

// splice goes from what is wanted of a source over plan and pieces to what can be watched, around the cuts alone or all
// of it encoded anew, and counts it. Its error is errMismatch when it does not hold what was planned.
func (s *Service) splice(
	ctx context.Context, source recordings.Source, struck span.Set, edition uuid.UUID, anew bool,
) (*recordings.Presentation, time.Duration, error) {
	plan, err := planOf(source, struck, anew)
	if err != nil {
		return nil, 0, err
	}
	pieces, cpu, err := s.makePieces(ctx, edition, "", plan)
	if err != nil {
		return nil, cpu, err
	}
	made, err := s.compose(edition, "", plan, pieces)
	if err != nil {
		return nil, cpu, err
	}
	return made, cpu, s.check(made)
}

// finish keeps what became of an edition. It becomes the published one if it is the one that is wanted, and whole;
// otherwise what was published stays.
func (s *Service) finish(ctx context.Context, id uuid.UUID, made *recordings.Presentation, fault string) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const hold = `select r.id from recording r join edition e on e.recording_id = r.id
			where e.id = $1 for no key update of r`
		recording, err := postgres.Value[uuid.UUID](ctx, tx, hold, id)
		if errors.Is(err, pgx.ErrNoRows) {
			return nil // the recording was removed for good meanwhile
		}
		if err != nil {
			return fmt.Errorf("hold the recording of an edition: %w", err)
		}
		length, stretches := int64(0), []byte(nil)
		if made != nil {
			length = made.Length.Milliseconds()
			if stretches, err = json.Marshal(made.Stretches); err != nil {
				return fmt.Errorf("write the stretches of an edition: %w", err)
			}
		}
		state := Ready
		if fault != "" {
			state = Failed
		}
		const update = `update edition set state = $6, fault = $3, length_ms = $2, ready_at = $4, stretches = $5
			where id = $1`
		if _, err := tx.Exec(ctx, update, id, length, fault, s.Clock.Now(), stretches, state); err != nil {
			return fmt.Errorf("keep what became of an edition: %w", err)
		}
		if state == Ready {
			const publish = `update recording_edition set edition_id = $2
				where recording_id = $1 and wanted_edition_id = $2`
			if _, err := tx.Exec(ctx, publish, recording, id); err != nil {
				return fmt.Errorf("publish an edition: %w", err)
			}
			if err := s.Queue.Add(ctx, tx, addSmall{Edition: id}); err != nil {
				return err
			}
		}
		if err := s.sweepLater(ctx, tx, recording); err != nil {
			return err
		}
		return recordings.Tell(ctx, tx, event.Edition, recording)
	})
}
