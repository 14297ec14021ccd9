package library

import (
	"bytes"
	"context"
	"crypto/sha256"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/chapter"
	"latelantern/internal/core/signal"
	"latelantern/internal/platform/media"
	"latelantern/internal/platform/postgres"
)

// Copy is the key of an edition as one MP4 file to be taken away. It is put together from
// the published segments, without encoding, unless it is there, with chapters, if there
// are any. Its error is ErrNotReady when there is no such edition.
func (s *Service) Copy(ctx context.Context, edition uuid.UUID, chapters []chapter.Stretch) (string, error) {
	return s.copyWith(ctx, edition, metadata(chapters), nil)
}

// copyKey is where the copy of an edition lies that says something about itself; about is its digest, nil for nothing.
func copyKey(edition uuid.UUID, about []byte) string {
	if about == nil {
		return editionKey(edition, "copy.mp4")
	}
	return editionKey(edition, fmt.Sprintf("copy-%x.mp4", about))
}

// digest is by what it is known whether a copy says about itself what it should; nil for nothing.
func digest(about []byte) []byte {
	if about == nil {
		return nil
	}
	sum := sha256.Sum256(about)
	return sum[:8]
}

// copyWith is Copy that tells how much of the lecture is written while it is made.
func (s *Service) copyWith(ctx context.Context, edition uuid.UUID, about []byte, done func(time.Duration)) (string, error) {
	key := copyKey(edition, digest(about))
	if s.Blobs.Size(key) > 0 {
		return key, nil
	}
	r, err := s.Edition(ctx, edition)
	if err != nil {
		return "", err
	}
	folder, err := os.MkdirTemp("", "late-lantern-copy-")
	if err != nil {
		return "", fmt.Errorf("make a folder for a copy: %w", err)
	}
	defer os.RemoveAll(folder)
	recording, err := postgres.Value[uuid.UUID](ctx, s.DB, `select recording_id from edition where id = $1`, edition)
	if err != nil {
		return "", fmt.Errorf("find the recording of an edition: %w", err)
	}
	gain, err := s.GainOf(ctx, recording, r)
	if err != nil {
		return "", err
	}
	whole := filepath.Join(folder, "whole.mp4")
	if err := s.copyInto(ctx, r, gain, about, folder, whole, done); err != nil {
		return "", fmt.Errorf("put a copy together: %w", err)
	}
	f, err := os.Open(whole)
	if err != nil {
		return "", fmt.Errorf("read a copy: %w", err)
	}
	defer f.Close()
	return key, s.Blobs.Put(key, f)
}

// copyInto writes pictures and sound of a rendition as one MP4 file, the sound by a gain louder or
// quieter, if there is one: for that it is encoded, the pictures are not. About is what metadata says of it. A second
// picture is a further track of it.
func (s *Service) copyInto(
	ctx context.Context, r *Rendition, gain *signal.Gain, about []byte, folder, to string, done func(time.Duration),
) error {
	var rails []*Rail
	for _, rail := range []*Rail{r.Pictures, r.Second, r.Sound} {
		if rail != nil {
			rails = append(rails, rail)
		}
	}
	if len(rails) == 0 {
		return ErrNotReady
	}
	var inputs []media.Input
	var maps, filters []string
	write := func(name string, head []byte, rail *Rail, from, to int) error {
		path := filepath.Join(folder, name)
		inputs = append(inputs, media.Input{Format: media.MOV, Path: path})
		f, err := os.Create(path)
		if err != nil {
			return fmt.Errorf("begin a stream: %w", err)
		}
		defer f.Close()
		return s.writeItems(f, head, rail, from, to)
	}
	codecs := []string{}
	for k, rail := range rails {
		kind := "v"
		if rail == r.Sound {
			kind = "a"
		}
		if head := rail.oneHead(); head != nil {
			maps = append(maps, "-map", fmt.Sprintf("%d:0", len(inputs)))
			codecs = append(codecs, codecOf(kind, gain)...)
			if err := write(fmt.Sprintf("%d.mp4", k), head, rail, 0, len(rail.Items)); err != nil {
				return err
			}
			continue
		}
		// Parts that were captured differently are brought to one size and encoded anew.
		shown := rail.Shown()
		var joined string
		runs := rail.runs()
		for n, run := range runs {
			each := "asetpts=PTS-STARTPTS,aresample=48000,aformat=channel_layouts=stereo"
			if kind == "v" {
				each = fmt.Sprintf("setpts=PTS-STARTPTS,scale=%[1]d:%[2]d:force_original_aspect_ratio=decrease,pad=%[1]d:%[2]d:-1:-1,setsar=1,format=yuv420p", shown.Width, shown.Height)
			}
			filters = append(filters, fmt.Sprintf("[%d:0]%s[%s%d_%d]", len(inputs), each, kind, k, n))
			joined += fmt.Sprintf("[%s%d_%d]", kind, k, n)
			if err := write(fmt.Sprintf("%d-%d.mp4", k, n), rail.ReelOf(run[0]).Head, rail, run[0], run[1]); err != nil {
				return err
			}
		}
		video, audio := 1, 0
		codec := []string{"-c:v", "libx264", "-preset", "veryfast", "-crf", "22", "-fps_mode", "vfr"}
		if kind == "a" {
			video, audio, codec = 0, 1, []string{"-c:a", "aac", "-b:a", "96k"}
		}
		louder := ""
		if kind == "a" && gain != nil {
			louder = "," + volume(gain)
		}
		filters = append(filters, fmt.Sprintf("%sconcat=n=%d:v=%d:a=%d%s[%s%d]", joined, len(runs), video, audio, louder, kind, k))
		maps = append(maps, "-map", fmt.Sprintf("[%s%d]", kind, k))
		codecs = append(codecs, codec...)
	}
	var output []string
	for _, more := range inputs[1:] {
		output = append(output, more.Args()...)
	}
	if about != nil {
		path := filepath.Join(folder, "about")
		if err := os.WriteFile(path, about, 0o600); err != nil {
			return fmt.Errorf("write the chapters of a copy: %w", err)
		}
		output = append(output, "-f", "ffmetadata", "-format_whitelist", "ffmetadata", "-protocol_whitelist", "file", "-i", path, "-map_chapters", fmt.Sprint(len(inputs)))
	}
	if len(filters) > 0 {
		output = append(output, "-filter_complex", strings.Join(filters, ";"))
	}
	output = append(append(append(output, maps...), codecs...), "-movflags", "+faststart", "-f", "mp4", to)
	run := media.Run{Limit: 2 * time.Hour, Input: inputs[0], Output: output}
	if done != nil {
		run.Third = media.Progress(done)
		run.Before = []string{"-progress", "pipe:3", "-stats_period", "0.5"}
	}
	_, err := media.FFmpeg(ctx, run)
	return err
}

