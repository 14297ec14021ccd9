package library

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"path"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/postgres"
)

// MakeEdition makes an edition: a recording as its cut list says.
type MakeEdition struct {
	Edition uuid.UUID `json:"edition"`
}

// Kind names the job.
func (MakeEdition) Kind() string { return "make_edition" }

// InsertOpts says how it is queued.
func (MakeEdition) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Making, MaxAttempts: 3}
}

// Register adds the jobs of this package to kinds.
func (s *Service) Register(kinds *river.Workers) {
	jobs.Register(kinds, jobs.Kind[MakeEdition]{Limit: 30 * time.Minute, Do: func(ctx context.Context, in MakeEdition, last bool) error {
		err := s.make(ctx, in.Edition)
		if err != nil && last && ctx.Err() == nil {
			return errors.Join(err, s.finish(ctx, in.Edition, nil, "unmade"))
		}
		return err
	}})
	jobs.Register(kinds, jobs.Kind[SweepEditions]{Limit: 5 * time.Minute, Do: s.sweep})
	jobs.Register(kinds, jobs.Kind[MakeCopy]{Limit: 2 * time.Hour, Do: s.makeCopy})
	jobs.Register(kinds, jobs.Kind[AddSmall]{Limit: 30 * time.Minute, Do: s.addSmall})
	jobs.Register(kinds, jobs.Kind[Measure]{Limit: 2 * time.Hour, Do: s.measureAll})
	jobs.Register(kinds, jobs.Kind[MeasureMore]{Limit: time.Minute, Do: s.measureMore})
	jobs.Register(kinds, jobs.Kind[FindTwins]{Limit: 10 * time.Minute, Do: s.findTwins})
}

// Ensure names the edition that is wanted: the one of the current cut list, which is made unless it is there. It
// becomes the published one now if it is whole, or else once it is, unless another is named meanwhile; until then
// what was published stays, if shown says that it is shown to anyone, and else nothing is. Its errors are ErrUnknown
// and ErrNotReady.
func (s *Service) Ensure(ctx context.Context, tx pgx.Tx, recording, by uuid.UUID, shown bool) error {
	// Whoever publishes at the same moment, and an edition that is ready, take turns.
	if _, err := tx.Exec(ctx, `select 1 from recording where id = $1 for update`, recording); err != nil {
		return fmt.Errorf("hold a recording: %w", err)
	}
	r, err := s.recording(ctx, tx, recording)
	if err != nil {
		return err
	}
	if r.State != "ready" {
		return ErrNotReady
	}
	const query = `select id, state from edition where recording_id = $1 and cut_list_id is not distinct from $2
		and state in ('making', 'ready') order by state = 'ready' desc, asked_at desc limit 1`
	type edition struct {
		ID    uuid.UUID
		State string
	}
	e, err := postgres.One[edition](ctx, tx, query, recording, r.CutListID)
	if errors.Is(err, pgx.ErrNoRows) {
		e = edition{uuid.Must(uuid.NewV7()), "making"}
		const insert = `insert into edition (id, recording_id, cut_list_id, asked_by, asked_at) values ($1, $2, $3, $4, $5)`
		if _, err := tx.Exec(ctx, insert, e.ID, recording, r.CutListID, by, s.Clock.Now()); err != nil {
			return fmt.Errorf("ask for an edition: %w", err)
		}
		err = s.Queue.Add(ctx, tx, MakeEdition{Edition: e.ID})
	}
	if err != nil {
		return fmt.Errorf("look for an edition: %w", err)
	}
	const want = `update recording set wanted_edition_id = $2, edition_id = case when $3 then $2::uuid when $4 then edition_id end
		where id = $1`
	if _, err := tx.Exec(ctx, want, recording, e.ID, e.State == "ready", shown); err != nil {
		return fmt.Errorf("name the edition that is wanted: %w", err)
	}
	if err := s.sweepLater(ctx, tx, recording); err != nil {
		return err
	}
	return s.Tell(ctx, tx, "edition", recording)
}

func (s *Service) make(ctx context.Context, id uuid.UUID) error {
	const query = `select e.recording_id as recording, coalesce(c.struck, '{}'::int8multirange) as struck, coalesce(c.led, '{}'::int8multirange) as led, e.state
		from edition e left join cut_list c on c.id = e.cut_list_id where e.id = $1`
	e, err := postgres.One[struct {
		Recording uuid.UUID
		Struck    multirange
		Led       multirange
		State     string
	}](ctx, s.DB, query, id)
	if errors.Is(err, pgx.ErrNoRows) || err == nil && e.State != "making" {
		return nil
	}
	if err != nil {
		return fmt.Errorf("read what edition to make: %w", err)
	}
	struck := fromSQL(e.Struck)
	rendition, _, err := s.Splice(ctx, e.Recording, struck, id)
	if err == nil {
		err = s.check(rendition)
	}
	if errors.Is(err, errMismatch) {
		slog.Warn("a publication does not hold what was planned, so all of it is encoded anew", "edition", id, "error", err)
		if rendition, err = s.spliceAnew(ctx, e.Recording, struck, id); err == nil {
			err = s.check(rendition)
		}
	}
	if err != nil {
		return fmt.Errorf("make an edition: %w", err)
	}
	if rendition.Second != nil {
		rendition.Led = cutlist.Carrier(rendition.Stretches).Set(fromSQL(e.Led)).Spans()
	}
	if rendition.Gain, err = s.GainOf(ctx, e.Recording, rendition); err != nil {
		return fmt.Errorf("make an edition: %w", err)
	}
	plan, err := json.Marshal(rendition)
	if err != nil {
		return fmt.Errorf("write the plan of an edition: %w", err)
	}
	if err := s.Blobs.Put(editionKey(id, "plan.json"), bytes.NewReader(plan)); err != nil {
		return err
	}
	return s.finish(ctx, id, rendition, "")
}

// finish keeps what became of an edition. It becomes the published one if it is the one that is wanted, and whole;
// otherwise what was published stays.
func (s *Service) finish(ctx context.Context, id uuid.UUID, made *Rendition, fault string) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const hold = `select r.id from recording r join edition e on e.recording_id = r.id where e.id = $1 for update of r`
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
		const update = `update edition set state = case when $3 = '' then 'ready' else 'failed' end, fault = $3, length_ms = $2,
			ready_at = $4, stretches = $5 where id = $1`
		if _, err := tx.Exec(ctx, update, id, length, fault, s.Clock.Now(), stretches); err != nil {
			return fmt.Errorf("keep what became of an edition: %w", err)
		}
		if fault == "" {
			const publish = `update recording set edition_id = $2 where id = $1 and wanted_edition_id = $2`
			if _, err := tx.Exec(ctx, publish, recording, id); err != nil {
				return fmt.Errorf("publish an edition: %w", err)
			}
			if err := s.Queue.Add(ctx, tx, AddSmall{Edition: id}); err != nil {
				return err
			}
		}
		if err := s.sweepLater(ctx, tx, recording); err != nil {
			return err
		}
		return s.Tell(ctx, tx, "edition", recording)
	})
}

// Edition is a recording as it was published. Editions never change.
func (s *Service) Edition(_ context.Context, id uuid.UUID) (*Rendition, error) {
	return s.rendition(editionKey(id, "plan.json"))
}

func editionKey(id uuid.UUID, name string) string { return path.Join("edition", id.String(), name) }
