package publication

import (
	"bytes"
	"context"
	"crypto/sha256"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/chapter"
	"latelantern/internal/core/signal"
	"latelantern/internal/platform/media"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// Copy is the key of an edition as one MP4 file to be taken away. It is put together from
// the published segments, without encoding, unless it is there, with chapters, if there
// are any. Its error is recordings.ErrNotReady when there is no such edition, or nothing of the kind.
func (s *Service) Copy(ctx context.Context, edition uuid.UUID, kind CopyKind,
	chapters []chapter.Published) (string, error) {
	return s.copyWith(ctx, edition, kind, metadata(chapters), nil)
}

// copyKey is where a copy of an edition lies that says something about itself; about is its digest, nil for nothing.
func copyKey(edition uuid.UUID, kind CopyKind, about []byte) string {
	name := "copy"
	if kind != CopyVideo {
		name += "-" + string(kind)
	}
	if about != nil {
		name += fmt.Sprintf("-%x", about)
	}
	return editionKey(edition, name+".mp4")
}

// copied is what of an edition a copy of a kind holds.
func (s *Service) copied(ctx context.Context, edition uuid.UUID, kind CopyKind) (*recordings.Presentation, error) {
	if kind == CopySmall {
		return s.Small(ctx, edition)
	}
	p, err := s.Edition(ctx, edition)
	if err != nil || kind == CopyVideo {
		return p, err
	}
	if p.Audio == nil {
		return nil, recordings.ErrNotReady
	}
	sound := *p
	sound.Video, sound.SecondVideo = nil, nil
	return &sound, nil
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
func (s *Service) copyWith(ctx context.Context, edition uuid.UUID, kind CopyKind, about []byte,
	done func(time.Duration)) (string, error) {
	key := copyKey(edition, kind, digest(about))
	if s.Blobs.Size(key) > 0 {
		return key, nil
	}
	r, err := s.copied(ctx, edition, kind)
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
	gain, err := s.Recordings.GainOf(ctx, recording, r)
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

// copyInto writes pictures and sound of a presentation as one MP4 file, the sound by a gain louder or
// quieter, if there is one: for that it is encoded, the pictures are not. About is what metadata says of it. A second
// video is a further track of it.
func (s *Service) copyInto(
	ctx context.Context, p *recordings.Presentation, gain *signal.Gain, about []byte, folder, to string,
	done func(time.Duration),
) error {
	all := p.Renditions()
	if len(all) == 0 {
		return recordings.ErrNotReady
	}
	m := muxing{s: s, folder: folder, gain: gain}
	for _, r := range all {
		kind := "v"
		if r == p.Audio {
			kind = "a"
		}
		add := m.joined
		if oneInit(r) != nil {
			add = m.whole
		}
		if err := add(r, kind); err != nil {
			return err
		}
	}
	output, err := m.output(about)
	if err != nil {
		return err
	}
	run := media.Run{Limit: 2 * time.Hour, Input: m.inputs[0],
		Output: append(output, "-movflags", "+faststart", "-f", "mp4", to)}
	if done != nil {
		run.Third = media.Progress(done)
		run.Before = []string{"-progress", "pipe:3", "-stats_period", "0.5"}
	}
	_, err = media.FFmpeg(ctx, run)
	return err
}

// muxing is what the tool is told to make one file of several renditions.
type muxing struct {
	s      *Service
	folder string
	gain   *signal.Gain

	inputs                []media.Input
	maps, filters, codecs []string
}

// input writes the segments [from, to) of a rendition to a file that is read.
func (m *muxing) input(name string, init []byte, r *recordings.Rendition, from, to int) error {
	path := filepath.Join(m.folder, name)
	m.inputs = append(m.inputs, media.Input{Format: media.MOV, Path: path})
	f, err := os.Create(path)
	if err != nil {
		return fmt.Errorf("begin a stream: %w", err)
	}
	defer f.Close()
	return m.s.Recordings.Write(f, init, r, from, to)
}

// whole takes a rendition over as it is, but for the loudness of sound.
func (m *muxing) whole(r *recordings.Rendition, kind string) error {
	n := len(m.inputs)
	m.maps = append(m.maps, "-map", fmt.Sprintf("%d:0", n))
	m.codecs = append(m.codecs, codecOf(kind, m.gain)...)
	return m.input(fmt.Sprintf("%d.mp4", n), oneInit(r), r, 0, len(r.Segments))
}

// joined brings parts that were captured differently to one size, and encodes them anew.
func (m *muxing) joined(r *recordings.Rendition, kind string) error {
	each, streams := "asetpts=PTS-STARTPTS,aresample=48000,aformat=channel_layouts=stereo", "v=0:a=1"
	codec := []string{"-c:a", "aac", "-b:a", "96k"}
	if kind == "v" {
		size := r.Shown()
		each = fmt.Sprintf("setpts=PTS-STARTPTS,scale=%[1]d:%[2]d:force_original_aspect_ratio=decrease,"+
			"pad=%[1]d:%[2]d:-1:-1,setsar=1,format=yuv420p", size.Width, size.Height)
		streams, codec = "v=1:a=0", []string{"-c:v", "libx264", "-preset", "veryfast", "-crf", "22", "-fps_mode", "vfr"}
	}
	label, joined := fmt.Sprintf("%s%d", kind, len(m.inputs)), ""
	runs := runsOf(r)
	for n, run := range runs {
		m.filters = append(m.filters, fmt.Sprintf("[%d:0]%s[%s_%d]", len(m.inputs), each, label, n))
		joined += fmt.Sprintf("[%s_%d]", label, n)
		if err := m.input(fmt.Sprintf("%s-%d.mp4", label, n), r.TrackOf(run[0]).Init, r, run[0], run[1]); err != nil {
			return err
		}
	}
	louder := ""
	if kind == "a" && m.gain != nil {
		louder = "," + volume(m.gain)
	}
	m.filters = append(m.filters, fmt.Sprintf("%sconcat=n=%d:%s%s[%s]", joined, len(runs), streams, louder, label))
	m.maps = append(m.maps, "-map", fmt.Sprintf("[%s]", label))
	m.codecs = append(m.codecs, codec...)
	return nil
}

// output is what comes after the first input, up to the file.
func (m *muxing) output(about []byte) ([]string, error) {
	var out []string
	for _, more := range m.inputs[1:] {
		out = append(out, more.Args()...)
	}
	if about != nil {
		path := filepath.Join(m.folder, "about")
		if err := os.WriteFile(path, about, 0o600); err != nil {
			return nil, fmt.Errorf("write the chapters of a copy: %w", err)
		}
		out = append(out, "-f", "ffmetadata", "-format_whitelist", "ffmetadata", "-protocol_whitelist", "file", "-i",
			path,
			"-map_chapters", fmt.Sprint(len(m.inputs)))
	}
	if len(m.filters) > 0 {
		out = append(out, "-filter_complex", strings.Join(m.filters, ";"))
	}
	return append(append(out, m.maps...), m.codecs...), nil
}

// metadata are chapters in the form in which ffmpeg reads them; nil for none.
func metadata(chapters []chapter.Published) []byte {
	if len(chapters) == 0 {
		return nil
	}
	escape := strings.NewReplacer("\\", "\\\\", "=", "\\=", ";", "\\;", "#", "\\#", "\n", " ")
	var b bytes.Buffer
	b.WriteString(";FFMETADATA1\n")
	for _, c := range chapters {
		fmt.Fprintf(&b, "[CHAPTER]\nTIMEBASE=1/1000\nSTART=%d\nEND=%d\ntitle=%s\n", c.Start.Milliseconds(),
			c.End.Milliseconds(), escape.Replace(c.Title))
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

// oneInit is an initialization segment that fits all segments of a rendition; nil when there is none.
func oneInit(r *recordings.Rendition) []byte {
	one := r.Track
	for _, x := range r.More {
		switch {
		case x.Origin != r.Origin, x.Added && one.Added && !bytes.Equal(x.Init, one.Init):
			return nil
		case x.Added:
			one = x
		}
	}
	return one.Init
}

// runsOf are the segments of a rendition that lie together and come from one track, as [from, to).
func runsOf(r *recordings.Rendition) [][2]int {
	var out [][2]int
	for n, x := range r.Segments {
		if n > 0 && x.Track == r.Segments[n-1].Track {
			out[len(out)-1][1] = n + 1
			continue
		}
		out = append(out, [2]int{n, n + 1})
	}
	return out
}
