package library

import (
	"bytes"
	"fmt"
	"time"

	"latelantern/internal/core/signal"
	"latelantern/internal/core/span"
	"latelantern/internal/core/splice"
	"latelantern/internal/format/fmp4"
)

// Rendition is a recording as it can be played: as captured, or as published.
type Rendition struct {
	Pictures  *Rail // nil for none
	Second    *Rail // a second picture beside the first, in step with it
	Sound     *Rail
	Length    time.Duration
	Ended     bool             // no more will come
	Stretches []splice.Stretch // of the source, in published order
	Led       []span.Span      `json:",omitempty"` // where the second picture leads, in published time
	Gain      *signal.Gain     `json:",omitempty"` // by which the sound is to be played louder or quieter; nil when it was not measured
}

// Rails lists what there is of pictures, second pictures and sound.
func (r *Rendition) Rails() []*Rail {
	var out []*Rail
	for _, x := range []*Rail{r.Pictures, r.Second, r.Sound} {
		if x != nil {
			out = append(out, x)
		}
	}
	return out
}

// Reel is a packaged track that segments of a rail come from.
type Reel struct {
	Head      []byte
	Origin    string `json:",omitempty"` // the same for heads that differ at most in what was added to them
	Added     bool   `json:",omitempty"` // the parameters of pieces were added to the head
	Codec     string
	Width     int
	Height    int
	Timescale uint32
	Source    string // key of the packaged track; "" for a blank
	Pieces    string // key of the pieces made for it; "" for none
}

// Rail is one track of a rendition. Its segments come from one reel, or from several when
// the lecture was captured in parts.
type Rail struct {
	Reel
	More  []Reel `json:",omitempty"`
	Items []Item
}

// Item is one segment: a range of bytes at a time.
type Item struct {
	Reel   int    `json:",omitempty"` // 0 for the first, n for More[n-1]
	Piece  bool   // from Pieces, else from Source
	Data   []byte `json:",omitempty"` // the bytes themselves, instead of either
	Off    int64
	Len    int64
	TfdtAt int64
	Time   int64 // decode time, in ticks
	Dur    int64
	Frames int `json:",omitempty"` // pictures or frames of sound in it; 0 for a blank
}

// ReelOf is the reel of segment n.
func (r *Rail) ReelOf(n int) *Reel { return r.reel(r.Items[n].Reel) }

func (r *Rail) reel(n int) *Reel {
	if n == 0 {
		return &r.Reel
	}
	return &r.More[n-1]
}

// HeadOf is the head of reel n. Its error is ErrUnknown when there is no such reel.
func (r *Rail) HeadOf(n int) ([]byte, error) {
	if r == nil || n < 0 || n > len(r.More) {
		return nil, ErrUnknown
	}
	return r.reel(n).Head, nil
}

// Durations lists the lengths of the segments.
func (r *Rail) Durations() []time.Duration {
	out := make([]time.Duration, len(r.Items))
	for i, it := range r.Items {
		x := splice.Index{Timescale: r.ReelOf(i).Timescale}
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
		key := r.ReelOf(n).Source
		if it.Piece {
			key = r.ReelOf(n).Pieces
		}
		var err error
		if b, err = s.Blobs.Range(key, it.Off, it.Len); err != nil {
			return nil, fmt.Errorf("read a segment: %w", err)
		}
	}
	return b, fmp4.SetTime(b, it.TfdtAt, it.Time)
}

// laying lays the segments of one rail end to end, with blanks where there are none.
type laying struct {
	s      *Service
	rail   *Rail
	blank  *blank
	keep   func(reel int) string // the key for new segments of a reel; nil to keep them in the items
	known  map[string]int
	pieces map[int]*bytes.Buffer
	cursor time.Duration
	dark   int // the reel of blanks, or -1
}

// slack is how far segments may lie apart without a blank between them: less is played over.
const slack = 50 * time.Millisecond

func (s *Service) laying(b *blank, keep func(reel int) string) *laying {
	return &laying{s: s, rail: &Rail{}, blank: b, keep: keep, known: map[string]int{}, pieces: map[int]*bytes.Buffer{}, dark: -1}
}

// reel is the number of a reel, which is added when it is new.
func (l *laying) reel(r Reel) int {
	name := r.Source + string(r.Head)
	if n, ok := l.known[name]; ok {
		return n
	}
	n := len(l.known)
	if l.known[name] = n; n == 0 {
		l.rail.Reel = r
	} else {
		l.rail.More = append(l.rail.More, r)
	}
	return n
}

// add lays one item at a time of the rail. Data are its bytes when they are new.
func (l *laying) add(it Item, reel int, at time.Duration, data []byte) {
	it.Reel = reel
	x := splice.Index{Timescale: l.rail.reel(reel).Timescale}
	switch {
	case data == nil:
	case l.keep == nil:
		it.Data, it.Piece = data, false
	default:
		b := l.pieces[reel]
		if b == nil {
			b = &bytes.Buffer{}
			l.pieces[reel] = b
		}
		it.Piece, it.Off = true, int64(b.Len())
		b.Write(data)
	}
	l.rail.Items = append(l.rail.Items, it)
	l.cursor = at + x.Time(it.Dur)
}

// fill lays blanks up to a time. Unless all is given, only whole ones are laid, so that more
// can follow.
func (l *laying) fill(to time.Duration, all bool) error {
	for to-l.cursor > slack {
		length := min(blankStep, to-l.cursor)
		if length < blankStep && !all {
			return nil
		}
		raw, tfdtAt, dur, err := l.blank.segment(length)
		if err != nil {
			return fmt.Errorf("make a blank: %w", err)
		}
		if dur == 0 {
			return nil
		}
		if l.dark < 0 {
			h := l.blank.head
			l.dark = l.reel(Reel{Head: h.Raw, Codec: h.Codec, Width: h.Width, Height: h.Height, Timescale: h.Timescale})
		}
		l.add(Item{Len: int64(len(raw)), TfdtAt: tfdtAt, Time: l.blank.ticks(l.cursor), Dur: dur}, l.dark, l.cursor, raw)
	}
	return nil
}

// done keeps what is new and gives the rail; nil when nothing but blanks was laid.
func (l *laying) done() (*Rail, error) {
	if len(l.known) == 0 || len(l.known) == 1 && l.dark >= 0 {
		return nil, nil
	}
	for n, b := range l.pieces {
		key := l.keep(n)
		if err := l.s.Blobs.Put(key, b); err != nil {
			return nil, err
		}
		l.rail.reel(n).Pieces = key
	}
	return l.rail, nil
}

// Shown is the first reel that is no blank.
func (r *Rail) Shown() *Reel {
	for n := range len(r.More) + 1 {
		if x := r.reel(n); x.Source != "" {
			return x
		}
	}
	return &r.Reel
}
