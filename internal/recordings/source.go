package recordings

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"path"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/layout"
	"latelantern/internal/format/fmp4"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/postgres"
)

// cached is a packaged track as it was read when its sidecar had size bytes.
type cached struct {
	size int64
	pack *fmp4.Packed
}

// packed reads the index of a packaged track. Its error is ErrNotReady when nothing can be
// watched yet.
func (s *Reader) packed(key string) (*fmp4.Packed, error) {
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
	if errors.Is(err, fmp4.ErrNoInit) {
		return nil, ErrNotReady
	}
	if err != nil {
		return nil, err
	}
	s.packs.Add(key, cached{size, p})
	return p, nil
}

// Packed is a packaged track that can be played.
type Packed struct {
	*fmp4.Packed
	Key string // of its sidecar, without the ending
}

// Track is t as the segments of a rendition come from it.
func (t *Packed) Track() Track {
	i := t.Init
	sum := sha256.Sum256(i.Raw)
	return Track{
		Init: i.Raw, Origin: hex.EncodeToString(sum[:8]), Codec: i.Codec, Width: i.Width, Height: i.Height,
		Timescale: i.Timescale, Source: t.Key + ".mp4",
	}
}

// Part is a stretch of a capture in a recording: what of the capture can be played, and how much
// of that belongs to the recording.
type Part struct {
	Start       time.Duration // of the capture's clock, on that of the recording
	window      func(length time.Duration) layout.Part
	Video       *Packed // nil for none
	Audio       *Packed
	SecondVideo *Packed
	Lag         time.Duration // of the second video

	SmallVideo, SmallAudio *Packed // the small copy, nil while there is none
}

// Length is how much of the capture can be played.
func (p Part) Length() time.Duration {
	switch {
	case p.Video != nil:
		return p.Video.Index.Duration()
	case p.Audio != nil:
		return p.Audio.Index.Duration()
	}
	return 0
}

// Source is what a recording is made of.
type Source struct {
	Parts []Part
	Laid  []layout.Piece // what is shown of them, in order
	Times []layout.Part  // the parts, on the clock of the recording
	Ended bool           // no more will come
}

// File is a file that was packaged under a key and is in no library. Its error is ErrNotReady when nothing of it can be
// played.
func (s *Reader) File(key string, pictures, sound bool) (p Part, err error) {
	if pictures {
		if p.Video, err = s.Playable(key + "/pictures"); err != nil {
			return p, err
		}
	}
	if sound {
		if p.Audio, err = s.Playable(key + "/sound"); err != nil {
			return p, err
		}
	}
	if p.Video == nil && p.Audio == nil {
		return p, ErrNotReady
	}
	return p, nil
}

// Alone is a source that consists of one file.
func Alone(file Part) Source {
	x := Source{Parts: []Part{file}, Times: []layout.Part{{Length: file.Length()}}, Ended: true}
	x.Laid = layout.Lay(x.Times)
	return x
}

// end is where the last piece ends.
func (x Source) end() time.Duration {
	if len(x.Laid) == 0 {
		return 0
	}
	return x.Laid[len(x.Laid)-1].At.End
}

// PartAt is the part that is shown at a moment.
func (x Source) PartAt(t time.Duration) (Part, bool) {
	for _, p := range x.Laid {
		if p.At.Contains(t) {
			return x.Parts[p.Part], true
		}
	}
	return Part{}, false
}

// packedRow is a track of a recording as it is kept.
type packedRow struct {
	Position        int
	StartMs         int64
	FromMs, UntilMs *int64
	Role            string
	LagMs           int64
	Pack            string
	Video, Audio    bool
	State           string
	SmallPack       string
}

// Source reads what of a recording can be played. Its errors are ErrUnknown and ErrNotReady.
func (s *Reader) Source(ctx context.Context, recording uuid.UUID) (Source, error) {
	const query = `select rc.position, rc.start_ms, rc.from_ms, rc.until_ms,
			t.role, t.lag_ms, t.pack, t.video, t.audio, t.state, t.small_pack
		from recording_capture rc join capture c on c.id = rc.capture_id join track t on t.capture_id = c.id
		where rc.recording_id = $1 order by c.started_at, c.id, rc.position, t.role`
	rows, err := postgres.All[packedRow](ctx, s.DB, query, recording)
	if err != nil {
		return Source{}, fmt.Errorf("find the tracks of a recording: %w", err)
	}
	if len(rows) == 0 {
		return Source{}, ErrUnknown
	}
	x := Source{Ended: true}
	at := map[int]int{}
	for _, t := range rows {
		if t.State != "ready" && t.State != "failed" {
			x.Ended = false
		}
		if t.Pack == "" || t.State == "failed" {
			continue
		}
		n, ok := at[t.Position]
		if !ok {
			n = len(x.Parts)
			at[t.Position] = n
			x.Parts = append(x.Parts, Part{
				Start: time.Duration(t.StartMs) * time.Millisecond,
				window: func(length time.Duration) layout.Part {
					return window(t.StartMs, t.FromMs, t.UntilMs,
						length)
				},
			})
		}
		if err := s.take(&x.Parts[n], t); err != nil {
			return x, err
		}
	}
	for _, p := range x.Parts {
		x.Times = append(x.Times, p.window(p.Length()))
	}
	x.Laid = layout.Lay(x.Times)
	if len(x.Laid) == 0 {
		return x, ErrNotReady
	}
	return x, nil
}

// take reads what of a track can be played into its part.
func (s *Reader) take(p *Part, t packedRow) (err error) {
	var pictures, sound *Packed
	if t.Video {
		if pictures, err = s.Playable(path.Join(t.Pack, "pictures")); err != nil {
			return err
		}
	}
	if t.Audio {
		if sound, err = s.Playable(path.Join(t.Pack, "sound")); err != nil {
			return err
		}
	}
	// What a track has must all be there, or one would run ahead of the other.
	if t.Video && pictures == nil || t.Audio && sound == nil {
		return nil
	}
	if t.Role == "second" {
		p.SecondVideo, p.Lag = pictures, time.Duration(t.LagMs)*time.Millisecond
		return nil
	}
	p.Video, p.Audio = pictures, sound
	if t.SmallPack == "" {
		return nil
	}
	if p.SmallVideo, err = s.Playable(path.Join(t.SmallPack, "pictures")); err != nil {
		return err
	}
	p.SmallAudio, err = s.Playable(path.Join(t.SmallPack, "sound"))
	return err
}

// Playable is a packaged track, or nil when nothing of it can be played yet.
func (s *Reader) Playable(key string) (*Packed, error) {
	p, err := s.packed(key)
	if errors.Is(err, ErrNotReady) || err == nil && len(p.Index.Segments) == 0 {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	return &Packed{p, key}, nil
}

// OfTrack is the pictures or the sound of a packaged track. Its error is ErrNotReady when there is no such thing yet.
func (s *Reader) OfTrack(ctx context.Context, track uuid.UUID, what string) (*Packed, error) {
	pack, err := postgres.Value[string](ctx, s.DB, `select pack from track where id = $1 and pack <> ''`, track)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, ErrNotReady
	}
	if err != nil {
		return nil, fmt.Errorf("find a packaged track: %w", err)
	}
	t, err := s.Playable(path.Join(pack, what))
	if err == nil && t == nil {
		return nil, ErrNotReady
	}
	return t, err
}
