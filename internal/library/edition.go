package library

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"golang.org/x/sync/errgroup"

	"latelantern/internal/core/span"
	"latelantern/internal/core/splice"
	"latelantern/internal/format/fmp4"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/media"
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

type makeEdition struct {
	river.WorkerDefaults[MakeEdition]
	*Service
}

func (makeEdition) Timeout(*river.Job[MakeEdition]) time.Duration { return 30 * time.Minute }

func (w makeEdition) Work(ctx context.Context, job *river.Job[MakeEdition]) error {
	err := w.make(ctx, job.Args.Edition)
	if err != nil && job.Attempt >= job.MaxAttempts && ctx.Err() == nil {
		return errors.Join(err, w.finish(ctx, job.Args.Edition, 0, "unmade"))
	}
	return err
}

// Register adds the jobs of this package to kinds.
func (s *Service) Register(kinds *river.Workers) {
	river.AddWorker(kinds, makeEdition{Service: s})
	river.AddWorker(kinds, measure{Service: s})
}

// Ensure has the current cut list of a recording published, unless that is so already or
// under way. Its errors are ErrUnknown and ErrNotReady.
func (s *Service) Ensure(ctx context.Context, tx pgx.Tx, recording, by uuid.UUID) error {
	r, err := s.recording(ctx, tx, recording)
	if err != nil {
		return err
	}
	if r.State != "ready" {
		return ErrNotReady
	}
	if r.Current() {
		return nil
	}
	const query = `select id from edition where recording_id = $1 and cut_list_id is not distinct from $2 and state <> 'failed' order by asked_at desc limit 1`
	id, err := postgres.Value[uuid.UUID](ctx, tx, query, recording, r.CutListID)
	if err == nil {
		// An edition of these cuts exists: it becomes the published one again, now or when it is made.
		if _, err := tx.Exec(ctx, `update recording set edition_id = $2 where id = $1 and exists (select 1 from edition where id = $2 and state = 'ready')`, recording, id); err != nil {
			return fmt.Errorf("publish an edition again: %w", err)
		}
		return s.notify(ctx, tx, "edition", recording)
	}
	if !errors.Is(err, pgx.ErrNoRows) {
		return fmt.Errorf("look for an edition: %w", err)
	}
	id = uuid.Must(uuid.NewV7())
	const insert = `insert into edition (id, recording_id, cut_list_id, asked_by, asked_at) values ($1, $2, $3, $4, $5)`
	if _, err := tx.Exec(ctx, insert, id, recording, r.CutListID, by, s.Clock.Now()); err != nil {
		return fmt.Errorf("ask for an edition: %w", err)
	}
	if err := s.Queue.Add(ctx, tx, MakeEdition{Edition: id}); err != nil {
		return err
	}
	return s.notify(ctx, tx, "edition", recording)
}

func (s *Service) make(ctx context.Context, id uuid.UUID) error {
	const query = `select e.recording_id as recording, coalesce(c.struck, '{}'::int8multirange) as struck, e.state
		from edition e left join cut_list c on c.id = e.cut_list_id where e.id = $1`
	e, err := postgres.One[struct {
		Recording uuid.UUID
		Struck    multirange
		State     string
	}](ctx, s.DB, query, id)
	if errors.Is(err, pgx.ErrNoRows) || err == nil && e.State != "making" {
		return nil
	}
	if err != nil {
		return fmt.Errorf("read what edition to make: %w", err)
	}
	rendition, _, err := s.Splice(ctx, e.Recording, fromSQL(e.Struck), id)
	if err != nil {
		return fmt.Errorf("make an edition: %w", err)
	}
	plan, err := json.Marshal(rendition)
	if err != nil {
		return fmt.Errorf("write the plan of an edition: %w", err)
	}
	if err := s.Blobs.Put(editionKey(id, "plan.json"), bytes.NewReader(plan)); err != nil {
		return err
	}
	return s.finish(ctx, id, rendition.Length, "")
}

