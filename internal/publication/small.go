package publication

import (
	"context"
	"errors"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/event"
	"latelantern/internal/core/span"
	"latelantern/internal/core/splice"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// addSmall puts the small copy of an edition beside it, once there is one of all its parts.
type addSmall struct {
	Edition uuid.UUID `json:"edition"`
}

// Kind names the job.
func (addSmall) Kind() string { return "add_small" }

// InsertOpts says how it is queued.
func (addSmall) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Making, MaxAttempts: 3, Priority: 4}
}

// Smaller has the published edition of a capture's recording given its small copy.
func (s *Service) Smaller(ctx context.Context, tx pgx.Tx, capture uuid.UUID) error {
	const query = `select distinct r.edition_id from recording_edition r
		join recording_capture rc on rc.recording_id = r.recording_id
		where rc.capture_id = $1 and r.edition_id is not null`
	editions, err := postgres.Values[uuid.UUID](ctx, tx, query, capture)
	if err != nil {
		return fmt.Errorf("find the editions of a capture: %w", err)
	}
	for _, id := range editions {
		if err := s.Queue.Add(ctx, tx, addSmall{Edition: id}); err != nil {
			return err
		}
	}
	return nil
}

func (s *Service) addSmall(ctx context.Context, in addSmall, _ bool) error {
	id := in.Edition
	if there, err := s.standing(ctx, id); err != nil || !there {
		return err
	}
	edition, err := s.Edition(ctx, id)
	if errors.Is(err, recordings.ErrNotReady) {
		return nil // it will ask again when it is made
	}
	if err != nil {
		return err
	}
	recording, err := postgres.Value[uuid.UUID](ctx, s.DB, `select recording_id from edition where id = $1`, id)
	if err != nil {
		return fmt.Errorf("find the recording of an edition: %w", err)
	}
	source, err := s.Recordings.Source(ctx, recording)
	if err != nil {
		return err
	}
	plan, err := smallPlan(source, edition)
	if errors.Is(err, recordings.ErrNotReady) {
		return nil // the job of the part that is still missing asks again
	}
	if err != nil {
		return err
	}
	pieces, _, err := s.makePieces(ctx, id, smallPrefix, plan)
	if err != nil {
		return err
	}
	made, err := s.compose(id, smallPrefix, plan, pieces)
	if err != nil {
		return err
	}
	if err := s.keep(editionKey(id, "small.json"), made); err != nil {
		return err
	}
	if there, err := s.standing(ctx, id); err != nil || !there {
		return errors.Join(err, s.Forget(id)) // it was removed meanwhile, and so is this
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error { return recordings.Tell(ctx, tx, event.Edition, recording) })
}

// smallPrefix begins the names of what is made for the small copy of an edition.
const smallPrefix = "small-"

// smallPlan says of which segments of the small copies of its parts that of an edition consists: the same stretches at
// the same times. Its error is recordings.ErrNotReady while a part has no small copy.
func smallPlan(source recordings.Source, edition *recordings.Presentation) (plan, error) {
	out := plan{length: edition.Length, stretches: edition.Stretches, filled: [3]bool{video: true, audio: true}}
	for _, x := range edition.Stretches {
		p, ok := source.PartAt(x.Source.Start)
		if !ok || p.Video != nil && p.SmallVideo == nil || p.Audio != nil && p.SmallAudio == nil {
			return out, recordings.ErrNotReady
		}
		at := span.Span{Start: x.Source.Start - p.Start, End: x.Source.End - p.Start}
		if p.SmallVideo != nil {
			r, err := stretch(video, p.SmallVideo, at, x.At)
			if err == nil {
				r.anew = dearer(r.track, r.steps)
				out.runs = append(out.runs, r)
			} else if !errors.Is(err, splice.ErrNothing) {
				return out, err
			}
		}
		if p.SmallAudio != nil {
			steps, err := splice.Sound(&p.SmallAudio.Index, []cutlist.Stretch{{Source: at}})
			if err == nil {
				out.runs = append(out.runs, run{in: audio, track: p.SmallAudio, at: x.At, steps: steps})
			} else if !errors.Is(err, splice.ErrNothing) {
				return out, err
			}
		}
	}
	return out, nil
}
