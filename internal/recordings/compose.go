package recordings

import (
	"bytes"
	"fmt"
	"time"

	"latelantern/internal/core/splice"
	"latelantern/internal/format/fmp4"
)

// Composer puts the segments of one rendition end to end, with blanks where there are none.
type Composer struct {
	blank  *blank
	fresh  Fresh
	out    *Rendition
	known  map[string]int
	pieces map[int]*bytes.Buffer
	cursor time.Duration
	dark   int // the track of blanks, or -1
}

// Fresh keeps the new segments of a track and gives the key under which they lie. Nil has them kept in the rendition.
type Fresh func(track int, segments *bytes.Buffer) (key string, err error)

// slack is how far segments may lie apart without a blank between them: less is played over.
const slack = 50 * time.Millisecond

// Video composes pictures, and black where there are none.
func Video(fresh Fresh) *Composer { return composer(black(), fresh) }

// Audio composes sound, and silence where there is none.
func Audio(fresh Fresh) *Composer { return composer(silence(), fresh) }

func composer(b *blank, fresh Fresh) *Composer {
	return &Composer{blank: b, fresh: fresh, out: &Rendition{}, known: map[string]int{},
		pieces: map[int]*bytes.Buffer{}, dark: -1}
}

// Track is the number of a track, which is added when it is new.
func (c *Composer) Track(t Track) int {
	name := t.Source + string(t.Init)
	if n, ok := c.known[name]; ok {
		return n
	}
	n := len(c.known)
	if c.known[name] = n; n == 0 {
		c.out.Track = t
	} else {
		c.out.More = append(c.out.More, t)
	}
	return n
}

// Add puts a segment of a track at a time. Data are its bytes when they are new.
func (c *Composer) Add(x Segment, track int, at time.Duration, data []byte) {
	x.Track = track
	clock := splice.Index{Timescale: c.out.track(track).Timescale}
	switch {
	case data == nil:
	case c.fresh == nil:
		x.Data, x.Piece = data, false
	default:
		b := c.pieces[track]
		if b == nil {
			b = &bytes.Buffer{}
			c.pieces[track] = b
		}
		x.Piece, x.Off = true, int64(b.Len())
		b.Write(data)
	}
	c.out.Segments = append(c.out.Segments, x)
	c.cursor = at + clock.Time(x.Dur)
}

// Fill puts blanks up to a time. Unless all is given, only whole ones are put, so that more can follow.
func (c *Composer) Fill(to time.Duration, all bool) error {
	for to-c.cursor > slack {
		length := min(blankStep, to-c.cursor)
		if length < blankStep && !all {
			return nil
		}
		raw, tfdtAt, dur, err := c.blank.segment(length)
		if err != nil {
			return fmt.Errorf("make a blank: %w", err)
		}
		if dur == 0 {
			return nil
		}
		if c.dark < 0 {
			i := c.blank.init
			c.dark = c.Track(Track{Init: i.Raw, Codec: i.Codec, Width: i.Width, Height: i.Height,
				Timescale: i.Timescale})
		}
		x := Segment{Len: int64(len(raw)), TfdtAt: tfdtAt, Time: c.blank.ticks(c.cursor), Dur: dur}
		c.Add(x, c.dark, c.cursor, raw)
	}
	return nil
}

// Done keeps what is new and gives the rendition; nil when there is nothing in it but blanks.
func (c *Composer) Done() (*Rendition, error) {
	if len(c.known) == 0 || len(c.known) == 1 && c.dark >= 0 {
		return nil, nil
	}
	for n, b := range c.pieces {
		key, err := c.fresh(n, b)
		if err != nil {
			return nil, err
		}
		c.out.track(n).Pieces = key
	}
	return c.out, nil
}

// Compose makes the segment of one step of a track. A copied step needs no bytes; for the others data are those of a
// new segment with the given samples, or with those of the source when samples is nil.
func (s *Reader) Compose(t *Packed, step splice.Step, samples [][]byte) (x Segment, data []byte, err error) {
	if step.Kind == splice.Copy {
		seg := t.Index.Segments[step.First]
		first := t.Index.Samples[seg.First]
		return Segment{
			Off: seg.Off, Len: seg.Len, TfdtAt: seg.TfdtAt, Time: first.DTS + step.Out - step.Source, Dur: step.Dur,
			Frames: step.To - step.From,
		}, nil, nil
	}
	if samples == nil {
		if samples, err = s.samples(t, step); err != nil {
			return x, nil, err
		}
	}
	payload := make([]fmp4.Payload, len(samples))
	at := step.Source
	for i := range samples {
		n := step.From + i
		end := step.Source + step.Dur
		if i+1 < len(samples) {
			end = t.Index.Shown(n + 1).PTS
		}
		payload[i] = fmp4.Payload{Data: samples[i], Dur: uint32(max(0, end-at)), Sync: i == 0 || t.Init.Width == 0}
		at = end
	}
	track, err := fmp4.TrackID(t.Init.Raw)
	if err != nil {
		return x, nil, err
	}
	data, tfdtAt, err := fmp4.Write(1, track, payload)
	if err != nil {
		return x, nil, err
	}
	return Segment{Piece: true, Len: int64(len(data)), TfdtAt: tfdtAt, Time: step.Out, Dur: step.Dur,
		Frames: len(samples)}, data, nil
}

// samples reads the samples that a carried step shows.
func (s *Reader) samples(t *Packed, step splice.Step) ([][]byte, error) {
	f, err := s.Blobs.Open(t.Key + ".mp4")
	if err != nil {
		return nil, err
	}
	defer f.Close()
	var out [][]byte
	for n := step.From; n < step.To; n++ {
		x := t.Index.Shown(n)
		b := make([]byte, x.Size)
		if _, err := f.ReadAt(b, x.Off); err != nil {
			return nil, fmt.Errorf("read a sample: %w", err)
		}
		out = append(out, b)
	}
	return out, nil
}
