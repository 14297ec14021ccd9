package capture

import (
	"fmt"
	"time"

	"latelantern/internal/core/splice"
	"latelantern/internal/format/fmp4"
)

// grid puts the frames of sound that is used as it is on one unbroken grid from the beginning of the
// file. Containers keep their times in milliseconds, or in ticks of 90 kHz, into which no frame of
// 1024 samples fits; and sound that begins late has silence laid before it. A frame that is missing, or
// times that run away from the samples, are splice.ErrUneven.
type grid struct {
	head   fmp4.Init
	track  uint32
	base   int64 // of its first frame, in ticks
	frames int64 // so far
	filled int   // of these, silence that was laid before the first
	begun  bool
}

// frameTicks is the length of a frame of AAC-LC (ISO/IEC 14496-3, 4.5.1.1) in samples, which are the
// ticks of a packaged track of sound.
const frameTicks = 1024

// stray is how far a container may put a frame from where it belongs: it counts in milliseconds.
const stray = 2 * time.Millisecond

// silent is one frame of silence, by how many channels it has; what is written by the tool's own encoder.
var silent = map[int][]byte{1: {0x01, 0x18, 0x20, 0x07}, 2: {0x21, 0x10, 0x04, 0x60, 0x8C, 0x1C}}

// lay gives the fragments that stand for f on the grid.
func (g *grid) lay(f fmp4.Fragment) ([]fmp4.Fragment, error) {
	var out []fmp4.Fragment
	if !g.begun {
		g.begun = true
		var err error
		if g.track, err = fmp4.TrackID(g.head.Raw); err != nil {
			return nil, err
		}
		if out, err = g.begin(f.Samples[0].PTS); err != nil {
			return nil, err
		}
	}
	allowed := int64(stray) * int64(g.head.Timescale) / int64(time.Second)
	exact := true
	payloads := make([]fmp4.Payload, len(f.Samples))
	for i, s := range f.Samples {
		want := g.base + (g.frames+int64(i))*frameTicks
		if off := s.PTS - want; off > allowed || off < -allowed {
			return nil, splice.ErrUneven
		}
		// The last of a track may be shorter.
		exact = exact && s.PTS == want && (s.Dur == frameTicks || i == len(f.Samples)-1 && s.Dur < frameTicks)
		payloads[i] = fmp4.Payload{Data: f.Raw[s.Off : s.Off+int64(s.Size)], Dur: frameTicks, Sync: true}
	}
	if !exact {
		var err error
		if f, err = g.fragment(payloads); err != nil {
			return nil, err
		}
	}
	g.frames += int64(len(f.Samples))
	return append(out, f), nil
}

// begin sets where the grid begins, and lays silence before sound that begins later.
func (g *grid) begin(first int64) (out []fmp4.Fragment, err error) {
	g.base = first
	late := (first + frameTicks/2) / frameTicks
	if late <= 0 {
		return nil, nil
	}
	frame, ok := silent[g.head.Channels]
	if !ok {
		return nil, splice.ErrUneven
	}
	g.base = first - late*frameTicks
	g.filled = int(late)
	perFragment := max(1, 2*int64(g.head.Timescale)/frameTicks)
	for late > 0 {
		n := min(late, perFragment)
		payloads := make([]fmp4.Payload, n)
		for i := range payloads {
			payloads[i] = fmp4.Payload{Data: frame, Dur: frameTicks, Sync: true}
		}
		f, err := g.fragment(payloads)
		if err != nil {
			return nil, err
		}
		out = append(out, f)
		g.frames += n
		late -= n
	}
	return out, nil
}

// fragment writes frames at the next place of the grid.
func (g *grid) fragment(payloads []fmp4.Payload) (fmp4.Fragment, error) {
	raw, tfdtAt, err := fmp4.Write(uint32(g.frames+1), g.track, payloads)
	if err != nil {
		return fmp4.Fragment{}, fmt.Errorf("lay sound on its grid: %w", err)
	}
	f := fmp4.Fragment{Raw: raw, TfdtAt: tfdtAt}
	off := int64(len(raw))
	for _, p := range payloads {
		off -= int64(len(p.Data))
	}
	at := g.base + g.frames*frameTicks
	for _, p := range payloads {
		f.Samples = append(f.Samples,
			splice.Sample{Off: off, Size: uint32(len(p.Data)), Dur: p.Dur, Sync: true, DTS: at, PTS: at})
		off += int64(len(p.Data))
		at += frameTicks
	}
	return f, nil
}
