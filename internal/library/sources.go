package library

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

	"latelantern/internal/core/reel"
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

// packedTrack is a packaged track that can be played.
type packedTrack struct {
	*fmp4.Packed
	key string
}

func (t *packedTrack) reel() Reel {
	h := t.Init
	sum := sha256.Sum256(h.Raw)
	return Reel{Head: h.Raw, Origin: hex.EncodeToString(sum[:8]), Codec: h.Codec, Width: h.Width, Height: h.Height, Timescale: h.Timescale, Source: t.key + ".mp4"}
}

// part is a stretch of a capture in a recording: what of the capture can be played, and how much
// of that belongs to the recording.
type part struct {
	start    time.Duration // of the capture's clock, on that of the recording
	window   func(length time.Duration) reel.Part
	pictures *packedTrack // nil for none
	sound    *packedTrack
	second   *packedTrack
	lag      time.Duration // of the second picture

	smallPictures, smallSound *packedTrack // the small copy, nil while there is none
}

func (p part) length() time.Duration {
	switch {
	case p.pictures != nil:
		return p.pictures.Index.Duration()
	case p.sound != nil:
		return p.sound.Index.Duration()
	}
	return 0
}

// source is what a recording is made of.
type source struct {
	parts []part
	laid  []reel.Piece
	times []reel.Part
	ended bool
}

// end is where the last piece ends.
func (x source) end() time.Duration {
	if len(x.laid) == 0 {
		return 0
	}
	return x.laid[len(x.laid)-1].At.End
}

// source reads what of a recording can be played. Its errors are ErrUnknown and ErrNotReady.
func (s *Service) source(ctx context.Context, recording uuid.UUID) (source, error) {
	type row struct {
		Position        int
		StartMs         int64
		FromMs, UntilMs *int64
		Role            string
		LagMs           int64
		Pack            string
		Pictures, Sound bool
		State           string
		SmallPack       string
	}
	const query = `select rc.position, rc.start_ms, rc.from_ms, rc.until_ms, t.role, t.lag_ms, t.pack, t.pictures, t.sound, t.state, t.small_pack
		from recording_capture rc join capture c on c.id = rc.capture_id join track t on t.capture_id = c.id
		where rc.recording_id = $1 order by c.started_at, c.id, rc.position, t.role`
	rows, err := postgres.All[row](ctx, s.DB, query, recording)
	if err != nil {
		return source{}, fmt.Errorf("find the tracks of a recording: %w", err)
	}
	if len(rows) == 0 {
		return source{}, ErrUnknown
	}
	x := source{ended: true}
	at := map[int]int{}
	for _, t := range rows {
		if t.State != "ready" && t.State != "failed" {
			x.ended = false
		}
		if t.Pack == "" || t.State == "failed" {
			continue
		}
		n, ok := at[t.Position]
		if !ok {
			n = len(x.parts)
			at[t.Position] = n
			x.parts = append(x.parts, part{start: time.Duration(t.StartMs) * time.Millisecond, window: func(length time.Duration) reel.Part { return window(t.StartMs, t.FromMs, t.UntilMs, length) }})
		}
		p := &x.parts[n]
		var pictures, sound *packedTrack
		if t.Pictures {
			if pictures, err = s.playable(path.Join(t.Pack, "pictures")); err != nil {
				return x, err
			}
		}
		if t.Sound {
			if sound, err = s.playable(path.Join(t.Pack, "sound")); err != nil {
				return x, err
			}
		}
		// What a track has must all be there, or one would run ahead of the other.
		if t.Pictures && pictures == nil || t.Sound && sound == nil {
			continue
		}
		if t.Role == "second" {
			p.second, p.lag = pictures, time.Duration(t.LagMs)*time.Millisecond
		} else {
			p.pictures, p.sound = pictures, sound
		}
		if t.SmallPack != "" && t.Role == "main" {
			if p.smallPictures, err = s.playable(path.Join(t.SmallPack, "pictures")); err != nil {
				return x, err
			}
			if p.smallSound, err = s.playable(path.Join(t.SmallPack, "sound")); err != nil {
				return x, err
			}
		}
	}
	for _, p := range x.parts {
		x.times = append(x.times, p.window(p.length()))
	}
	x.laid = reel.Lay(x.times)
	if len(x.laid) == 0 {
		return x, ErrNotReady
	}
	return x, nil
}

// playable is a packaged track, or nil when nothing of it can be played yet.
func (s *Service) playable(key string) (*packedTrack, error) {
	p, err := s.packed(key)
	if errors.Is(err, ErrNotReady) || err == nil && len(p.Index.Segments) == 0 {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	return &packedTrack{p, key}, nil
}
