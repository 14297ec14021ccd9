package library

import (
	"context"
	"errors"
	"fmt"
	"io"
	"strings"
	"time"

	"latelantern/internal/core/splice"
	"latelantern/internal/format/fmp4"
	"latelantern/internal/platform/media"
)

// layAnew lays stretches of a track that are encoded as a whole, from a published time on: slow,
// and right also where the track is not what its index says.
func (e *splicing) layAnew(ctx context.Context, l *laying, t *packedTrack, stretches []splice.Stretch, from time.Duration) error {
	if err := l.fill(from, true); err != nil {
		return err
	}
	e.encoded++
	made, err := e.s.encodeStretches(ctx, t, editionKey(e.id, fmt.Sprintf("anew-%d", e.encoded)), stretches)
	if err != nil {
		return err
	}
	reel := l.reel(made.reel())
	for _, step := range splice.Whole(&made.Index).Steps {
		at := from + made.Index.Time(step.Out)
		step.Out += made.Index.Ticks(from)
		it, data, err := e.s.place(made, step, nil)
		if err != nil {
			return err
		}
		l.add(it, reel, at, data)
	}
	return nil
}

// What encoding takes, in seconds of processor time, as measured for x264 veryfast on the machine of
// docs/measurements.md: to start the tool for a piece, and for a pixel of a picture that is encoded, or decoded alone.
const (
	startingTool  = 0.12
	encodingPixel = 3e-8
	decodingPixel = encodingPixel / 6
)

// dearer reports whether the pieces around the cuts of a plan take more than encoding all of it as one, as
// many small pieces of small pictures do.
func dearer(t *packedTrack, plan splice.Plan) bool {
	picture := float64(t.Init.Width * t.Init.Height)
	pieces, kept, last := 0.0, 0, 0
	for _, s := range plan.Steps {
		n := s.To - s.From
		kept += n
		last = max(last, s.To)
		if s.Kind == splice.Encode {
			pieces += startingTool + float64(n)*picture*encodingPixel
		}
	}
	return pieces > startingTool+float64(kept)*picture*encodingPixel+float64(last)*picture*decodingPixel
}

// soon is by how much a stretch is chosen earlier than its first picture is shown, so that no
// rounding leaves it out.
const soon = 2 * time.Millisecond

// encodeStretches encodes stretches of a track one after another into a packaged track under a
// key. Its error is splice.ErrNothing when no sample lies in them.
func (s *Service) encodeStretches(ctx context.Context, t *packedTrack, key string, stretches []splice.Stretch) (*packedTrack, error) {
	in, err := s.packedStream(t, 0, len(t.Index.Segments))
	if err != nil {
		return nil, err
	}
	defer in.Close()
	kind, trim, set := "v", "trim", "setpts"
	output := []string{"-fps_mode", "vfr", "-c:v", "libx264", "-preset", "veryfast", "-crf", "20", "-bf", "0", "-pix_fmt", "yuv420p",
		"-g", "9999", "-sc_threshold", "0", "-force_key_frames", "expr:gte(t,n_forced*2)", "-movflags", "+frag_keyframe+negative_cts_offsets+delay_moov+default_base_moof"}
	if t.Init.Width == 0 {
		kind, trim, set = "a", "atrim", "asetpts"
		output = []string{"-c:a", "aac", "-b:a", "96k", "-frag_duration", "2000000", "-movflags", "+delay_moov+default_base_moof"}
	}
	zero := t.Index.Time(t.Index.Shown(0).PTS)
	var filter strings.Builder
	fmt.Fprintf(&filter, "[0:%s]%s=PTS-STARTPTS,%ssplit=%d", kind, set, strings.TrimPrefix(kind, "v"), len(stretches))
	for n := range stretches {
		fmt.Fprintf(&filter, "[i%d]", n)
	}
	joined := ""
	for n, x := range stretches {
		from, to := max(0, x.Source.Start-zero), max(0, x.Source.End-zero)
		if kind == "v" {
			from, to = max(0, from-soon), to-soon
		}
		fmt.Fprintf(&filter, ";[i%d]%s=start=%.6f:end=%.6f,%s=PTS-STARTPTS[o%d]", n, trim, from.Seconds(), to.Seconds(), set, n)
		joined += fmt.Sprintf("[o%d]", n)
	}
	video, audio := 1, 0
	if kind == "a" {
		video, audio = 0, 1
	}
	fmt.Fprintf(&filter, ";%sconcat=n=%d:v=%d:a=%d[out]", joined, len(stretches), video, audio)

	body, err := s.Blobs.Create(key + ".mp4")
	if err != nil {
		return nil, err
	}
	defer body.Close()
	made := &packedTrack{&fmp4.Packed{}, key}
	from, to := io.Pipe()
	read := make(chan error, 1)
	go func() {
		off := int64(0)
		err := fmp4.Read(from, func(x fmp4.Init) error {
			made.Init, made.Index.Timescale = x, x.Timescale
			return nil
		}, func(f fmp4.Fragment) error {
			for i := range f.Samples {
				f.Samples[i].Off += off
			}
			if err := made.Index.Add(splice.Segment{Off: off, Len: int64(len(f.Raw)), TfdtAt: f.TfdtAt}, f.Samples); err != nil {
				return err
			}
			off += int64(len(f.Raw))
			_, err := body.Write(f.Raw)
			return err
		})
		from.CloseWithError(err)
		read <- err
	}()
	_, err = media.FFmpeg(ctx, media.Run{
		Limit: 2 * time.Hour, Nice: 10, Input: media.Input{Format: media.MOV, Path: "pipe:0"}, Stdin: in, Stdout: to,
		Output: append(append([]string{"-filter_complex", filter.String(), "-map", "[out]"}, output...), "-avoid_negative_ts", "disabled", "-f", "mp4", "pipe:1"),
	})
	to.Close()
	if err := errors.Join(err, <-read, body.Sync()); err != nil {
		return nil, fmt.Errorf("encode a publication as a whole: %w", err)
	}
	if len(made.Index.Segments) == 0 {
		return nil, splice.ErrNothing
	}
	return made, nil
}
