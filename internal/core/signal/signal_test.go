package signal

import (
	"math"
	"math/rand"
	"reflect"
	"testing"
	"time"

	"latelantern/internal/core/span"
)

// tone is a sine over a little noise.
func tone(d time.Duration, hz, amplitude float64) []float64 {
	r := rand.New(rand.NewSource(7))
	out := make([]float64, int(d*Rate/time.Second))
	for i := range out {
		out[i] = amplitude*math.Sin(2*math.Pi*hz*float64(i)/Rate) + 0.001*(r.Float64()-0.5)
	}
	return out
}

// talk is like speech: syllables of voice and hiss, four in a second, with gaps between words.
func talk(d time.Duration, amplitude float64, seed int64) []float64 {
	r := rand.New(rand.NewSource(seed))
	out := make([]float64, int(d*Rate/time.Second))
	for at := 0; at < len(out); {
		n := int((0.09 + 0.14*r.Float64()) * Rate)
		pitch, voiced, loud := 90+80*r.Float64(), r.Float64() < 0.8, 0.35+0.65*r.Float64()
		if at == 0 || at+2*n > len(out) { // it begins and ends with a loud syllable
			voiced, loud = true, 1
		}
		if at > 0 && at+2*n > len(out) {
			at = len(out) - n
		}
		for i := range n {
			if at+i >= len(out) {
				break
			}
			shape := math.Sin(math.Pi * float64(i) / float64(n))
			v := r.Float64()*2 - 1
			if voiced {
				v = 0
				for k := 1; k < 12; k++ {
					v += math.Sin(2*math.Pi*pitch*float64(k*i)/Rate) / float64(k)
				}
			} else {
				v *= 0.4
			}
			out[at+i] = amplitude * loud * shape * v * 0.5
		}
		at += n + int(0.05*Rate*r.Float64())
		if r.Float64() < 0.25 && at < len(out)-3*Rate/2 { // between words and sentences
			at += int((0.1 + 0.4*r.Float64()) * Rate)
		}
	}
	return out
}

// noise is what a room sounds like, at a level in dB of full scale.
func noise(in []float64, db float64, seed int64) []float64 {
	r := rand.New(rand.NewSource(seed))
	out := make([]float64, len(in))
	for i := range in {
		out[i] = in[i] + math.Pow(10, db/20)*r.NormFloat64()
	}
	return out
}

func join(parts ...[]float64) []float64 {
	var out []float64
	for _, p := range parts {
		out = append(out, p...)
	}
	return out
}

func silence(d time.Duration) []float64 { return make([]float64, int(d*Rate/time.Second)) }

// music is chords that ring on, two in a second.
func music(d time.Duration, amplitude float64) []float64 {
	r := rand.New(rand.NewSource(5))
	out := make([]float64, int(d*Rate/time.Second))
	const each = Rate / 2
	for at := 0; at < len(out); at += each {
		root := 110 * math.Pow(2, float64(r.Intn(12))/12)
		for i := 0; i < each && at+i < len(out); i++ {
			v, t := 0.0, float64(at+i)/Rate
			for _, k := range []float64{1, 1.26, 1.5, 2} {
				v += math.Sin(2 * math.Pi * root * k * t)
			}
			out[at+i] = amplitude * v / 4 * (0.55 + 0.45*math.Exp(-3*float64(i)/each))
		}
	}
	return out
}

// babble is many who talk at once.
func babble(d time.Duration, amplitude float64) []float64 {
	out := silence(d)
	for n := range int64(14) {
		for i, v := range talk(d, amplitude/3, 100+n) {
			out[i] += v
		}
	}
	return out
}

func measured(parts ...[]float64) *Sound {
	s := &Sound{}
	for _, p := range parts {
		s.Write(p)
	}
	s.Close()
	return s
}

func loudness(d time.Duration, hz, amplitude float64, channels int) float64 {
	var l Meter
	for i := range int(d * LoudRate / time.Second) {
		v := amplitude * math.Sin(2*math.Pi*hz*float64(i)/LoudRate)
		if channels == 2 {
			l.Write(v, v)
		} else {
			l.Write(v)
		}
	}
	return l.Levels.Integrated()
}

