package fmp4

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"io"

	"latelantern/internal/core/splice"
)

// Packed is a packaged track: its head and the index of its segments. In its file the
// fragments stand one after another from byte 0; the head is kept apart.
type Packed struct {
	Init  Init
	Index splice.Index
}

// line is one line of a sidecar: the head first, then one for each segment.
type line struct {
	Init    *Init      `json:"init,omitempty"`
	Off     int64      `json:"off"`
	Len     int64      `json:"len"`
	TfdtAt  int64      `json:"tfdt"`
	DTS     int64      `json:"dts"`
	Data    int64      `json:"data"` // offset of the first sample from Off
	Samples [][4]int64 `json:"samples,omitempty"`
}

// AppendInit writes the first line of a sidecar.
func AppendInit(w io.Writer, x Init) error { return appendLine(w, line{Init: &x}) }

// AppendSegment writes the line of the fragment f, which stands at off in the packaged track.
func AppendSegment(w io.Writer, off int64, f Fragment) error {
	l := line{Off: off, Len: int64(len(f.Raw)), TfdtAt: f.TfdtAt, DTS: f.Samples[0].DTS, Data: f.Samples[0].Off}
	for _, s := range f.Samples {
		sync := int64(0)
		if s.Sync {
			sync = 1
		}
		l.Samples = append(l.Samples, [4]int64{int64(s.Size), int64(s.Dur), s.PTS - s.DTS, sync})
	}
	return appendLine(w, l)
}

func appendLine(w io.Writer, l line) error {
	b, err := json.Marshal(l)
	if err != nil {
		return fmt.Errorf("write an index line: %w", err)
	}
	if _, err := w.Write(append(b, '\n')); err != nil {
		return fmt.Errorf("write an index line: %w", err)
	}
	return nil
}

// ErrNoInit says that a sidecar does not begin with the head of a track.
var ErrNoInit = errors.New("the index has no head")

// ReadSidecar reads a sidecar, which may still be growing: a last line that is not yet
// whole is left out.
func ReadSidecar(r io.Reader) (*Packed, error) {
	in := bufio.NewReaderSize(r, 1<<20)
	p := &Packed{}
	for first := true; ; first = false {
		raw, err := in.ReadBytes('\n')
		if errors.Is(err, io.EOF) {
			if first {
				return nil, ErrNoInit
			}
			return p, nil
		}
		if err != nil {
			return nil, fmt.Errorf("read an index: %w", err)
		}
		var l line
		if err := json.Unmarshal(raw, &l); err != nil {
			return nil, fmt.Errorf("read an index: %w", err)
		}
		if first {
			if l.Init == nil {
				return nil, ErrNoInit
			}
			p.Init, p.Index.Timescale = *l.Init, l.Init.Timescale
			continue
		}
		if err := p.add(l); err != nil {
			return nil, err
		}
	}
}

func (p *Packed) add(l line) error {
	samples := make([]splice.Sample, len(l.Samples))
	off, dts := l.Off+l.Data, l.DTS
	for i, s := range l.Samples {
		samples[i] = splice.Sample{Off: off, Size: uint32(s[0]), Dur: uint32(s[1]), Sync: s[3] == 1, DTS: dts,
			PTS: dts + s[2]}
		off += s[0]
		dts += s[1]
	}
	if err := p.Index.Add(splice.Segment{Off: l.Off, Len: l.Len, TfdtAt: l.TfdtAt}, samples); err != nil {
		return fmt.Errorf("index the segment at byte %d: %w", l.Off, err)
	}
	return nil
}
