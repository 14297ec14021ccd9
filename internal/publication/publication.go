// Package publication makes of a recording what others watch: its edition.
//
// It goes in three steps. Want says which edition of a recording is wanted (want.go); planOf says of which segments it
// consists (plan.go), by arithmetic alone; makePieces encodes the few that do not exist (pieces.go). Then compose puts
// it together, it is counted against its plan, and if it is still the one that is wanted it is the published one.
package publication

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"path"
	"time"

	"github.com/google/uuid"
	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/riverqueue/river"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/recordings"
)

// Service makes editions and copies. All its exported fields are needed; it is made by New. It may be used by many at
// once. A call whose context ends gives its error and has changed nothing.
type Service struct {
	DB         *pgxpool.Pool
	Blobs      blobs.Keeper
	Queue      *jobs.Queue
	Clock      clock.Clock
	Recordings *recordings.Reader

	editions *lru.Cache[written, *recordings.Presentation]
	carriers *lru.Cache[carried, cutlist.Carrier]
}

// New is the use-case over the given parts.
func New(db *pgxpool.Pool, queue *jobs.Queue, c clock.Clock, r *recordings.Reader) *Service {
	editions, err := lru.New[written, *recordings.Presentation](mostPlans)
	if err != nil {
		panic(err) // the size is positive
	}
	carriers, err := lru.New[carried, cutlist.Carrier](mostCarriers)
	if err != nil {
		panic(err) // the size is positive
	}
	return &Service{DB: db, Blobs: r.Blobs, Queue: queue, Clock: c, Recordings: r, editions: editions,
		carriers: carriers}
}

// State is what has become of an edition.
type State string

const (
	Making  State = "making"  // it was asked for
	Ready   State = "ready"   // it is whole, and never changes
	Failed  State = "failed"  // it could not be made
	Removed State = "removed" // it was replaced, and its bytes are gone; where its stretches lay is known
)

// Register adds the jobs of this package to kinds.
func (s *Service) Register(kinds *river.Workers) {
	jobs.Register(kinds,
		jobs.Kind[makeEdition]{Limit: 30 * time.Minute, Do: func(ctx context.Context, in makeEdition, last bool) error {
			err := s.make(ctx, in.Edition)
			if err != nil && last && ctx.Err() == nil {
				return errors.Join(err, s.finish(ctx, in.Edition, nil, "unmade"))
			}
			return err
		}})
	jobs.Register(kinds, jobs.Kind[sweepEditions]{Limit: 5 * time.Minute, Do: s.sweep})
	jobs.Register(kinds, jobs.Kind[makeCopy]{Limit: 2 * time.Hour, Do: s.makeCopy})
	jobs.Register(kinds, jobs.Kind[addSmall]{Limit: 30 * time.Minute, Do: s.addSmall})
}

// Edition is a recording as it was published. Its error is recordings.ErrNotReady when there is none.
func (s *Service) Edition(_ context.Context, id uuid.UUID) (*recordings.Presentation, error) {
	return s.presentation(written{id, "plan.json"})
}

// Small is the small copy of an edition: the same stretches at the same times, in small
// pictures and sound. Its error is recordings.ErrNotReady while there is none.
func (s *Service) Small(_ context.Context, edition uuid.UUID) (*recordings.Presentation, error) {
	return s.presentation(written{edition, "small.json"})
}

func editionKey(id uuid.UUID, name string) string { return path.Join("edition", id.String(), name) }

// written is where an edition, or its small copy, is written down.
type written struct {
	edition uuid.UUID
	name    string
}

// mostPlans is how many are remembered: an hour of lecture takes a third of a megabyte.
const mostPlans = 512

// presentation reads one that is kept. They never change.
func (s *Service) presentation(of written) (*recordings.Presentation, error) {
	if p, ok := s.editions.Get(of); ok {
		return p, nil
	}
	f, err := s.Blobs.Open(editionKey(of.edition, of.name))
	if errors.Is(err, blobs.ErrNotFound) {
		return nil, recordings.ErrNotReady
	}
	if err != nil {
		return nil, err
	}
	defer f.Close()
	var p recordings.Presentation
	if err := json.NewDecoder(f).Decode(&p); err != nil {
		return nil, fmt.Errorf("read an edition: %w", err)
	}
	s.editions.Add(of, &p)
	return &p, nil
}
