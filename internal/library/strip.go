package library

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
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
		heard, err := s.listen(ctx, p.sound)
		if err != nil {
			return fmt.Errorf("measure the sound: %w", err)
		}
		first := int(p.start / signal.Window)
		for i, v := range heard.sound.Peaks {
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
		for _, x := range heard.sound.Speech().Spans() {
			said = append(said, span.Span{Start: x.Start + p.start, End: x.End + p.start}.Intersect(at))
		}
		m.speech = m.speech.Union(span.Of(said...))
		if l := heard.loudness.Integrated(); !math.IsInf(l, 0) && !math.IsNaN(l) {
			m.power += math.Pow(10, l/10) * at.Len().Seconds()
			m.heard += at.Len()
		}
	}
	if p.pictures != nil {
		slides, err := s.look(ctx, p.pictures)
		if err != nil {
			return fmt.Errorf("look for slides: %w", err)
		}
		for _, x := range slides {
			when := p.start + x.At
			if !at.Contains(when) {
				continue
			}
			if err := s.Blobs.Put(slideKey(id, len(m.slides)), bytes.NewReader(x.Picture)); err != nil {
				return err
			}
			m.slides = append(m.slides, Slide{when.Milliseconds()})
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