// metadata are chapters in the form in which ffmpeg reads them; nil for none.
func metadata(chapters []chapter.Stretch) []byte {
	if len(chapters) == 0 {
		return nil
	}
	escape := strings.NewReplacer("\\", "\\\\", "=", "\\=", ";", "\\;", "#", "\\#", "\n", " ")
	var b bytes.Buffer
	b.WriteString(";FFMETADATA1\n")
	for _, c := range chapters {
		fmt.Fprintf(&b, "[CHAPTER]\nTIMEBASE=1/1000\nSTART=%d\nEND=%d\ntitle=%s\n", c.Start.Milliseconds(), c.End.Milliseconds(), escape.Replace(c.Title))
	}
	return b.Bytes()
}

// codecOf is how a track goes into a copy: as it is, but for sound that is made louder or quieter.
func codecOf(kind string, gain *signal.Gain) []string {
	if kind == "v" || gain == nil {
		return []string{"-c:" + kind, "copy"}
	}
	return []string{"-filter:a", volume(gain), "-c:a", "aac", "-b:a", "96k"}
}

func volume(gain *signal.Gain) string { return fmt.Sprintf("volume=%.2fdB", gain.DB) }

// oneHead is a head that fits all segments of a rail; nil when there is none.
func (r *Rail) oneHead() []byte {
	head := r.Reel
	for n := range r.More {
		x := r.More[n]
		switch {
		case x.Origin != r.Origin, x.Added && head.Added && !bytes.Equal(x.Head, head.Head):
			return nil
		case x.Added:
			head = x
		}
	}
	return head.Head
}

// runs are the segments of a rail that lie together and come from one reel, as [from, to).
func (r *Rail) runs() [][2]int {
	var out [][2]int
	for n, it := range r.Items {
		if n > 0 && it.Reel == r.Items[n-1].Reel {
			out[len(out)-1][1] = n + 1
			continue
		}
		out = append(out, [2]int{n, n + 1})
	}
	return out
}

// WriteRail writes a head and the segments of a rail one after another. It is for rails of
// one reel.
func (s *Service) WriteRail(w io.Writer, r *Rail) error {
	return s.writeItems(w, r.Head, r, 0, len(r.Items))
}

func (s *Service) writeItems(w io.Writer, head []byte, r *Rail, from, to int) error {
	if _, err := w.Write(head); err != nil {
		return fmt.Errorf("write a head: %w", err)
	}
	for n := from; n < to; n++ {
		b, err := s.Segment(r, n)
		if err != nil {
			return err
		}
		if _, err := w.Write(b); err != nil {
			return fmt.Errorf("write a segment: %w", err)
		}
	}
	return nil
}