func TestLoudnessOfTheReferenceTone(t *testing.T) {
	// A sine of 997 Hz at full scale in one channel reads -3.01 LUFS, in two 0 (BS.1770-4, annex 1).
	for _, c := range []struct {
		amplitude float64
		channels  int
		want      float64
	}{{1, 1, -3.01}, {0.1, 1, -23.01}, {1, 2, 0}, {0.1, 2, -20}} {
		if got := loudness(20*time.Second, 997, c.amplitude, c.channels); math.Abs(got-c.want) > 0.05 {
			t.Errorf("amplitude %v in %d channels: %.2f LUFS, want %.2f", c.amplitude, c.channels, got, c.want)
		}
	}
	if got := loudness(5*time.Second, 997, 0, 2); !math.IsInf(got, -1) {
		t.Errorf("silence: %v", got)
	}
}

func TestSilenceDoesNotLowerLoudness(t *testing.T) {
	var a, b Meter
	for i := range 70 * LoudRate {
		v := 0.0
		if i < 10*LoudRate {
			v = 0.2 * math.Sin(2*math.Pi*500*float64(i)/LoudRate)
			a.Write(v)
		}
		b.Write(v)
	}
	if math.Abs(a.Levels.Integrated()-b.Levels.Integrated()) > 0.3 {
		t.Errorf("%.2f alone, %.2f with a minute of silence", a.Levels.Integrated(), b.Levels.Integrated())
	}
}

// TestSpeechIsFoundToItsEdges in the kinds of rooms and lectures that there are. The truth is
// where words were put.
func TestSpeechIsFoundToItsEdges(t *testing.T) {
	const s = time.Second
	said := []span.Span{{Start: 8 * s, End: 38 * s}, {Start: 58 * s, End: 98 * s}}
	lecture := func(gap []float64) []float64 {
		return join(silence(8*s), talk(30*s, 0.6, 1), gap, talk(40*s, 0.6, 2), silence(12*s))
	}
	plain := lecture(silence(20 * s))
	knocks := func() []float64 {
		out := lecture(silence(20 * s))
		r := rand.New(rand.NewSource(9))
		for _, at := range []time.Duration{2 * s, 4 * s, 5500 * time.Millisecond, 42 * s, 47 * s, 101 * s, 104 * s} {
			for i := range Rate / 12 {
				out[int(at*Rate/s)+i] += 0.6 * math.Exp(-float64(i)/400) * r.NormFloat64()
			}
		}
		return out
	}
	clipped := make([]float64, len(plain))
	for i, v := range plain {
		clipped[i] = min(1, max(-1, v*6))
	}
	murmur := lecture(silence(20 * s))
	for i, v := range babble(110*s, 0.02) {
		murmur[i] += v
	}
	muted := join(noise(lecture(silence(20*s)), -50, 3), silence(60*s))
	for name, sound := range map[string][]float64{
		"a quiet room":            noise(plain, -60, 3),
		"noise at -50":            noise(plain, -50, 3),
		"noise at -40":            noise(plain, -40, 3),
		"noise at -30":            noise(plain, -30, 3),
		"knocks":                  noise(knocks(), -50, 3),
		"clipping":                noise(clipped, -50, 3),
		"a murmur all the time":   noise(murmur, -60, 3),
		"a murmur in the break":   noise(lecture(babble(20*s, 0.06)), -55, 3),
		"music in the break":      noise(lecture(music(20*s, 0.2)), -55, 3),
		"a microphone turned off": muted,
	} {
		got := measured(sound).Speech()
		spans := got.Spans()
		if len(spans) != 2 {
			t.Errorf("%s: %v", name, spans)
			continue
		}
		for i, x := range spans {
			limit := 150 * time.Millisecond
			// these are as loud as the words beside them
			if name == "music in the break" || name == "a murmur in the break" {
				limit = 450 * time.Millisecond
			}
			if d := (x.Start - said[i].Start).Abs(); d > limit {
				t.Errorf("%s: speech begins %v away from %v", name, d, said[i].Start)
			}
			if d := (x.End - said[i].End).Abs(); d > max(limit, 300*time.Millisecond) {
				t.Errorf("%s: speech ends %v away from %v", name, d, said[i].End)
			}
		}
	}
}

