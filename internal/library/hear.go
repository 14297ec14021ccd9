package library

import (
	"context"
	"fmt"
	"math"
	"time"

	"latelantern/internal/core/signal"
	"latelantern/internal/platform/media"
)

// hearing takes the sound of a recording in one pass: in stereo at 48 kHz for how loud it is,
// and as one channel at 16 kHz for what is said.
type hearing struct {
	sound    signal.Sound
	loudness signal.Loudness
	channels int
	skip     int // samples of each channel to leave out at the beginning
	rest     []byte
	sum      float64 // of those samples of which one is made
	peak     float64
	n        int
}

const each = signal.LoudRate / signal.Rate

// listen decodes the sound of a track and measures it.
func (s *Service) listen(ctx context.Context, t *packedTrack) (*hearing, error) {
	in, err := s.packedStream(t)
	if err != nil {
		return nil, err
	}
	defer in.Close()
	heard := &hearing{channels: 2}
	if t.Init.Channels == 1 {
		heard.channels = 1
	}
	// Decoding gives the priming that the player leaves out.
	if first := t.Index.Samples[0].PTS; first < 0 {
		heard.skip = int(-first * signal.LoudRate / int64(t.Index.Timescale))
	}
	_, err = media.FFmpeg(ctx, media.Run{
		Limit: 40 * time.Minute, Input: media.Input{Format: media.MOV, Path: "pipe:0"}, Stdin: in, Stdout: heard,
		Output: []string{"-map", "0:a:0", "-ac", fmt.Sprint(heard.channels), "-ar", fmt.Sprint(signal.LoudRate), "-f", "s16le", "pipe:1"},
	})
	heard.sound.Close()
	return heard, err
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
			h.loudness.Write(left, right)
			middle = (left + right) / 2
		} else {
			h.loudness.Write(left)
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
