// Package signal measures what was heard and shown: how loud, where someone speaks, when
// the slide changes. It reads plain samples and grey pictures and knows nothing of files.
package signal

import (
	"math"
	"time"
)

// Rate is the sample rate of the sound in which speech is looked for, in samples a second, mono.
const Rate = 16000

// Window is the length of one window of peaks.
const Window = 100 * time.Millisecond

const windowSamples = Rate / 10

// Sound measures a recording in one pass. Feed it with Write; ask when all is written. The zero
// value is ready, and one with Peaks, Levels and Crossings of the same length goes on after them.
type Sound struct {
	Peaks     []byte    // per Window, the loudest sample: 255 is full scale, on a square-root scale
	Levels    []float64 // per frame of 20 ms, dB
	Crossings []uint8   // per frame of 20 ms, how often the sound goes through zero
	peak      float64
	power     float64
	below     bool // zero
	crossed   int
	low, high biquad // the band of speech
	ready     bool
	n         int // samples of the frame under way
	inWindow  int
}

// Write takes samples between -1 and 1, Rate to the second.
func (s *Sound) Write(samples []float64) {
	for _, v := range samples {
		s.Add(v, math.Abs(v))
	}
}

// Add takes one sample, and the loudest of those of which it is the mean.
func (s *Sound) Add(v, peak float64) {
	if !s.ready {
		s.low, s.high, s.ready = highPass(120, Rate), lowPass(3400, Rate), true
	}
	s.peak = max(s.peak, peak)
	// Above the rumble of a hall, and below most of its noise.
	w := s.high.step(s.low.step(v))
	s.power += w * w
	if below := v < 0; below != s.below {
		s.below = below
		s.crossed++
	}
	if s.n++; s.n == frameLen {
		s.Levels = append(s.Levels, 10*math.Log10(s.power/frameLen+1e-12))
		s.Crossings = append(s.Crossings, uint8(min(255, s.crossed)))
		s.power, s.n, s.crossed = 0, 0, 0
		s.low.settle()
		s.high.settle()
	}
	if s.inWindow++; s.inWindow == windowSamples {
		s.window()
	}
}

func (s *Sound) window() {
	s.Peaks = append(s.Peaks, byte(math.Round(255*math.Sqrt(min(1, s.peak)))))
	s.peak, s.inWindow = 0, 0
}

// Close ends the recording.
func (s *Sound) Close() {
	if s.inWindow > 0 {
		s.window()
	}
}

// Length is how much was written.
func (s *Sound) Length() time.Duration {
	return time.Duration(len(s.Levels))*frame + time.Duration(s.n)*time.Second/Rate
}
