package library

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"latelantern/internal/core/span"
	"latelantern/internal/core/splice"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/postgres"
)

// AddSmall puts the small copy of an edition beside it, once there is one of all its parts.
type AddSmall struct {
	Edition uuid.UUID `json:"edition"`
}

// Kind names the job.
func (AddSmall) Kind() string { return "add_small" }

// InsertOpts says how it is queued.
func (AddSmall) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Making, MaxAttempts: 3, Priority: 4}
}

// Smaller has the published edition of a capture's recording given its small copy.
func (s *Service) Smaller(ctx context.Context, tx pgx.Tx, capture uuid.UUID) error {
	const query = `select distinct r.edition_id from recording r join recording_capture rc on rc.recording_id = r.id where rc.capture_id = $1 and r.edition_id is not null`
	rows, err := tx.Query(ctx, query, capture)
	if err != nil {
		return fmt.Errorf("find the editions of a capture: %w", err)
	}
	editions, err := pgx.CollectRows(rows, pgx.RowTo[uuid.UUID])
	if err != nil {
		return fmt.Errorf("find the editions of a capture: %w", err)
	}
	for _, id := range editions {
		if err := s.Queue.Add(ctx, tx, AddSmall{Edition: id}); err != nil {
			return err
		}
	}
	return nil
}

// Small is the small copy of an edition: the same stretches at the same times, in small
// pictures and sound. Its error is ErrNotReady while there is none.
func (s *Service) Small(_ context.Context, edition uuid.UUID) (*Rendition, error) {
	return s.rendition(editionKey(edition, "small.json"))
}

// rendition reads a plan. Plans never change.
func (s *Service) rendition(key string) (*Rendition, error) {
	if r, ok := s.editions.Get(key); ok {
		return r, nil
	}
	f, err := s.Blobs.Open(key)
	if errors.Is(err, blobs.ErrNotFound) {
		return nil, ErrNotReady
	}
	if err != nil {
		return nil, err
	}
	defer f.Close()
	var r Rendition
	if err := json.NewDecoder(f).Decode(&r); err != nil {
		return nil, fmt.Errorf("read an edition: %w", err)
	}
	s.editions.Add(key, &r)
	return &r, nil
}

func (s *Service) addSmall(ctx context.Context, in AddSmall, _ bool) error {
	id := in.Edition
	if there, err := s.standing(ctx, id); err != nil || !there {
		return err
	}
	edition, err := s.Edition(ctx, id)
	if errors.Is(err, ErrNotReady) {
		return nil // it will ask again when it is made
	}
	if err != nil {
		return err
	}
	recording, err := postgres.Value[uuid.UUID](ctx, s.DB, `select recording_id from edition where id = $1`, id)
	if err != nil {
		return fmt.Errorf("find the recording of an edition: %w", err)
	}
	x, err := s.source(ctx, recording)
	if err != nil {
		return err
	}
	e := splicing{s: s, out: &Rendition{Ended: true, Length: edition.Length, Stretches: edition.Stretches}}
	keep := func(name string) func(int) string {
		return func(n int) string { return editionKey(id, fmt.Sprintf("small-%s-%d.mp4", name, n)) }
	}
	pictures, sound := s.laying(black(), keep("pictures")), s.laying(silence(), keep("sound"))
	for _, stretch := range edition.Stretches {
		p, ok := x.partAt(stretch.Source.Start)
		if !ok || p.pictures != nil && p.smallPictures == nil || p.sound != nil && p.smallSound == nil {
			return nil // the job of the part that is still missing asks again
		}
		at := span.Span{Start: stretch.Source.Start - p.start, End: stretch.Source.End - p.start}
		if p.smallPictures != nil {
			if err := e.stretch(ctx, pictures, p.smallPictures, at, stretch.At); err != nil {
				return err
			}
		}
		if p.smallSound != nil {
			plan, err := splice.Sound(&p.smallSound.Index, []splice.Stretch{{Source: at}})
			if err == nil {
				err = e.lay(ctx, sound, p.smallSound, plan, stretch.At)
			}
			if err != nil && !errors.Is(err, splice.ErrNothing) {
				return err
			}
		}
	}
	for _, l := range []*laying{pictures, sound} {
		if err := l.fill(edition.Length, true); err != nil {
			return err
		}
	}
	if e.out.Pictures, err = pictures.done(); err != nil {
		return err
	}
	if e.out.Sound, err = sound.done(); err != nil {
		return err
	}
	plan, err := json.Marshal(e.out)
	if err != nil {
		return fmt.Errorf("write the plan of a small copy: %w", err)
	}
	if err := s.Blobs.Put(editionKey(id, "small.json"), bytes.NewReader(plan)); err != nil {
		return err
	}
	if there, err := s.standing(ctx, id); err != nil || !there {
		return errors.Join(err, s.removeEdition(id)) // it was removed meanwhile, and so is this
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error { return s.Tell(ctx, tx, "edition", recording) })
}

// partAt is the part that is shown at a moment of the recording.
func (x source) partAt(t time.Duration) (part, bool) {
	for _, piece := range x.laid {
		if piece.At.Contains(t) {
			return x.parts[piece.Part], true
		}
	}
	return part{}, false
}
