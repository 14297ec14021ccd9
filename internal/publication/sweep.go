package publication

import (
	"context"
	"errors"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// sweepEditions removes the editions of a recording that nobody may see any more: those that are neither published
// nor wanted.
type sweepEditions struct {
	Recording uuid.UUID `json:"recording"`
}

// Kind names the job.
func (sweepEditions) Kind() string { return "sweep_editions" }

// InsertOpts says how it is queued.
func (sweepEditions) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Making, MaxAttempts: 10}
}

func (s *Service) sweepLater(ctx context.Context, tx pgx.Tx, recording uuid.UUID) error {
	return s.Queue.Add(ctx, tx, sweepEditions{Recording: recording})
}

// sweep marks what it removes first, so that a job which adds to an edition sees that it is gone.
func (s *Service) sweep(ctx context.Context, in sweepEditions, _ bool) error {
	var gone []uuid.UUID
	err := postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if err := recordings.Hold(ctx, tx, in.Recording); err != nil {
			return err
		}
		// Those that a sweep marked before, and was killed before it removed them, are removed again.
		const mark = `update edition e set state = 'removed' from recorded r
			where r.id = $1 and e.recording_id = r.id and e.state in ('ready', 'failed', 'removed')
			and e.id is distinct from r.edition_id and e.id is distinct from r.wanted_edition_id returning e.id`
		var err error
		gone, err = postgres.Values[uuid.UUID](ctx, tx, mark, in.Recording)
		if err != nil {
			return fmt.Errorf("mark editions that are removed: %w", err)
		}
		if _, err := tx.Exec(ctx, `delete from edition_copy where edition_id = any($1)`, gone); err != nil {
			return fmt.Errorf("forget the copies of editions: %w", err)
		}
		return nil
	})
	for _, id := range gone {
		err = errors.Join(err, s.Forget(id))
	}
	return err
}

// Forget removes the bytes of an edition.
func (s *Service) Forget(id uuid.UUID) error {
	s.editions.Remove(written{id, "plan.json"})
	s.editions.Remove(written{id, "small.json"})
	return s.Blobs.Delete(editionKey(id, ""))
}

// SourcesOf lists the keys of the packaged files of a track that editions have segments of.
func (s *Service) SourcesOf(ctx context.Context, track uuid.UUID) ([]string, error) {
	const holding = `select distinct e.id from edition e join recording_capture rc on rc.recording_id = e.recording_id
		join track t on t.capture_id = rc.capture_id where t.id = $1 and e.state = 'ready'`
	editions, err := postgres.Values[uuid.UUID](ctx, s.DB, holding, track)
	if err != nil {
		return nil, fmt.Errorf("find the editions of a track: %w", err)
	}
	var out []string
	for _, id := range editions {
		for _, read := range []func(context.Context, uuid.UUID) (*recordings.Presentation, error){s.Edition, s.Small} {
			p, err := read(ctx, id)
			if errors.Is(err, recordings.ErrNotReady) {
				continue
			}
			if err != nil {
				return nil, err
			}
			for _, r := range p.Renditions() {
				for _, t := range append([]recordings.Track{r.Track}, r.More...) {
					out = append(out, t.Source)
				}
			}
		}
	}
	return out, nil
}

// CopyKeys is where the copies lie that are taken away, by edition.
func (s *Service) CopyKeys(ctx context.Context) (map[uuid.UUID][]string, error) {
	rows, err := postgres.All[struct {
		EditionID uuid.UUID
		Kind      CopyKind
		About     []byte
	}](ctx, s.DB, `select c.edition_id, c.kind, c.about from edition_copy c join edition e on e.id = c.edition_id
		where e.state = 'ready' and c.state in ('making', 'ready')`)
	if err != nil {
		return nil, fmt.Errorf("list the copies of editions: %w", err)
	}
	out := make(map[uuid.UUID][]string, len(rows))
	for _, r := range rows {
		out[r.EditionID] = append(out[r.EditionID], copyKey(r.EditionID, r.Kind, r.About))
	}
	return out, nil
}

// standing reports whether an edition is there and was not removed.
func (s *Service) standing(ctx context.Context, id uuid.UUID) (bool, error) {
	there, err := postgres.Value[bool](ctx, s.DB,
		`select exists (select 1 from edition where id = $1 and state = 'ready')`, id)
	if err != nil {
		return false, fmt.Errorf("look whether an edition is there: %w", err)
	}
	return there, nil
}
