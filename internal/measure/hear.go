package measure

import (
	"context"
	"fmt"
	"math"
	"time"

	"latelantern/internal/core/signal"
	"latelantern/internal/platform/media"
	"latelantern/internal/recordings"
)

// hearing takes the sound of a track in one pass: in all its channels at 48 kHz for how loud it
// is, and as one channel at 16 kHz for what is said. It can be broken off at any whole window,
// and goes on from there when there is more of the track.
type hearing struct {
	sound    signal.Sound
	meter    signal.Meter
	channels int
	skip     int64 // samples of each channel to leave out at the beginning
	rest     []byte
	sum      float64 // of those samples of which one is made
	peak     float64
	n        int
}

const (
	each         = signal.LoudRate / signal.Rate
	windowLoud   = signal.LoudRate / 10                         // samples of a window at LoudRate
	framesWindow = int(signal.Window / (20 * time.Millisecond)) // frames of signal.Sound in a window
	settle       = signal.LoudRate / 5                          // samples that decoders and filters need to settle
)

// heard is how much is measured, in whole windows.
func (h *hearing) heard() int { return len(h.meter.Levels) }

// listen decodes what of the sound of a track is not measured yet and measures it. When all of
// the track is there, so that nothing will follow, ended says so.
func (s *Service) listen(ctx context.Context, t *recordings.Packed, h *hearing, ended bool) error {
	h.channels = 2
	if t.Init.Channels == 1 {
		h.channels = 1
	}
	done := int64(h.heard()) * windowLoud
	from := 0
	for i, seg := range t.Index.Segments {
		if loudAt(t, t.Index.Samples[seg.First].PTS) <= done-settle {
			from = i
		}
	}
	// Decoding gives the priming that the player leaves out.
	h.skip = done - loudAt(t, t.Index.Samples[t.Index.Segments[from].First].PTS)
	in, err := s.Recordings.Stream(t, from, len(t.Index.Segments))
	if err != nil {
		return err
	}
	defer in.Close()
	_, err = media.FFmpeg(ctx, media.Run{
		Limit: 40 * time.Minute, Nice: 5, Input: media.Input{Format: media.MOV, Path: "pipe:0"}, Stdin: in, Stdout: h,
		Output: []string{"-map", "0:a:0", "-ac", fmt.Sprint(h.channels), "-ar", fmt.Sprint(signal.LoudRate), "-f",
			"s16le", "pipe:1"},
	})
	if err != nil {
		return err
	}
	if ended {
		h.sound.Close()
		return nil
	}
	// A window that is not full is measured again when it is.
	whole := h.heard()
	h.sound = signal.Sound{Peaks: h.sound.Peaks[:min(whole, len(h.sound.Peaks))],
		Levels:    h.sound.Levels[:min(whole*framesWindow, len(h.sound.Levels))],
		Crossings: h.sound.Crossings[:min(whole*framesWindow, len(h.sound.Crossings))]}
	h.meter = signal.Meter{Levels: h.meter.Levels}
	h.rest, h.sum, h.peak, h.n = nil, 0, 0, 0
	return nil
}

// loudAt is a time of the track in samples at LoudRate.
func loudAt(t *recordings.Packed, ticks int64) int64 {
	return ticks * signal.LoudRate / int64(t.Index.Timescale)
}

// Write takes little-endian samples of 16 bits, the channels by turns.
func (h *hearing) Write(b []byte) (int, error) {
	data := append(h.rest, b...)
	value := func(i int) float64 { return float64(int16(uint16(data[i])|uint16(data[i+1])<<8)) / 32768 }
	size := 2 * h.channels
	for ; len(data) >= size; data = data[size:] {
		if h.skip > 0 {
			h.skip--
			continue
		}
		left := value(0)
		middle := left
		if h.channels == 2 {
			right := value(2)
			h.meter.Write(left, right)
			middle = (left + right) / 2
		} else {
			h.meter.Write(left)
		}
		h.sum += middle
		h.peak = max(h.peak, math.Abs(middle))
		if h.n++; h.n == each { // the mean of three is filter enough for energies
			h.sound.Add(h.sum/each, h.peak)
			h.sum, h.peak, h.n = 0, 0, 0
		}
	}
	h.rest = append(h.rest[:0:0], data...)
	return len(b), nil
}