func TestALectureWithHardlyAPause(t *testing.T) {
	s := measured(noise(join(silence(4*time.Second), talk(120*time.Second, 0.6, 4), silence(3*time.Second)), -55, 3))
	if got := s.Speech(); got.Len() < 118*time.Second || len(got.Spans()) != 1 {
		t.Errorf("%v", got.Spans())
	}
}

func TestWhatIsNoSpeech(t *testing.T) {
	for name, sound := range map[string][]float64{
		"silence": silence(time.Minute), "noise": noise(silence(time.Minute), -30, 1),
		"a tone": tone(time.Minute, 300, 0.2), "music": noise(music(time.Minute, 0.3), -50, 2), "nothing": nil,
	} {
		if got := measured(sound).Speech(); got.Len() > time.Second {
			t.Errorf("%s: %v", name, got.Spans())
		}
	}
}

func TestProposals(t *testing.T) {
	const s = time.Second
	for _, c := range []struct {
		name   string
		speech []span.Span
		length time.Duration
		want   []Proposal
	}{
		{"before, a break and after", []span.Span{{Start: 8 * s, End: 400 * s}, {Start: 415 * s, End: 900 * s}},
			960 * s,
			[]Proposal{{span.Span{End: 8*s - air}, Before}, {span.Span{Start: 400*s + air, End: 415*s - air}, Break},
				{span.Span{Start: 900*s + air, End: 960 * s}, After}}},
		{"a long silence is no break", []span.Span{{Start: 1 * s, End: 400 * s}, {Start: 409 * s, End: 900 * s}},
			901 * s,
			[]Proposal{{span.Span{Start: 400*s + air, End: 409*s - air}, Silence}}},
		{"a false start", []span.Span{{Start: 5 * s, End: 17 * s}, {Start: 31 * s, End: 900 * s}}, 901 * s,
			[]Proposal{{span.Span{End: 5*s - air}, Before},
				{span.Span{Start: 5*s - air, End: 31*s - air}, FalseStart}}},
		{"a false start after a word or two",
			[]span.Span{{Start: 5 * s, End: 7 * s}, {Start: 11 * s, End: 17 * s}, {Start: 31 * s, End: 900 * s}},
			901 * s,
			[]Proposal{{span.Span{End: 5*s - air}, Before},
				{span.Span{Start: 5*s - air, End: 31*s - air}, FalseStart}}},
		{"a lecture that only begins with a pause", []span.Span{{Start: 0, End: 60 * s}, {Start: 70 * s, End: 300 * s}},
			300 * s,
			[]Proposal{{span.Span{Start: 60*s + air, End: 70*s - air}, Silence}}},
		{"talk after the end",
			[]span.Span{{Start: 1 * s, End: 900 * s}, {Start: 920 * s, End: 935 * s}, {Start: 950 * s, End: 960 * s}},
			990 * s,
			[]Proposal{{span.Span{Start: 900*s + air, End: 960*s + air}, Tail},
				{span.Span{Start: 960*s + air, End: 990 * s}, After}}},
		{"two halves", []span.Span{{Start: 1 * s, End: 300 * s}, {Start: 340 * s, End: 600 * s}}, 600 * s,
			[]Proposal{{span.Span{Start: 300*s + air, End: 340*s - air}, Break}}},
		{"nothing said", nil, 60 * s, nil},
	} {
		if got := Proposals(span.Of(c.speech...), c.length); !reflect.DeepEqual(got, c.want) {
			t.Errorf("%s:\n%v, not\n%v", c.name, got, c.want)
		}
	}
}

func TestPeaks(t *testing.T) {
	s := measured(tone(time.Second, 300, 0.25), make([]float64, 100))
	if len(s.Peaks) != 11 {
		t.Fatalf("%d windows", len(s.Peaks))
	}
	if p := s.Peaks[3]; p < 126 || p > 129 {
		t.Errorf("a quarter of full scale is %d, want half of 255", p)
	}
}
