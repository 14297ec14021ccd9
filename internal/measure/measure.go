// Package measure hears and looks at what was captured: loudness, speech, slides, and what is here twice.
package measure

import (
	"bytes"
	"context"
	"encoding/gob"
	"encoding/json"
	"errors"
	"fmt"
	"path"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/riverqueue/river"

	"latelantern/internal/core/event"
	"latelantern/internal/core/signal"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// Cuts is what measuring needs of what is struck.
type Cuts interface {
	// TrimByItself strikes the ends of a recording that is measured, where its course says so.
	TrimByItself(ctx context.Context, tx pgx.Tx, recording uuid.UUID) error
}

// Service measures what is heard and seen. All its fields are needed. It may be used by many at once. A call whose
// context ends gives its error and has changed nothing.
type Service struct {
	DB         *pgxpool.Pool
	Blobs      blobs.Keeper
	Queue      *jobs.Queue
	Clock      clock.Clock
	Recordings *recordings.Reader
	Cuts       Cuts
}

// Register adds the jobs of this package to kinds.
func (s *Service) Register(kinds *river.Workers) {
	jobs.Register(kinds, jobs.Kind[Measure]{Limit: 2 * time.Hour, Do: s.measureAll})
	jobs.Register(kinds, jobs.Kind[MeasureMore]{Limit: time.Minute, Do: s.measureMore})
	jobs.Register(kinds, jobs.Kind[findTwins]{Limit: 10 * time.Minute, Do: s.findTwins})
}

// Later has a track measured.
func (s *Service) Later(ctx context.Context, tx pgx.Tx, track uuid.UUID) error {
	return s.Queue.Add(ctx, tx, Measure{Track: track})
}

// Forget removes what was measured of a track.
func (s *Service) Forget(track uuid.UUID) error {
	return errors.Join(s.Blobs.Delete(measuringKey(track, "")), s.Blobs.Delete(path.Dir(recordings.SlideKey(track, 0))))
}

// Measure reads what of a track is not measured yet, for the strip pages of its recordings. While
// the track still grows it is read as far as it goes.
type Measure struct {
	Track uuid.UUID `json:"track"`
}

// Kind names the job.
func (Measure) Kind() string { return "measure" }

// InsertOpts says how it is queued.
func (Measure) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Reading, MaxAttempts: 4, UniqueOpts: jobs.OneAtATime}
}

func (s *Service) measureAll(ctx context.Context, in Measure, _ bool) error {
	for {
		again, err := s.measure(ctx, in.Track)
		if err != nil || !again {
			return err
		}
	}
}

// MeasureMore is the job of looking for what can be measured: captures that run, of which there
// is more, and whatever was never measured.
type MeasureMore struct{}

// Kind names the job.
func (MeasureMore) Kind() string { return "look_for_what_is_not_measured" }

// InsertOpts says how it is queued.
func (MeasureMore) InsertOpts() river.InsertOpts { return jobs.Looking }

// step is how much of a running capture is measured at once.
const step = 2 * time.Minute

func (s *Service) measureMore(ctx context.Context, _ MeasureMore, _ bool) error {
	// What could not be measured in several attempts is not tried for ever.
	const query = `select t.id from track t left join strip s on s.track_id = t.id
		where t.role = 'main' and t.pack <> ''
		and (t.state = 'ready' and not coalesce(s.done, false) or t.state = 'running'
		and t.packed_ms >= coalesce(s.measured_ms, 0) + $1)
		and exists (select 1 from recording_capture rc join recording r on r.id = rc.recording_id
		where rc.capture_id = t.capture_id and r.deleted_at is null)
		and not exists (select 1 from job j where j.kind = 'measure' and j.args->>'track' = t.id::text and j.given_up)
		order by t.arrived_at desc limit 50`
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		tracks, err := postgres.Values[uuid.UUID](ctx, tx, query, step.Milliseconds())
		if err != nil {
			return fmt.Errorf("list what is not measured: %w", err)
		}
		for _, t := range tracks {
			if err := s.Queue.Add(ctx, tx, Measure{Track: t}); err != nil {
				return err
			}
		}
		return nil
	})
}

