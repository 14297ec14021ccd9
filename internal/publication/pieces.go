package publication

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"time"

	"github.com/google/uuid"
	"golang.org/x/sync/errgroup"

	"latelantern/internal/core/splice"
	"latelantern/internal/format/fmp4"
	"latelantern/internal/platform/media"
	"latelantern/internal/recordings"
)

// pieces is what was encoded for one run: the pictures around its cuts, or all of it.
type pieces struct {
	samples    map[int][][]byte   // by step
	parameters *fmp4.Parameters   // that they share; nil when nothing was encoded
	anew       *recordings.Packed // all of the run
}

// makePieces encodes what the runs of a plan lack, two pieces at a time, and tells the processor time that it took.
// What is encoded as a whole is kept with the edition, under names that begin with prefix. The result has an entry
// for each run.
func (s *Service) makePieces(ctx context.Context, edition uuid.UUID, prefix string,
	p plan) ([]pieces, time.Duration, error) {
	out := make([]pieces, len(p.runs))
	cpu := make([]time.Duration, len(p.runs))
	work, ctx := errgroup.WithContext(ctx)
	work.SetLimit(2)
	var encoded []*piece
	whole := 0
	for i, r := range p.runs {
		if r.anew {
			whole++
			key := editionKey(edition, fmt.Sprintf("%sanew-%d", prefix, whole))
			work.Go(func() (err error) {
				out[i].anew, err = s.encodeStretches(ctx, r.track, key, r.steps.Stretches)
				return err
			})
			continue
		}
		if r.track.Init.Width == 0 {
			continue
		}
		own, err := fmp4.ParametersOf(r.track.Init.Raw)
		if err != nil {
			return nil, 0, err
		}
		number, err := own.FreeID()
		if err != nil {
			return nil, 0, err
		}
		for n, step := range r.steps.Steps {
			if step.Kind != splice.Encode {
				continue
			}
			x := &piece{run: i, step: n}
			encoded = append(encoded, x)
			work.Go(func() error { return s.encode(ctx, r.track, step, number, x) })
		}
	}
	if err := work.Wait(); err != nil {
		return nil, 0, err
	}
	for _, x := range encoded {
		cpu[x.run] += x.cpu
		if err := out[x.run].add(x); err != nil {
			return nil, 0, err
		}
	}
	var sum time.Duration
	for _, c := range cpu {
		sum += c
	}
	return out, sum, nil
}

// add takes a piece, whose parameters must be those of the others: they share one initialization segment.
func (p *pieces) add(x *piece) error {
	switch {
	case p.parameters == nil:
		p.parameters, p.samples = &x.parameters, map[int][][]byte{}
	case !p.parameters.Equal(x.parameters):
		return fmt.Errorf("%w: the pieces around the cuts differ in their parameter sets", errMismatch)
	}
	p.samples[x.step] = x.samples
	return nil
}

// piece is one step of a run, encoded.
type piece struct {
	run, step  int
	samples    [][]byte
	parameters fmp4.Parameters
	cpu        time.Duration
}

// encode makes the pictures that one step shows, with the parameter sets of a number. They are chosen by number, never
// by time.
func (s *Service) encode(ctx context.Context, t *recordings.Packed, step splice.Step, number int, x *piece) error {
	segments := t.Index.Segments[step.First:step.Last]
	from, to := segments[0], segments[len(segments)-1]
	groups, err := s.Blobs.Range(t.Key+".mp4", from.Off, to.Off+to.Len-from.Off)
	if err != nil {
		return err
	}
	base := t.Index.FrameFrom(t.Index.Samples[from.First].PTS)
	var out bytes.Buffer
	x.cpu, err = media.FFmpeg(ctx, media.Run{
		Limit:  2 * time.Minute,
		Before: []string{"-threads", "1"},
		Input:  media.Input{Format: media.MOV, Path: "pipe:0"},
		Stdin:  io.MultiReader(bytes.NewReader(t.Init.Raw), bytes.NewReader(groups)),
		Stdout: &out,
		Output: []string{
			"-an", "-vf", fmt.Sprintf("select='between(n,%d,%d)'", step.From-base, step.To-1-base),
			"-fps_mode", "passthrough", "-enc_time_base", "-1",
			"-c:v", "libx264", "-preset", "veryfast", "-crf", "20", "-bf", "0", "-g", "9999", "-sc_threshold", "0",
			"-x264-params", fmt.Sprintf("sps-id=%d:level=51", number), "-threads", "1", "-pix_fmt", "yuv420p",
			// What says how fast pictures follow one another is the same for all pieces, as they share one parameter
			// set.
			"-bsf:v", "filter_units=remove_types=6,h264_metadata=tick_rate=50:fixed_frame_rate_flag=0",
			"-f", "mp4", "-movflags", "+empty_moov+default_base_moof+frag_keyframe", "pipe:1",
		},
	})
	if err != nil {
		return fmt.Errorf("encode around a cut: %w", err)
	}
	err = fmp4.Read(&out, func(i fmp4.Init) (err error) {
		x.parameters, err = fmp4.ParametersOf(i.Raw)
		return err
	}, func(f fmp4.Fragment) error {
		for _, y := range f.Samples {
			x.samples = append(x.samples, f.Raw[y.Off:y.Off+int64(y.Size)])
		}
		return nil
	})
	if err != nil {
		return fmt.Errorf("read what was encoded: %w", err)
	}
	if want := step.To - step.From; len(x.samples) != want {
		return fmt.Errorf("%w: %d pictures came back around a cut, and %d were wanted", errMismatch, len(x.samples),
			want)
	}
	return nil
}