// finish keeps what became of an edition. The newest that is ready is the published one.
func (s *Service) finish(ctx context.Context, id uuid.UUID, length time.Duration, fault string) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const update = `update edition set state = case when $3 = '' then 'ready' else 'failed' end, fault = $3, length_ms = $2, ready_at = $4
			where id = $1 returning recording_id`
		recording, err := postgres.Value[uuid.UUID](ctx, tx, update, id, length.Milliseconds(), fault, s.Clock.Now())
		if err != nil {
			return fmt.Errorf("keep what became of an edition: %w", err)
		}
		const newest = `update recording set edition_id = (select id from edition where recording_id = $1 and state = 'ready' order by asked_at desc, id desc limit 1) where id = $1`
		if _, err := tx.Exec(ctx, newest, recording); err != nil {
			return fmt.Errorf("publish an edition: %w", err)
		}
		return s.notify(ctx, tx, "edition", recording)
	})
}

// Splice puts together what is kept of a recording under the id of an edition, and tells
// the processor time that encoding took.
func (s *Service) Splice(ctx context.Context, recording uuid.UUID, struck span.Set, id uuid.UUID) (*Rendition, time.Duration, error) {
	x, err := s.source(ctx, recording)
	if err != nil {
		return nil, 0, err
	}
	out := &Rendition{Ended: true}
	var cpu time.Duration
	if x.pictures != nil {
		kept := span.Of(span.Span{End: x.pictures.Index.Duration()}).Subtract(struck)
		plan, err := splice.Pictures(&x.pictures.Index, kept.Spans())
		if err != nil {
			return nil, 0, err
		}
		made, used, err := s.encode(ctx, x.pictures, x.picturesKey, plan)
		if err != nil {
			return nil, 0, err
		}
		cpu = used
		out.Pictures = newRail(x.pictures, x.picturesKey)
		if made.parameters != nil {
			if out.Pictures.Head, err = fmp4.WithParameters(out.Pictures.Head, *made.parameters); err != nil {
				return nil, 0, err
			}
		}
		if err := s.assemble(out.Pictures, x.pictures, x.picturesKey, plan, made.samples, editionKey(id, "pictures.mp4")); err != nil {
			return nil, 0, err
		}
		out.Stretches, out.Length = plan.Stretches, x.pictures.Index.Time(plan.Dur)
	}
	if x.sound != nil {
		if x.pictures == nil {
			var at time.Duration
			for _, k := range span.Of(span.Span{End: x.sound.Index.Duration()}).Subtract(struck).Spans() {
				out.Stretches = append(out.Stretches, splice.Stretch{Source: k, At: at})
				at += k.Len()
			}
			out.Length = at
		}
		plan, err := splice.Sound(&x.sound.Index, out.Stretches)
		switch {
		case errors.Is(err, splice.ErrNothing) && x.pictures != nil: // pictures without sound
		case err != nil:
			return nil, 0, err
		default:
			out.Sound = newRail(x.sound, x.soundKey)
			if err := s.assemble(out.Sound, x.sound, x.soundKey, plan, nil, editionKey(id, "sound.mp4")); err != nil {
				return nil, 0, err
			}
		}
	}
	return out, cpu, nil
}

// assemble makes the items of a rail and keeps the new segments under key.
func (s *Service) assemble(r *Rail, p *fmp4.Packed, source string, plan splice.Plan, made map[int][][]byte, key string) error {
	var pieces bytes.Buffer
	for i, step := range plan.Steps {
		it, data, err := s.place(p, source, step, made[i])
		if err != nil {
			return err
		}
		if it.Piece {
			it.Off = int64(pieces.Len())
			pieces.Write(data)
			r.Pieces = key
		}
		r.Items = append(r.Items, it)
	}
	if pieces.Len() == 0 {
		return nil
	}
	return s.Blobs.Put(key, &pieces)
}

// made is what was encoded anew: samples by step, and the one parameter set they share.
type made struct {
	samples    map[int][][]byte
	parameters *fmp4.Parameters
}