// measuring is what is kept of a track that is not measured to its end.
type measuring struct {
	Pack      string // what was measured; another is measured from the beginning
	Peaks     []byte
	Frames    []float32
	Crossings []uint8
	Levels    []byte
	Moments   map[int]time.Duration
	Keys      int
}

func measuringKey(track uuid.UUID, name string) string {
	return path.Join("measure", track.String(), name)
}

// measure measures what there is of a track, and tells whether there was more by the end.
func (s *Service) measure(ctx context.Context, track uuid.UUID) (again bool, err error) {
	type row struct {
		Capture      uuid.UUID
		Pack         string
		Video, Audio bool
		State        string
	}
	const query = `select capture_id as capture, pack, video, audio, state from track
		where id = $1 and role = 'main' and pack <> '' and state <> 'failed'`
	t, err := postgres.One[row](ctx, s.DB, query, track)
	if errors.Is(err, pgx.ErrNoRows) {
		return false, nil
	}
	if err != nil {
		return false, fmt.Errorf("read what to measure: %w", err)
	}
	ended := t.State == "ready"
	heard, seen, err := s.goOnMeasuring(track, t.Pack)
	if err != nil {
		return false, err
	}
	length := time.Duration(0)
	if t.Audio {
		sound, err := s.Recordings.Playable(path.Join(t.Pack, "sound"))
		if err != nil || sound == nil {
			return false, err
		}
		if err := s.listen(ctx, sound, heard, ended); err != nil {
			return false, fmt.Errorf("measure the sound: %w", err)
		}
		length = sound.Index.Duration()
	}
	slides := []recordings.Slide{}
	if t.Video {
		pictures, err := s.Recordings.Playable(path.Join(t.Pack, "pictures"))
		if err != nil || pictures == nil {
			return false, err
		}
		if slides, err = s.lookAtSlides(ctx, track, pictures, seen); err != nil {
			return false, fmt.Errorf("look for slides: %w", err)
		}
		length = max(length, pictures.Index.Duration())
	}
	if !ended {
		if err := s.breakOffMeasuring(track, t.Pack, heard, seen); err != nil {
			return false, err
		}
	}
	if err := s.keepMeasured(ctx, track, t.Capture, heard, slides, length, ended); err != nil {
		return false, err
	}
	if ended {
		return false, s.Blobs.Delete(measuringKey(track, ""))
	}
	state, err := postgres.Value[string](ctx, s.DB, `select state from track where id = $1`, track)
	return state == "ready", err
}

// lookAtSlides lists the slides of a track, each with its picture kept.
func (s *Service) lookAtSlides(ctx context.Context, track uuid.UUID, t *recordings.Packed,
	seen *sight) ([]recordings.Slide, error) {
	found, err := s.look(ctx, t, seen)
	if err != nil {
		return nil, err
	}
	slides := []recordings.Slide{}
	var missing []int
	var names []string
	for _, x := range found {
		at := x.at.Milliseconds()
		if n := len(slides); n > 0 && slides[n-1].AtMs >= at {
			continue
		}
		slides = append(slides, recordings.Slide{AtMs: at})
		if name := recordings.SlideKey(track, at); s.Blobs.Size(name) == 0 {
			missing, names = append(missing, x.key), append(names, name)
		}
	}
	return slides, s.draw(ctx, t, missing,
		func(i int, b []byte) error { return s.Blobs.Put(names[i], bytes.NewReader(b)) })
}

