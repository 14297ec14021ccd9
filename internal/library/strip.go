package library

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"image/jpeg"
	"io"
	"math"
	"path"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"latelantern/internal/core/signal"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/media"
	"latelantern/internal/platform/postgres"
)

// Measure reads a recording once for its strip page.
type Measure struct {
	Recording uuid.UUID `json:"recording"`
}

// Kind names the job.
func (Measure) Kind() string { return "measure" }

// InsertOpts says how it is queued.
func (Measure) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Reading, MaxAttempts: 4}
}

type measure struct {
	river.WorkerDefaults[Measure]
	*Service
}

func (measure) Timeout(*river.Job[Measure]) time.Duration { return time.Hour }

func (w measure) Work(ctx context.Context, job *river.Job[Measure]) error {
	return w.measure(ctx, job.Args.Recording)
}

// Slide is a slide as it first appears.
type Slide struct {
	AtMs int64 `json:"at"`
}

// Strip is what the strip page shows besides the cut list.
type Strip struct {
	Peaks     []byte // one for each signal.Window
	Loudness  *float64
	Speech    span.Set
	Slides    []Slide
	Proposals []signal.Proposal
}

// Strip is the strip page of a recording. Its error is ErrNotReady until it is measured.
func (s *Service) Strip(ctx context.Context, id uuid.UUID, length time.Duration) (Strip, error) {
	row, err := postgres.One[struct {
		Peaks    []byte
		Loudness *float64
		Speech   multirange
		Slides   []byte
	}](ctx, s.DB, `select peaks, loudness, speech, slides from strip where recording_id = $1`, id)
	if errors.Is(err, pgx.ErrNoRows) {
		return Strip{}, ErrNotReady
	}
	if err != nil {
		return Strip{}, fmt.Errorf("read a strip page: %w", err)
	}
	out := Strip{Peaks: row.Peaks, Loudness: row.Loudness, Speech: fromSQL(row.Speech)}
	if err := json.Unmarshal(row.Slides, &out.Slides); err != nil {
		return Strip{}, fmt.Errorf("read the slides of a strip page: %w", err)
	}
	out.Proposals = signal.Proposals(out.Speech, length)
	return out, nil
}

// SlidePicture is the picture of slide n, as JPEG. Its error is ErrUnknown for none.
func (s *Service) SlidePicture(recording uuid.UUID, n int) ([]byte, error) {
	key := slideKey(recording, n)
	size := s.Blobs.Size(key)
	if size == 0 {
		return nil, ErrUnknown
	}
	return s.Blobs.Range(key, 0, size)
}

func slideKey(recording uuid.UUID, n int) string {
	return path.Join("strip", recording.String(), fmt.Sprintf("%d.jpg", n))
}

func (s *Service) measure(ctx context.Context, id uuid.UUID) error {
	x, err := s.source(ctx, id)
	if err != nil {
		return fmt.Errorf("measure a recording: %w", err)
	}
	m := measured{slides: []Slide{}}
	for _, piece := range x.laid {
		if err := s.measurePiece(ctx, id, x.parts[piece.Part], piece.At, &m); err != nil {
			return err
		}
	}
	list, err := json.Marshal(m.slides)
	if err != nil {
		return fmt.Errorf("write the slides: %w", err)
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const upsert = `insert into strip (recording_id, peaks, loudness, speech, slides, made_at) values ($1, $2, $3, $4, $5, $6)
			on conflict (recording_id) do update set peaks = excluded.peaks, loudness = excluded.loudness, speech = excluded.speech, slides = excluded.slides, made_at = excluded.made_at`
		if _, err := tx.Exec(ctx, upsert, id, append([]byte{}, m.peaks...), m.loudness(), toSQL(m.speech), list, s.Clock.Now()); err != nil {
			return fmt.Errorf("keep a strip page: %w", err)
		}
		return s.notify(ctx, tx, "strip", id)
	})
}

// measured is what was found in the pieces of a recording, on its clock.
type measured struct {
	peaks  []byte
	speech span.Set
	slides []Slide
	power  float64 // of the pieces, each weighed by its length
	heard  time.Duration
}

// loudness is that of all pieces together, nil when there is nothing to be heard.
func (m *measured) loudness() *float64 {
	if m.heard == 0 {
		return nil
	}
	l := 10 * math.Log10(m.power/m.heard.Seconds())
	return &l
}

// measurePiece measures one piece, which is shown at a stretch of the recording.
func (s *Service) measurePiece(ctx context.Context, id uuid.UUID, p part, at span.Span, m *measured) error {
	if p.sound != nil {
		var heard signal.Sound
		if err := s.listen(ctx, p.sound, &heard); err != nil {
			return fmt.Errorf("measure the sound: %w", err)
		}
		first := int(p.start / signal.Window)
		for i, v := range heard.Peaks {
			n := first + i
			if when := time.Duration(n) * signal.Window; when < at.Start-signal.Window || when >= at.End {
				continue
			}
			for len(m.peaks) <= n {
				m.peaks = append(m.peaks, 0)
			}
			m.peaks[n] = v
		}
		var said []span.Span
		for _, x := range heard.Speech().Spans() {
			said = append(said, span.Span{Start: x.Start + p.start, End: x.End + p.start}.Intersect(at))
		}
		m.speech = m.speech.Union(span.Of(said...))
		if l := heard.Loudness(); !math.IsInf(l, 0) && !math.IsNaN(l) {
			m.power += math.Pow(10, l/10) * at.Len().Seconds()
			m.heard += at.Len()
		}
	}
	if p.pictures != nil {
		if err := s.slides(ctx, id, p, at, m); err != nil {
			return fmt.Errorf("look for slides: %w", err)
		}
	}
	return nil
}

