package measure

import (
	"context"
	"errors"
	"fmt"
	"image"
	"image/png"
	"io"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/signal"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/media"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// Spoken is where someone speaks in a track, and the moments of quiet in it, on its clock. Its
// error is ErrNotReady until all of it is measured.
func (s *Service) Spoken(ctx context.Context, track uuid.UUID) (speech span.Set, quiet []time.Duration, err error) {
	type row struct {
		Speech postgres.Multirange
		Peaks  []byte
	}
	r, err := postgres.One[row](ctx, s.DB, `select speech, peaks from strip where track_id = $1 and done`, track)
	if errors.Is(err, pgx.ErrNoRows) {
		return span.Set{}, nil, recordings.ErrNotReady
	}
	if err != nil {
		return span.Set{}, nil, fmt.Errorf("read where someone speaks: %w", err)
	}
	for _, p := range signal.Pauses(r.Peaks, breath) {
		quiet = append(quiet, (p.Start+p.End)/2)
	}
	return postgres.Set(r.Speech), quiet, nil
}

// breath is the shortest quiet between words at which what is said can be parted.
const breath = 200 * time.Millisecond

// Voice writes the sound of a track as one channel of 16 kHz, in 16 bits, little-endian, from the
// zero of its clock. Its error is ErrNotReady when there is none.
func (s *Service) Voice(ctx context.Context, track uuid.UUID, w io.Writer) error {
	t, err := s.Recordings.OfTrack(ctx, track, "sound")
	if err != nil {
		return err
	}
	in, err := s.Recordings.Stream(t, 0, len(t.Index.Segments))
	if err != nil {
		return err
	}
	defer in.Close()
	_, err = media.FFmpeg(ctx, media.Run{
		Limit: 40 * time.Minute, Nice: 10, Input: media.Input{Format: media.MOV, Path: "pipe:0"}, Stdin: in, Stdout: w,
		Output: []string{"-map", "0:a:0", "-af", "aresample=async=1:first_pts=0", "-ac", "1", "-ar", "16000", "-f",
			"s16le", "pipe:1"},
	})
	if err != nil {
		return fmt.Errorf("decode the sound of a track: %w", err)
	}
	return nil
}

// SlidesLarge gives each slide of a track as PNG in its own size, in order, with the moment by
// which it is known. Its error is ErrNotReady when nothing was measured yet.
func (s *Service) SlidesLarge(ctx context.Context, track uuid.UUID,
	each func(at int64, picture io.Reader) error) error {
	list, err := s.Recordings.SlidesOf(ctx, track)
	if err != nil || len(list) == 0 {
		return err
	}
	t, err := s.Recordings.OfTrack(ctx, track, "pictures")
	if err != nil {
		return err
	}
	// A slide is shown by the first key picture that does not come before it.
	keys := t.Index.Keys()
	var parts []recordings.Beginning
	var moments []int64
	n := 0
	for _, x := range list {
		at := time.Duration(x.AtMs) * time.Millisecond
		for n < len(keys)-1 && t.Index.Time(keys[n]) < at {
			n++
		}
		parts, moments = append(parts, recordings.Beginning{Segment: n, Samples: 1}), append(moments, x.AtMs)
	}
	in, err := s.Recordings.Beginnings(t, parts)
	if err != nil {
		return err
	}
	defer in.Close()
	all := &pictures{size: t.Init.Width * t.Init.Height, each: func(i int, raw []byte) error {
		if i >= len(moments) {
			return nil
		}
		read, write := io.Pipe()
		go func() {
			grey := &image.Gray{Pix: raw, Stride: t.Init.Width, Rect: image.Rect(0, 0, t.Init.Width, t.Init.Height)}
			_ = write.CloseWithError((&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(write, grey))
		}()
		defer read.Close()
		return each(moments[i], read)
	}}
	_, err = media.FFmpeg(ctx, media.Run{
		Limit: time.Hour, Nice: 19, Input: media.Input{Format: media.MOV, Path: "pipe:0"}, Stdin: in, Stdout: all,
		Output: []string{"-map", "0:v:0", "-fps_mode", "passthrough", "-vf",
			fmt.Sprintf("scale=%d:%d,format=gray", t.Init.Width, t.Init.Height), "-f", "rawvideo", "pipe:1"},
	})
	if err != nil {
		return fmt.Errorf("draw the slides of a track: %w", err)
	}
	return nil
}
