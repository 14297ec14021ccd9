package library

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"path"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/splice"
	"latelantern/internal/format/fmp4"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/postgres"
)

// Rendition is a recording as it can be played: as captured, or as published.
type Rendition struct {
	Pictures  *Rail // nil for none
	Sound     *Rail
	Length    time.Duration
	Ended     bool             // no more will come
	Stretches []splice.Stretch // of the source, in published order
}

// Rail is one track of a rendition.
type Rail struct {
	Head      []byte
	Codec     string
	Width     int
	Height    int
	Timescale uint32
	Source    string // key of the packaged track
	Pieces    string // key of the pieces made for it; "" for none
	Items     []Item
}

// Item is one segment: a range of bytes at a time.
type Item struct {
	Piece  bool   // from Pieces, else from Source
	Data   []byte `json:",omitempty"` // the bytes themselves, instead of either
	Off    int64
	Len    int64
	TfdtAt int64
	Time   int64 // decode time, in ticks
	Dur    int64
}

// Durations lists the lengths of the segments.
func (r *Rail) Durations() []time.Duration {
	out := make([]time.Duration, len(r.Items))
	x := splice.Index{Timescale: r.Timescale}
	for i, it := range r.Items {
		out[i] = x.Time(it.Dur)
	}
	return out
}

// Bytes is how many bytes all segments have.
func (r *Rail) Bytes() int64 {
	var sum int64
	for _, it := range r.Items {
		sum += it.Len
	}
	return sum
}

// Segment reads segment n with its time set. Its error is ErrUnknown when there is none.
func (s *Service) Segment(r *Rail, n int) ([]byte, error) {
	if r == nil || n < 0 || n >= len(r.Items) {
		return nil, ErrUnknown
	}
	it := r.Items[n]
	b := bytes.Clone(it.Data)
	if b == nil {
		key := r.Source
		if it.Piece {
			key = r.Pieces
		}
		var err error
		if b, err = s.Blobs.Range(key, it.Off, it.Len); err != nil {
			return nil, fmt.Errorf("read a segment: %w", err)
		}
	}
	return b, fmp4.SetTime(b, it.TfdtAt, it.Time)
}

// cached is a packaged track as it was read when its sidecar had size bytes.
type cached struct {
	size int64
	pack *fmp4.Packed
}

// packed reads the index of a packaged track. Its error is ErrNotReady when nothing can be
// watched yet.
func (s *Service) packed(key string) (*fmp4.Packed, error) {
	side := key + ".index"
	size := s.Blobs.Size(side)
	if c, ok := s.packs.Get(key); ok && c.size == size {
		return c.pack, nil
	}
	f, err := s.Blobs.Open(side)
	if errors.Is(err, blobs.ErrNotFound) {
		return nil, ErrNotReady
	}
	if err != nil {
		return nil, err
	}
	defer f.Close()
	p, err := fmp4.ReadSidecar(io.NewSectionReader(f, 0, size))
	if errors.Is(err, fmp4.ErrNoHead) {
		return nil, ErrNotReady
	}
	if err != nil {
		return nil, err
	}
	s.packs.Add(key, cached{size, p})
	return p, nil
}

// source is the packaged tracks of a recording.
type source struct {
	pictures, sound       *fmp4.Packed
	picturesKey, soundKey string
	ended                 bool
}

func (s *Service) source(ctx context.Context, recording uuid.UUID) (source, error) {
	type row struct {
		Pack            string
		Pictures, Sound bool
		State           string
	}
	const query = `select t.pack, t.pictures, t.sound, t.state from recording_capture rc join track t on t.capture_id = rc.capture_id
		where rc.recording_id = $1 order by rc.position limit 1`
	t, err := postgres.One[row](ctx, s.DB, query, recording)
	if errors.Is(err, pgx.ErrNoRows) {
		return source{}, ErrUnknown
	}
	if err != nil {
		return source{}, fmt.Errorf("find the tracks of a recording: %w", err)
	}
	if t.Pack == "" || t.State == "failed" {
		return source{}, ErrNotReady
	}
	x := source{ended: t.State == "ready"}
	if t.Pictures {
		x.picturesKey = path.Join(t.Pack, "pictures")
		if x.pictures, err = s.packed(x.picturesKey); err != nil {
			return x, err
		}
	}
	if t.Sound {
		x.soundKey = path.Join(t.Pack, "sound")
		if x.sound, err = s.packed(x.soundKey); err != nil {
			return x, err
		}
	}
	for _, p := range []*fmp4.Packed{x.pictures, x.sound} {
		if p != nil && len(p.Index.Segments) == 0 {
			return x, ErrNotReady
		}
	}
	return x, nil
}