// packedStream is a packaged track as one stream.
func (s *Service) packedStream(t *packedTrack) (io.ReadCloser, error) {
	f, err := s.Blobs.Open(t.key + ".mp4")
	if err != nil {
		return nil, err
	}
	return struct {
		io.Reader
		io.Closer
	}{io.MultiReader(bytes.NewReader(t.Init.Raw), f), f}, nil
}

func (s *Service) listen(ctx context.Context, t *packedTrack, heard *signal.Sound) error {
	in, err := s.packedStream(t)
	if err != nil {
		return err
	}
	defer in.Close()
	// Decoding gives the priming that the player leaves out.
	skip := 0
	if first := t.Index.Samples[0].PTS; first < 0 {
		skip = int(-first * signal.Rate / int64(t.Index.Timescale))
	}
	_, err = media.FFmpeg(ctx, media.Run{
		Limit: 40 * time.Minute, Input: media.Input{Format: media.MOV, Path: "pipe:0"}, Stdin: in,
		Stdout: &pcm{heard: heard, skip: skip},
		Output: []string{"-map", "0:a:0", "-ac", "1", "-ar", fmt.Sprint(signal.Rate), "-f", "s16le", "pipe:1"},
	})
	heard.Close()
	return err
}

// pcm feeds little-endian 16-bit samples to a measurement.
type pcm struct {
	heard *signal.Sound
	skip  int // samples to leave out at the beginning
	half  []byte
	buf   []float64
}

func (w *pcm) Write(b []byte) (int, error) {
	data := append(w.half, b...)
	w.buf = w.buf[:0]
	for ; len(data) >= 2; data = data[2:] {
		if w.skip > 0 {
			w.skip--
			continue
		}
		w.buf = append(w.buf, float64(int16(uint16(data[0])|uint16(data[1])<<8))/32768)
	}
	w.half = append(w.half[:0:0], data...)
	w.heard.Write(w.buf)
	return len(b), nil
}

// The size of slide pictures.
const slideWidth, slideHeight = 320, 180

// slides decodes the key frames alone, finds where the slide changes, and keeps a picture of each.
func (s *Service) slides(ctx context.Context, id uuid.UUID, p part, at span.Span, m *measured) error {
	in, err := s.packedStream(p.pictures)
	if err != nil {
		return err
	}
	defer in.Close()
	look := &frames{keys: p.pictures.Index.Keys(), at: p.pictures.Index.Time}
	_, err = media.FFmpeg(ctx, media.Run{
		Limit: 20 * time.Minute, Before: []string{"-skip_frame", "nokey"},
		Input: media.Input{Format: media.MOV, Path: "pipe:0"}, Stdin: in, Stdout: look,
		Output: []string{"-map", "0:v:0", "-fps_mode", "passthrough",
			"-vf", fmt.Sprintf("scale=%d:%d:force_original_aspect_ratio=decrease,pad=%d:%d:-1:-1,format=yuv420p", slideWidth, slideHeight, slideWidth, slideHeight),
			"-f", "rawvideo", "pipe:1"},
	})
	if err != nil {
		return err
	}
	for _, i := range signal.Changes(look.small) {
		when := p.start + look.small[i].At
		if !at.Contains(when) {
			continue
		}
		var b bytes.Buffer
		if err := jpeg.Encode(&b, look.picture(i), &jpeg.Options{Quality: 78}); err != nil {
			return fmt.Errorf("draw a slide: %w", err)
		}
		if err := s.Blobs.Put(slideKey(id, len(m.slides)), &b); err != nil {
			return err
		}
		m.slides = append(m.slides, Slide{when.Milliseconds()})
	}
	return nil
}

// frames collects raw pictures: small grey ones to compare, and all of each to draw.
type frames struct {
	keys  []int64
	at    func(int64) time.Duration
	rest  []byte
	small []signal.Picture
	full  [][]byte
}

const frameSize = slideWidth * slideHeight * 3 / 2

func (w *frames) Write(b []byte) (int, error) {
	w.rest = append(w.rest, b...)
	for len(w.rest) >= frameSize {
		raw := bytes.Clone(w.rest[:frameSize])
		w.rest = w.rest[frameSize:]
		n := len(w.small)
		if n >= len(w.keys) {
			return len(b), nil
		}
		w.full = append(w.full, raw)
		w.small = append(w.small, signal.Picture{At: w.at(w.keys[n]), Grey: halved(raw)})
	}
	return len(b), nil
}

// halved is the grey part of a picture at half its size.
func halved(raw []byte) []byte {
	out := make([]byte, 0, slideWidth*slideHeight/4)
	for y := 0; y < slideHeight; y += 2 {
		for x := 0; x < slideWidth; x += 2 {
			i := y*slideWidth + x
			out = append(out, byte((int(raw[i])+int(raw[i+1])+int(raw[i+slideWidth])+int(raw[i+slideWidth+1]))/4))
		}
	}
	return out
}

func (w *frames) picture(i int) image.Image {
	raw := w.full[i]
	y, c := slideWidth*slideHeight, slideWidth*slideHeight/4
	return &image.YCbCr{
		Y: raw[:y], Cb: raw[y : y+c], Cr: raw[y+c:], YStride: slideWidth, CStride: slideWidth / 2,
		SubsampleRatio: image.YCbCrSubsampleRatio420, Rect: image.Rect(0, 0, slideWidth, slideHeight),
	}
}
