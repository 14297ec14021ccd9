package library

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"time"

	"github.com/google/uuid"
	"golang.org/x/sync/errgroup"

	"latelantern/internal/core/reel"
	"latelantern/internal/core/span"
	"latelantern/internal/core/splice"
	"latelantern/internal/format/fmp4"
	"latelantern/internal/platform/media"
)

// Splice puts together what is kept of a recording under the id of an edition, and tells
// the processor time that encoding took. Where nothing was captured there is nothing to keep.
func (s *Service) Splice(ctx context.Context, recording uuid.UUID, struck span.Set, id uuid.UUID) (*Rendition, time.Duration, error) {
	x, err := s.source(ctx, recording)
	if err != nil {
		return nil, 0, err
	}
	return s.splice(ctx, x, struck, id, false)
}

// spliceAnew is Splice with all of it encoded anew.
func (s *Service) spliceAnew(ctx context.Context, recording uuid.UUID, struck span.Set, id uuid.UUID) (*Rendition, error) {
	x, err := s.source(ctx, recording)
	if err != nil {
		return nil, err
	}
	r, _, err := s.splice(ctx, x, struck, id, true)
	return r, err
}

// splice puts together what is kept of a source, around the cuts alone or all of it encoded anew.
func (s *Service) splice(ctx context.Context, x source, struck span.Set, id uuid.UUID, anew bool) (*Rendition, time.Duration, error) {
	var err error
	e := splicing{s: s, id: id, anew: anew, out: &Rendition{Ended: true}}
	keep := func(name string) func(int) string {
		return func(n int) string {
			if n == 0 {
				return editionKey(id, name+".mp4")
			}
			return editionKey(id, fmt.Sprintf("%s-%d.mp4", name, n))
		}
	}
	e.pictures, e.second, e.sound = s.laying(black(), keep("pictures")), s.laying(black(), keep("second")), s.laying(silence(), keep("sound"))
	kept := reel.Covered(x.laid).Subtract(struck)
	for _, piece := range x.laid {
		local := reel.Within(piece, x.times, kept).Spans()
		if len(local) == 0 {
			continue
		}
		if err := e.add(ctx, x.parts[piece.Part], local); err != nil && !errors.Is(err, splice.ErrNothing) {
			return nil, 0, err
		}
	}
	if e.at == 0 {
		return nil, 0, splice.ErrNothing
	}
	e.out.Length = e.at
	for _, l := range []struct {
		*laying
		to **Rail
	}{{e.pictures, &e.out.Pictures}, {e.second, &e.out.Second}, {e.sound, &e.out.Sound}} {
		// A rail that ends a little early is usual; one that the last part does not have is filled.
		if len(x.parts) > 1 || l.laying == e.second {
			if err := l.fill(e.at, true); err != nil {
				return nil, 0, err
			}
		}
		if *l.to, err = l.done(); err != nil {
			return nil, 0, err
		}
	}
	return e.out, e.cpu, nil
}

// splicing puts a rendition together part by part.
type splicing struct {
	s                       *Service
	out                     *Rendition
	pictures, second, sound *laying
	at                      time.Duration // published so far
	cpu                     time.Duration
	id                      uuid.UUID // of the edition
	anew                    bool      // all of it is encoded
	encoded                 int       // tracks that were
}

// add lays what is kept of one piece, on the clock of its part.
func (e *splicing) add(ctx context.Context, p part, kept []span.Span) error {
	var stretches []splice.Stretch
	var length time.Duration
	if p.pictures != nil {
		plan, err := splice.Pictures(&p.pictures.Index, kept)
		if err != nil {
			return err
		}
		if err := e.lay(ctx, e.pictures, p.pictures, plan, e.at); err != nil {
			return err
		}
		stretches, length = plan.Stretches, p.pictures.Index.Time(plan.Dur)
	} else {
		for _, k := range kept {
			stretches = append(stretches, splice.Stretch{Source: k, At: length})
			length += k.Len()
		}
	}
	if p.sound != nil {
		plan, err := splice.Sound(&p.sound.Index, stretches)
		if err == nil {
			err = e.lay(ctx, e.sound, p.sound, plan, e.at)
		}
		if err != nil && !(errors.Is(err, splice.ErrNothing) && p.pictures != nil) { // pictures without sound
			return err
		}
	}
	if p.second != nil {
		if err := e.beside(ctx, p, stretches); err != nil {
			return err
		}
	}
	for _, x := range stretches {
		e.out.Stretches = append(e.out.Stretches, splice.Stretch{Source: span.Span{Start: p.start + x.Source.Start, End: p.start + x.Source.End}, At: e.at + x.At})
	}
	e.at += length
	return nil
}