// Captured is a recording as it was captured, up to now while it still runs.
func (s *Service) Captured(ctx context.Context, recording uuid.UUID) (*Rendition, error) {
	x, err := s.source(ctx, recording)
	if err != nil {
		return nil, err
	}
	out := &Rendition{Ended: x.ended}
	whole := func(p *fmp4.Packed, key string) (*Rail, error) {
		if p == nil {
			return nil, nil
		}
		rail := newRail(p, key)
		plan := splice.Whole(&p.Index)
		for _, step := range plan.Steps {
			it, data, err := s.place(p, key, step, nil)
			if err != nil {
				return nil, err
			}
			it.Data = data
			rail.Items = append(rail.Items, it)
		}
		out.Length = max(out.Length, p.Index.Duration())
		if out.Stretches == nil {
			out.Stretches = plan.Stretches
		}
		return rail, nil
	}
	if out.Pictures, err = whole(x.pictures, x.picturesKey); err != nil {
		return nil, err
	}
	if out.Sound, err = whole(x.sound, x.soundKey); err != nil {
		return nil, err
	}
	return out, nil
}

func newRail(p *fmp4.Packed, key string) *Rail {
	return &Rail{Head: p.Init.Raw, Codec: p.Init.Codec, Width: p.Init.Width, Height: p.Init.Height, Timescale: p.Init.Timescale, Source: key + ".mp4"}
}

// place makes the item of one step. A copied step needs no bytes; for the others data are
// those of a new segment with the given samples, or with those of the source when samples
// is nil.
func (s *Service) place(p *fmp4.Packed, key string, step splice.Step, samples [][]byte) (it Item, data []byte, err error) {
	if step.Kind == splice.Copy {
		seg := p.Index.Segments[step.First]
		first := p.Index.Samples[seg.First]
		return Item{Off: seg.Off, Len: seg.Len, TfdtAt: seg.TfdtAt, Time: first.DTS + step.Out - step.Source, Dur: step.Dur}, nil, nil
	}
	if samples == nil {
		if samples, err = s.samples(p, key, step); err != nil {
			return it, nil, err
		}
	}
	payload := make([]fmp4.Payload, len(samples))
	at := step.Source
	for i := range samples {
		n := step.From + i
		end := step.Source + step.Dur
		if i+1 < len(samples) {
			end = p.Index.Shown(n + 1).PTS
		}
		payload[i] = fmp4.Payload{Data: samples[i], Dur: uint32(max(0, end-at)), Sync: i == 0 || p.Init.Width == 0}
		at = end
	}
	track, err := fmp4.TrackID(p.Init.Raw)
	if err != nil {
		return it, nil, err
	}
	data, tfdtAt, err := fmp4.Write(1, track, payload)
	if err != nil {
		return it, nil, err
	}
	return Item{Piece: true, Len: int64(len(data)), TfdtAt: tfdtAt, Time: step.Out, Dur: step.Dur}, data, nil
}

// samples reads the samples that a carried step shows.
func (s *Service) samples(p *fmp4.Packed, key string, step splice.Step) ([][]byte, error) {
	f, err := s.Blobs.Open(key + ".mp4")
	if err != nil {
		return nil, err
	}
	defer f.Close()
	var out [][]byte
	for n := step.From; n < step.To; n++ {
		x := p.Index.Shown(n)
		b := make([]byte, x.Size)
		if _, err := f.ReadAt(b, x.Off); err != nil {
			return nil, fmt.Errorf("read a sample: %w", err)
		}
		out = append(out, b)
	}
	return out, nil
}

// Edition is a recording as it was published. Editions never change.
func (s *Service) Edition(ctx context.Context, id uuid.UUID) (*Rendition, error) {
	if r, ok := s.editions.Get(id); ok {
		return r, nil
	}
	f, err := s.Blobs.Open(editionKey(id, "plan.json"))
	if errors.Is(err, blobs.ErrNotFound) {
		return nil, ErrNotReady
	}
	if err != nil {
		return nil, err
	}
	defer f.Close()
	var r Rendition
	if err := json.NewDecoder(f).Decode(&r); err != nil {
		return nil, fmt.Errorf("read an edition: %w", err)
	}
	s.editions.Add(id, &r)
	return &r, nil
}

func editionKey(id uuid.UUID, name string) string { return path.Join("edition", id.String(), name) }
