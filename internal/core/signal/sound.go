// Package signal measures what was heard and shown: how loud, where someone speaks, when
// the slide changes. It reads plain samples and grey pictures and knows nothing of files.
package signal

import (
	"math"
	"slices"
	"time"

	"latelantern/internal/core/span"
)

// Rate is the sample rate of all sound given to this package, in samples a second, mono.
const Rate = 16000

// Window is the length of one measured window.
const Window = 100 * time.Millisecond

const windowSamples = Rate / 10

// Sound measures a recording in one pass. Feed it with Write; ask when all is written.
// The zero value is ready.
type Sound struct {
	Peaks    []byte // per Window, the loudest sample: 255 is full scale, on a square-root scale
	levels   []float64
	gate     loudness
	peak     float64
	power    float64
	previous float64
	n        int
	total    int64
}

// Write takes the next samples, each from -1 to 1.
func (s *Sound) Write(samples []float64) {
	for _, v := range samples {
		s.peak = max(s.peak, math.Abs(v))
		// Speech carries above the rumble of a hall: a first difference takes the low end away.
		high := v - 0.97*s.previous
		s.previous = v
		s.power += high * high
		s.gate.add(v)
		s.total++
		if s.n++; s.n == windowSamples {
			s.flush()
		}
	}
}

func (s *Sound) flush() {
	if s.n == 0 {
		return
	}
	s.Peaks = append(s.Peaks, byte(math.Round(255*math.Sqrt(min(1, s.peak)))))
	s.levels = append(s.levels, 10*math.Log10(s.power/float64(s.n)+1e-12))
	s.peak, s.power, s.n = 0, 0, 0
}

// Close ends the measurement: the last, shorter window counts as one.
func (s *Sound) Close() { s.flush() }

// Length is how much was written.
func (s *Sound) Length() time.Duration {
	return time.Duration(s.total) * time.Second / Rate
}

// Loudness is the integrated loudness in LUFS (ITU-R BS.1770-4), -Inf for silence.
func (s *Sound) Loudness() float64 { return s.gate.integrated() }

// The shape of speech, as found in lectures: it stands clear of the noise of the room, lasts
// at least a syllable or two, and pauses between sentences belong to it.
const (
	clear      = 9.0   // dB above the noise floor
	faintest   = -62.0 // dB; below it nothing is speech
	minSpeech  = 300 * time.Millisecond
	maxPause   = 3 * time.Second
	floorShare = 0.10 // of all windows are taken to be room noise
)

// Speech is where someone speaks. A pause of up to three seconds belongs to the speech around it.
func (s *Sound) Speech() span.Set {
	if len(s.levels) == 0 {
		return span.Set{}
	}
	sorted := slices.Clone(s.levels)
	slices.Sort(sorted)
	floor := sorted[int(float64(len(sorted)-1)*floorShare)]
	// In a recording without pauses the quietest tenth is speech itself.
	loud := sorted[int(float64(len(sorted)-1)*0.9)]
	limit := max(min(floor+clear, loud-6), faintest)
	var heard []span.Span
	for i := 0; i < len(s.levels); i++ {
		from := i
		for i < len(s.levels) && s.levels[i] > limit {
			i++
		}
		if d := time.Duration(i-from) * Window; d >= minSpeech {
			heard = append(heard, span.Span{Start: time.Duration(from) * Window, End: time.Duration(i) * Window})
		}
	}
	for i := range heard {
		if i+1 < len(heard) && heard[i+1].Start-heard[i].End <= maxPause {
			heard[i].End = heard[i+1].Start
		}
	}
	return span.Of(heard...)
}

// Proposal is a stretch that might be struck, and why.
type Proposal struct {
	span.Span
	Why string // "before", "break" or "after"
}

// The least that is worth proposing.
const (
	minEdge  = 3 * time.Second
	minBreak = 10 * time.Second
	air      = 700 * time.Millisecond // left standing before and after speech
)

// Proposals names the dead air of a recording: before the first word, after the last, and
// long breaks in between.
func Proposals(speech span.Set, length time.Duration) []Proposal {
	spoken := speech.Spans()
	if len(spoken) == 0 {
		return nil
	}
	var out []Proposal
	add := func(why string, least, from, to time.Duration) {
		if to-from >= least {
			out = append(out, Proposal{span.Span{Start: from, End: to}, why})
		}
	}
	add("before", minEdge, 0, spoken[0].Start-air)
	for i := 1; i < len(spoken); i++ {
		add("break", minBreak, spoken[i-1].End+air, spoken[i].Start-air)
	}
	add("after", minEdge, spoken[len(spoken)-1].End+air, length)
	return out
}