// encode makes the pictures around the cuts, two pieces at a time.
func (s *Service) encode(ctx context.Context, p *fmp4.Packed, key string, plan splice.Plan) (made, time.Duration, error) {
	own, err := fmp4.ParametersOf(p.Init.Raw)
	if err != nil {
		return made{}, 0, err
	}
	number, err := own.FreeID()
	if err != nil {
		return made{}, 0, err
	}
	type piece struct {
		step       int
		samples    [][]byte
		parameters fmp4.Parameters
		cpu        time.Duration
	}
	var pieces []*piece
	work, ctx := errgroup.WithContext(ctx)
	work.SetLimit(2)
	for i, step := range plan.Steps {
		if step.Kind != splice.Encode {
			continue
		}
		x := &piece{step: i}
		pieces = append(pieces, x)
		work.Go(func() (err error) {
			x.samples, x.parameters, x.cpu, err = s.piece(ctx, p, key, step, number)
			return err
		})
	}
	if err := work.Wait(); err != nil {
		return made{}, 0, err
	}
	out := made{samples: map[int][][]byte{}}
	var cpu time.Duration
	for _, x := range pieces {
		if out.parameters == nil {
			out.parameters = &x.parameters
		} else if !out.parameters.Equal(x.parameters) {
			return made{}, 0, errors.New("the pieces around the cuts differ in their parameter sets")
		}
		out.samples[x.step] = x.samples
		cpu += x.cpu
	}
	return out, cpu, nil
}

// piece encodes the pictures that one step shows. They are chosen by number, never by time.
func (s *Service) piece(ctx context.Context, p *fmp4.Packed, key string, step splice.Step, number int) ([][]byte, fmp4.Parameters, time.Duration, error) {
	segments := p.Index.Segments[step.First:step.Last]
	from, to := segments[0], segments[len(segments)-1]
	groups, err := s.Blobs.Range(key+".mp4", from.Off, to.Off+to.Len-from.Off)
	if err != nil {
		return nil, fmp4.Parameters{}, 0, err
	}
	base := p.Index.FrameFrom(p.Index.Samples[from.First].PTS)
	var out bytes.Buffer
	cpu, err := media.FFmpeg(ctx, media.Run{
		Limit:  2 * time.Minute,
		Before: []string{"-threads", "1"},
		Input:  media.Input{Format: media.MOV, Path: "pipe:0"},
		Stdin:  io.MultiReader(bytes.NewReader(p.Init.Raw), bytes.NewReader(groups)),
		Stdout: &out,
		Output: []string{
			"-an", "-vf", fmt.Sprintf("select='between(n,%d,%d)'", step.From-base, step.To-1-base), "-fps_mode", "passthrough", "-enc_time_base", "-1",
			"-c:v", "libx264", "-preset", "veryfast", "-crf", "20", "-bf", "0", "-g", "9999", "-sc_threshold", "0",
			"-x264-params", fmt.Sprintf("sps-id=%d", number), "-threads", "1", "-pix_fmt", "yuv420p", "-bsf:v", "filter_units=remove_types=6",
			"-f", "mp4", "-movflags", "+empty_moov+default_base_moof+frag_keyframe", "pipe:1",
		},
	})
	if err != nil {
		return nil, fmp4.Parameters{}, cpu, fmt.Errorf("encode around a cut: %w", err)
	}
	var samples [][]byte
	var parameters fmp4.Parameters
	err = fmp4.Read(&out, func(x fmp4.Init) (err error) {
		parameters, err = fmp4.ParametersOf(x.Raw)
		return err
	}, func(f fmp4.Fragment) error {
		for _, x := range f.Samples {
			samples = append(samples, f.Raw[x.Off:x.Off+int64(x.Size)])
		}
		return nil
	})
	if err != nil {
		return nil, parameters, cpu, fmt.Errorf("read what was encoded: %w", err)
	}
	if len(samples) != step.To-step.From {
		return nil, parameters, cpu, fmt.Errorf("%d pictures came back around a cut, and %d were wanted", len(samples), step.To-step.From)
	}
	return samples, parameters, cpu, nil
}