// beside lays the second pictures of a piece stretch by stretch where the first ones are, so
// that they stay in step however many cuts there are.
func (e *splicing) beside(ctx context.Context, p part, stretches []splice.Stretch) error {
	for _, x := range stretches {
		at := span.Span{Start: max(0, x.Source.Start-p.lag), End: min(p.second.Index.Duration(), x.Source.End-p.lag)}
		if at.Empty() {
			continue
		}
		if err := e.stretch(ctx, e.second, p.second, at, e.at+x.At+max(0, p.lag-x.Source.Start)); err != nil {
			return err
		}
	}
	return nil
}

// stretch lays one stretch of a track from a published time on; it is snapped to the pictures
// of that track.
func (e *splicing) stretch(ctx context.Context, l *laying, t *packedTrack, at span.Span, from time.Duration) error {
	at.End = min(at.End, t.Index.Duration())
	if at.Empty() {
		return nil
	}
	plan, err := splice.Pictures(&t.Index, []span.Span{at})
	if errors.Is(err, splice.ErrNothing) {
		return nil
	}
	if err != nil {
		return err
	}
	return e.lay(ctx, l, t, plan, from+max(0, plan.Stretches[0].Source.Start-at.Start))
}

// lay lays the steps of a plan from a published time on. What is encoded anew
// for one piece may differ in its parameters from what is for another: then each has its reel.
func (e *splicing) lay(ctx context.Context, l *laying, t *packedTrack, plan splice.Plan, from time.Duration) error {
	if e.anew || t.Init.Width > 0 && dearer(t, plan) {
		return e.layAnew(ctx, l, t, plan.Stretches, from)
	}
	r := t.reel()
	var made made
	if t.Init.Width > 0 {
		var err error
		var cpu time.Duration
		if made, cpu, err = e.s.encode(ctx, t, plan); err != nil {
			return err
		}
		e.cpu += cpu
		if made.parameters != nil {
			if r.Head, err = fmp4.WithParameters(r.Head, *made.parameters); err != nil {
				return err
			}
			r.Added = true
		}
	}
	reel := -1
	for i, step := range plan.Steps {
		at := from + t.Index.Time(step.Out)
		step.Out += t.Index.Ticks(from)
		it, data, err := e.s.place(t, step, made.samples[i])
		if err != nil {
			return err
		}
		if i == 0 {
			if err := l.fill(at, true); err != nil {
				return err
			}
			reel = l.reel(r)
		}
		l.add(it, reel, at, data)
	}
	return nil
}

// made is what was encoded anew: samples by step, and the one parameter set they share.
type made struct {
	samples    map[int][][]byte
	parameters *fmp4.Parameters
}

// encode makes the pictures around the cuts, two pieces at a time.
func (s *Service) encode(ctx context.Context, t *packedTrack, plan splice.Plan) (made, time.Duration, error) {
	own, err := fmp4.ParametersOf(t.Init.Raw)
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
			x.samples, x.parameters, x.cpu, err = s.piece(ctx, t, step, number)
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
			return made{}, 0, fmt.Errorf("%w: the pieces around the cuts differ in their parameter sets", errMismatch)
		}
		out.samples[x.step] = x.samples
		cpu += x.cpu
	}
	return out, cpu, nil
}

// piece encodes the pictures that one step shows. They are chosen by number, never by time.
func (s *Service) piece(ctx context.Context, t *packedTrack, step splice.Step, number int) ([][]byte, fmp4.Parameters, time.Duration, error) {
	segments := t.Index.Segments[step.First:step.Last]
	from, to := segments[0], segments[len(segments)-1]
	groups, err := s.Blobs.Range(t.key+".mp4", from.Off, to.Off+to.Len-from.Off)
	if err != nil {
		return nil, fmp4.Parameters{}, 0, err
	}
	base := t.Index.FrameFrom(t.Index.Samples[from.First].PTS)
	var out bytes.Buffer
	cpu, err := media.FFmpeg(ctx, media.Run{
		Limit:  2 * time.Minute,
		Before: []string{"-threads", "1"},
		Input:  media.Input{Format: media.MOV, Path: "pipe:0"},
		Stdin:  io.MultiReader(bytes.NewReader(t.Init.Raw), bytes.NewReader(groups)),
		Stdout: &out,
		Output: []string{
			"-an", "-vf", fmt.Sprintf("select='between(n,%d,%d)'", step.From-base, step.To-1-base), "-fps_mode", "passthrough", "-enc_time_base", "-1",
			"-c:v", "libx264", "-preset", "veryfast", "-crf", "20", "-bf", "0", "-g", "9999", "-sc_threshold", "0",
			// What says how fast pictures follow one another is the same for all pieces, as they share one parameter set.
			"-x264-params", fmt.Sprintf("sps-id=%d:level=51", number), "-threads", "1", "-pix_fmt", "yuv420p", "-bsf:v", "filter_units=remove_types=6,h264_metadata=tick_rate=50:fixed_frame_rate_flag=0",
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
		return nil, parameters, cpu, fmt.Errorf("%w: %d pictures came back around a cut, and %d were wanted", errMismatch, len(samples), step.To-step.From)
	}
	return samples, parameters, cpu, nil
}
