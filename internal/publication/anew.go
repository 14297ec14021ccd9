package publication

import (
	"context"
	"errors"
	"fmt"
	"io"
	"strings"
	"time"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/splice"
	"latelantern/internal/format/fmp4"
	"latelantern/internal/platform/media"
	"latelantern/internal/recordings"
)

// soon is by how much a stretch is chosen earlier than its first picture is shown, so that no
// rounding leaves it out.
const soon = 2 * time.Millisecond

// encodeStretches encodes stretches of a track one after another into a packaged track under a
// key. Its error is splice.ErrNothing when no sample lies in them.
func (s *Service) encodeStretches(ctx context.Context, t *recordings.Packed, key string,
	stretches []cutlist.Stretch) (*recordings.Packed, error) {
	in, err := s.Recordings.Stream(t, 0, len(t.Index.Segments))
	if err != nil {
		return nil, err
	}
	defer in.Close()
	output := []string{"-fps_mode", "vfr", "-c:v", "libx264", "-preset", "veryfast", "-crf", "20", "-bf", "0",
		"-pix_fmt", "yuv420p",
		"-g", "9999", "-sc_threshold", "0", "-force_key_frames", "expr:gte(t,n_forced*2)", "-movflags",
		"+frag_keyframe+negative_cts_offsets+delay_moov+default_base_moof"}
	if t.Init.Width == 0 {
		output = []string{"-c:a", "aac", "-b:a", "96k", "-frag_duration", "2000000", "-movflags",
			"+delay_moov+default_base_moof"}
	}
	body, err := s.Blobs.Grow(key + ".mp4")
	if err != nil {
		return nil, err
	}
	defer body.Close()
	made := &recordings.Packed{Packed: &fmp4.Packed{}, Key: key}
	from, to := io.Pipe()
	read := make(chan error, 1)
	go func() {
		err := gather(made, from, body)
		from.CloseWithError(err)
		read <- err
	}()
	_, err = media.FFmpeg(ctx, media.Run{
		Limit: 2 * time.Hour, Nice: 10, Input: media.Input{Format: media.MOV, Path: "pipe:0"}, Stdin: in, Stdout: to,
		Output: append(append([]string{"-filter_complex", joined(t, stretches), "-map", "[out]"}, output...),
			"-avoid_negative_ts", "disabled", "-f", "mp4", "pipe:1"),
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

// joined is the filter that puts stretches of a track together.
func joined(t *recordings.Packed, stretches []cutlist.Stretch) string {
	kind, trim, set := "v", "trim", "setpts"
	if t.Init.Width == 0 {
		kind, trim, set = "a", "atrim", "asetpts"
	}
	zero := t.Index.Time(t.Index.Shown(0).PTS)
	var filter strings.Builder
	fmt.Fprintf(&filter, "[0:%s]%s=PTS-STARTPTS,%ssplit=%d", kind, set, strings.TrimPrefix(kind, "v"), len(stretches))
	for n := range stretches {
		fmt.Fprintf(&filter, "[i%d]", n)
	}
	all := ""
	for n, x := range stretches {
		from, to := max(0, x.Source.Start-zero), max(0, x.Source.End-zero)
		if kind == "v" {
			from, to = max(0, from-soon), to-soon
		}
		fmt.Fprintf(&filter, ";[i%d]%s=start=%.6f:end=%.6f,%s=PTS-STARTPTS[o%d]", n, trim, from.Seconds(), to.Seconds(),
			set, n)
		all += fmt.Sprintf("[o%d]", n)
	}
	video, audio := 1, 0
	if kind == "a" {
		video, audio = 0, 1
	}
	fmt.Fprintf(&filter, ";%sconcat=n=%d:v=%d:a=%d[out]", all, len(stretches), video, audio)
	return filter.String()
}

// gather writes the fragments that come to body, and what they are into made.
func gather(made *recordings.Packed, from io.Reader, body io.Writer) error {
	off := int64(0)
	return fmp4.Read(from, func(x fmp4.Init) error {
		made.Init, made.Index.Timescale = x, x.Timescale
		return nil
	}, func(f fmp4.Fragment) error {
		for i := range f.Samples {
			f.Samples[i].Off += off
		}
		if err := made.Index.Add(splice.Segment{Off: off, Len: int64(len(f.Raw)), TfdtAt: f.TfdtAt},
			f.Samples); err != nil {
			return err
		}
		off += int64(len(f.Raw))
		_, err := body.Write(f.Raw)
		return err
	})
}