func (s *Service) keepMeasured(ctx context.Context, track, capture uuid.UUID, heard *hearing, slides []recordings.Slide,
	length time.Duration, ended bool) error {
	list, err := json.Marshal(slides)
	if err != nil {
		return fmt.Errorf("write the slides: %w", err)
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const upsert = `insert into strip (track_id, measured_ms, done, peaks, levels, speech, slides, made_at)
			values ($1, $2, $3, $4, $5, $6, $7, $8)
			on conflict (track_id)
			do update
			set measured_ms = excluded.measured_ms, done = excluded.done, peaks = excluded.peaks,
			levels = excluded.levels, speech = excluded.speech, slides = excluded.slides, made_at = excluded.made_at`
		if _, err := tx.Exec(ctx, upsert, track, length.Milliseconds(), ended, append([]byte{}, heard.sound.Peaks...),
			heard.meter.Levels.Bytes(), postgres.Kept(heard.sound.Speech()), list, s.Clock.Now()); err != nil {
			return fmt.Errorf("keep what was measured: %w", err)
		}
		holding, err := s.Recordings.Holding(ctx, tx, capture)
		if err != nil {
			return err
		}
		if err := recordings.Hold(ctx, tx, holding...); err != nil {
			return err
		}
		if ended {
			if err := s.Queue.Add(ctx, tx, findTwins{Track: track}); err != nil {
				return err
			}
		}
		for _, id := range holding {
			if ended {
				if err := s.Cuts.TrimByItself(ctx, tx, id); err != nil {
					return err
				}
			}
			if err := recordings.Tell(ctx, tx, event.Strip, id); err != nil {
				return err
			}
		}
		return nil
	})
}

// goOnMeasuring gives what was measured of a package so far; nothing when it was another.
func (s *Service) goOnMeasuring(track uuid.UUID, pack string) (*hearing, *sight, error) {
	heard, seen := &hearing{}, &sight{}
	f, err := s.Blobs.Open(measuringKey(track, "state"))
	if errors.Is(err, blobs.ErrNotFound) {
		return heard, seen, nil
	}
	if err != nil {
		return nil, nil, err
	}
	defer f.Close()
	var m measuring
	if err := gob.NewDecoder(f).Decode(&m); err != nil || m.Pack != pack {
		return heard, seen, nil // it can be measured again
	}
	levels, err := signal.ReadLevels(m.Levels)
	if err != nil {
		return heard, seen, nil
	}
	heard.meter.Levels, heard.sound.Peaks = levels, m.Peaks
	if len(m.Crossings) != len(m.Frames) { // kept before they were counted
		return &hearing{}, seen, nil
	}
	heard.sound.Crossings = m.Crossings
	for _, l := range m.Frames {
		heard.sound.Levels = append(heard.sound.Levels, float64(l))
	}
	pictures, err := s.Recordings.Playable(path.Join(pack, "pictures"))
	if err != nil || pictures == nil {
		return heard, seen, err
	}
	const size = signal.Width * signal.Height
	grey, err := s.Blobs.Range(measuringKey(track, "keys"), 0, int64(m.Keys)*size)
	if err != nil {
		return heard, &sight{}, nil
	}
	seen.moments = m.Moments
	for i, at := range pictures.Index.Keys()[:min(m.Keys, len(pictures.Index.Segments))] {
		seen.keys = append(seen.keys, signal.Picture{At: pictures.Index.Time(at), Grey: grey[i*size : (i+1)*size]})
	}
	return heard, seen, nil
}

// breakOffMeasuring keeps what was measured, so that it goes on from there.
func (s *Service) breakOffMeasuring(track uuid.UUID, pack string, heard *hearing, seen *sight) error {
	m := measuring{Pack: pack, Peaks: heard.sound.Peaks, Crossings: heard.sound.Crossings,
		Levels: heard.meter.Levels.Bytes(), Moments: seen.moments, Keys: len(seen.keys)}
	for _, l := range heard.sound.Levels {
		m.Frames = append(m.Frames, float32(l))
	}
	var grey bytes.Buffer
	for _, k := range seen.keys {
		grey.Write(k.Grey)
	}
	if err := s.Blobs.Put(measuringKey(track, "keys"), &grey); err != nil {
		return err
	}
	var state bytes.Buffer
	if err := gob.NewEncoder(&state).Encode(m); err != nil {
		return fmt.Errorf("write what was measured so far: %w", err)
	}
	return s.Blobs.Put(measuringKey(track, "state"), &state)
}
