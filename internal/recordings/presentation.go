package recordings

import (
	"bytes"
	"fmt"
	"time"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/signal"
	"latelantern/internal/core/span"
	"latelantern/internal/core/splice"
	"latelantern/internal/format/fmp4"
)

// Presentation is a recording as it can be played: as captured, or as published. It is kept as JSON with an edition, so
// the names of its fields there do not change.
type Presentation struct {
	Video       *Rendition `json:"Pictures"` // nil for none
	SecondVideo *Rendition `json:"Second"`   // beside the first, in step with it
	Audio       *Rendition `json:"Sound"`    // nil for none
	Length      time.Duration
	Ended       bool              // no more will come
	Stretches   []cutlist.Stretch // of the source, in published order
	Led         []span.Span       `json:",omitempty"` // where the second video leads, in published time
	// by which the audio is played louder or quieter; nil when it was not measured
	Gain *signal.Gain `json:",omitempty"`
}

// Renditions lists what there is of video, second video and audio.
func (p *Presentation) Renditions() []*Rendition {
	var out []*Rendition
	for _, x := range []*Rendition{p.Video, p.SecondVideo, p.Audio} {
		if x != nil {
			out = append(out, x)
		}
	}
	return out
}

// Track is a packaged track that segments of a rendition come from.
type Track struct {
	Init []byte `json:"Head"` // its initialization segment (RFC 8216, 3)
	// the same for those whose initialization segments differ at most in what was added
	Origin    string `json:",omitempty"`
	Added     bool   `json:",omitempty"` // the parameters of pieces were added to the initialization segment
	Codec     string // RFC 6381
	Width     int    // 0 for audio
	Height    int
	Timescale uint32 // ticks a second
	Source    string // key of the packaged track; "" for a blank
	Pieces    string // key of the pieces made for it; "" for none
}

// Rendition is the video or the audio of a presentation (RFC 8216, 2). Its segments come from one track, or from
// several when the lecture was captured in parts.
type Rendition struct {
	Track
	More     []Track   `json:",omitempty"`
	Segments []Segment `json:"Items"`
}

// Segment is a media segment: a range of bytes at a time.
type Segment struct {
	Track  int    `json:"Reel,omitempty"` // 0 for the first, n for More[n-1]
	Piece  bool   // from Pieces, else from Source
	Data   []byte `json:",omitempty"` // the bytes themselves, instead of either
	Off    int64
	Len    int64
	TfdtAt int64 // where in it its decode time stands
	Time   int64 // decode time, in ticks
	Dur    int64 // in ticks
	Frames int   `json:",omitempty"` // pictures or frames of audio in it; 0 for a blank
}

// TrackOf is the track of segment n.
func (r *Rendition) TrackOf(n int) *Track { return r.track(r.Segments[n].Track) }

func (r *Rendition) track(n int) *Track {
	if n == 0 {
		return &r.Track
	}
	return &r.More[n-1]
}

// InitOf is the initialization segment of track n. Its error is ErrUnknown when there is no such track.
func (r *Rendition) InitOf(n int) ([]byte, error) {
	if r == nil || n < 0 || n > len(r.More) {
		return nil, ErrUnknown
	}
	return r.track(n).Init, nil
}

// Shown is the first track that is no blank.
func (r *Rendition) Shown() *Track {
	for n := range len(r.More) + 1 {
		if x := r.track(n); x.Source != "" {
			return x
		}
	}
	return &r.Track
}

// Durations lists the lengths of the segments.
func (r *Rendition) Durations() []time.Duration {
	out := make([]time.Duration, len(r.Segments))
	for i, x := range r.Segments {
		clock := splice.Index{Timescale: r.TrackOf(i).Timescale}
		out[i] = clock.Time(x.Dur)
	}
	return out
}

// Bytes is how many bytes all segments have.
func (r *Rendition) Bytes() int64 {
	var sum int64
	for _, x := range r.Segments {
		sum += x.Len
	}
	return sum
}

// lies is where the bytes of segment n lie, when it has no data of its own.
func (r *Rendition) lies(n int) (key string) {
	if r.Segments[n].Piece {
		return r.TrackOf(n).Pieces
	}
	return r.TrackOf(n).Source
}

// Segment reads segment n with its time set. Its error is ErrUnknown when there is none.
func (s *Reader) Segment(r *Rendition, n int) ([]byte, error) {
	if r == nil || n < 0 || n >= len(r.Segments) {
		return nil, ErrUnknown
	}
	x := r.Segments[n]
	b := bytes.Clone(x.Data)
	if b == nil {
		var err error
		if b, err = s.Blobs.Range(r.lies(n), x.Off, x.Len); err != nil {
			return nil, fmt.Errorf("read a segment: %w", err)
		}
	}
	return b, fmp4.SetTime(b, x.TfdtAt, x.Time)
}

// firstRead is enough for the moof box of nearly every segment.
const firstRead = 2 << 10

// Frames counts the pictures or the frames of audio that segment n holds as it lies in the store.
func (s *Reader) Frames(r *Rendition, n int) (int, error) {
	x := r.Segments[n]
	if x.Data != nil {
		return fmp4.Count(x.Data, int64(len(x.Data)))
	}
	key := r.lies(n)
	begin, err := s.Blobs.Range(key, x.Off, min(x.Len, firstRead))
	if err != nil {
		return 0, err
	}
	if size := fmp4.MoofSize(begin); size > int64(len(begin)) && size <= x.Len {
		if begin, err = s.Blobs.Range(key, x.Off, size); err != nil {
			return 0, err
		}
	}
	return fmp4.Count(begin, x.Len)
}
