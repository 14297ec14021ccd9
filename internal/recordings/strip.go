package recordings

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"path"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/layout"
	"latelantern/internal/core/signal"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/postgres"
)

// Slide is a slide as it first appears.
type Slide struct {
	AtMs    int64     `json:"at"`
	Track   uuid.UUID `json:"-"` // that holds it
	Picture int64     `json:"-"` // its picture, by when it begins on the clock of the track, in milliseconds
}

// Strip is what the strip page shows besides the cut list.
type Strip struct {
	Peaks    []byte        // one for each signal.Window
	Levels   signal.Levels // one for each as well
	Loudness *float64      // of all that was captured, in LUFS; nil when there is nothing to be heard
	Outline
	Proposals []signal.Proposal
	Pauses    []span.Span
}

// leastPause is the shortest pause between words of which a strip page knows.
const leastPause = 400 * time.Millisecond

// Strip is the strip page of a recording of a length. Its error is ErrNotReady until all of it is
// measured.
func (s *Reader) Strip(ctx context.Context, id uuid.UUID, length time.Duration) (Strip, error) {
	return s.StripIn(ctx, s.DB, id, length)
}

// StripIn is Strip as a transaction sees it.
func (s *Reader) StripIn(ctx context.Context, q postgres.Querier, id uuid.UUID, length time.Duration) (Strip, error) {
	type row struct {
		TrackID       uuid.UUID
		Done          bool
		Peaks, Levels []byte
		Speech        postgres.Multirange
		Slides        []byte
	}
	var out Strip
	pieces, err := s.Layout(ctx, q, id)
	if err != nil {
		return out, err
	}
	if len(pieces) == 0 {
		return out, ErrNotReady
	}
	const query = `select s.track_id, s.done, s.peaks, s.levels, s.speech, s.slides from strip s
		join track t on t.id = s.track_id join recording_capture rc on rc.capture_id = t.capture_id
		where rc.recording_id = $1`
	rows, err := postgres.All[row](ctx, q, query, id)
	if err != nil {
		return out, fmt.Errorf("read a strip page: %w", err)
	}
	tracks := map[uuid.UUID]row{}
	for _, r := range rows {
		tracks[r.TrackID] = r
	}
	for _, p := range pieces {
		r, ok := tracks[p.Track]
		if !ok || !r.Done {
			return Strip{}, ErrNotReady
		}
		levels, err := signal.ReadLevels(r.Levels)
		if err != nil {
			return out, fmt.Errorf("read a strip page: %w", err)
		}
		out.lay(p, r.Peaks, levels)
		if err := out.Outline.lay(p, r.Speech, r.Slides); err != nil {
			return out, err
		}
	}
	out.Proposals = signal.Proposals(out.Speech, length)
	out.Pauses = signal.Pauses(out.Peaks, leastPause)
	if l := out.Levels.Integrated(); !math.IsInf(l, 0) && !math.IsNaN(l) {
		out.Loudness = &l
	}
	return out, nil
}

// standing are the slides of a track that a piece shows. One that stands already when the piece
// begins is the first of it.
func standing(slides []Slide, p layout.Shown) []Slide {
	moments := make([]time.Duration, len(slides))
	for i, x := range slides {
		moments[i] = p.Start + time.Duration(x.AtMs)*time.Millisecond
	}
	var out []Slide
	for _, x := range (cutlist.Carrier{{Source: p.At, At: p.At.Start}}).Standing(moments) {
		out = append(out, Slide{AtMs: x.At.Start.Milliseconds(), Track: p.Track, Picture: slides[x.Of].AtMs})
	}
	return out
}

// lay puts the windows of a piece where it is shown.
func (x *Strip) lay(p layout.Shown, peaks []byte, levels signal.Levels) {
	from, to := int((p.At.Start+signal.Window/2)/signal.Window), int((p.At.End+signal.Window-1)/signal.Window)
	first := int((p.Start - signal.Window/2) / signal.Window)
	if p.Start > 0 {
		first = int((p.Start + signal.Window/2) / signal.Window)
	}
	for n := from; n < to; n++ {
		for len(x.Peaks) <= n {
			x.Peaks, x.Levels = append(x.Peaks, 0), append(x.Levels, signal.Level{})
		}
		if i := n - first; i >= 0 && i < len(peaks) {
			x.Peaks[n] = peaks[i]
		}
		if i := n - first; i >= 0 && i < len(levels) {
			x.Levels[n] = levels[i]
		}
	}
}

// keptLevels are those of what is kept, in order.
func (x Strip) keptLevels(kept span.Set) signal.Levels {
	var out signal.Levels
	for _, k := range kept.Spans() {
		from, to := int((k.Start+signal.Window/2)/signal.Window), int((k.End+signal.Window/2)/signal.Window)
		out = append(out, x.Levels[min(from, len(x.Levels)):min(to, len(x.Levels))]...)
	}
	return out
}

// SlidePicture is the picture of a slide of a recording, as JPEG. Its error is ErrUnknown for none.
func (s *Reader) SlidePicture(ctx context.Context, recording, track uuid.UUID, at int64) ([]byte, error) {
	pieces, err := s.Layout(ctx, s.DB, recording)
	if err != nil {
		return nil, err
	}
	slides, err := s.SlidesOf(ctx, track)
	if errors.Is(err, ErrNotReady) {
		return nil, ErrUnknown
	}
	if err != nil {
		return nil, err
	}
	// What the track shows before and after belongs to others.
	for _, p := range pieces {
		if p.Track == track && slices.ContainsFunc(standing(slides, p), func(x Slide) bool { return x.Picture == at }) {
			key := SlideKey(track, at)
			return s.Blobs.Range(key, 0, s.Blobs.Size(key))
		}
	}
	return nil, ErrUnknown
}

// SlideKey is where the picture of a slide lies that begins at, in milliseconds on the clock of its track.
func SlideKey(track uuid.UUID, at int64) string {
	return path.Join("strip", track.String(), fmt.Sprintf("%d.jpg", at))
}

// SlidesOf lists the slides of a track. Its error is ErrNotReady when nothing was measured yet.
func (s *Reader) SlidesOf(ctx context.Context, track uuid.UUID) ([]Slide, error) {
	list, err := postgres.Value[[]byte](ctx, s.DB, `select slides from strip where track_id = $1`, track)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, ErrNotReady
	}
	var slides []Slide
	if err == nil {
		err = json.Unmarshal(list, &slides)
	}
	if err != nil {
		return nil, fmt.Errorf("read the slides of a track: %w", err)
	}
	return slides, nil
}
