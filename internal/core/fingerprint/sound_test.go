package fingerprint

import (
	"math"
	"math/rand/v2"
	"testing"
)

// lecture is the peaks of someone who speaks with pauses, one for each 100 ms.
func lecture(seed uint64, windows int) []byte {
	r := rand.New(rand.NewPCG(seed, 1))
	out := make([]byte, windows)
	level := 0.0
	for i := range out {
		if r.IntN(6) == 0 {
			level = []float64{0.02, 0.1, 0.3, 0.5, 0.7}[r.IntN(5)]
		}
		out[i] = byte(255 * math.Sqrt(min(1, level*(0.6+0.8*r.Float64()))))
	}
	return out
}

// encoded is the same sound by another encoder, louder or quieter.
func encoded(r *rand.Rand, in []byte, gain float64) []byte {
	out := make([]byte, len(in))
	for i, v := range in {
		out[i] = byte(min(255, max(0, math.Round(float64(v)*math.Sqrt(gain)+3*r.NormFloat64()))))
	}
	return out
}

func TestTheSameSoundIsKnownAgain(t *testing.T) {
	r := rand.New(rand.NewPCG(2, 2))
	hour := lecture(1, 36000)
	for name, c := range map[string]struct {
		other         []byte
		alike         bool
		offset, share int
	}{
		"another encoding": {encoded(r, hour, 1), true, 0, 36000},
		"quieter":          {encoded(r, hour, 0.3), true, 0, 36000},
		"begun later":      {encoded(r, hour[4321:], 1), true, 4321, 31679},
		"stopped earlier":  {encoded(r, hour[:20000], 1), true, 0, 20000},
		"begun earlier":    {encoded(r, append(lecture(9, 700), hour...), 1), true, -700, 36000},
		"begun later, and ran on": {encoded(r, append(append([]byte{}, hour[9000:]...), lecture(8, 2000)...), 1),
			true, 9000, 27000},
		"another lecture":                {lecture(2, 36000), false, 0, 0},
		"another lecture that is longer": {lecture(3, 50000), false, 0, 0},
		"silence":                        {make([]byte, 36000), false, 0, 0},
		"nothing":                        {nil, false, 0, 0},
		"a few seconds":                  {hour[:80], false, 0, 0},
	} {
		m, ok := SoundOf(hour).Alike(SoundOf(c.other))
		if ok != c.alike || ok && (m.Offset != c.offset || m.Overlap != c.share) {
			t.Errorf("%s: %+v, %v", name, m, ok)
		}
		back, both := SoundOf(c.other).Alike(SoundOf(hour))
		if both != ok || ok && (back.Offset != -m.Offset || back.Overlap != m.Overlap) {
			t.Errorf("%s, the other way round: %+v, %v", name, back, both)
		}
	}
}

// TestFewAreTakenForTheSame: a hundred lectures of one speaker are a hundred lectures.
func TestFewAreTakenForTheSame(t *testing.T) {
	one := SoundOf(lecture(100, 9000))
	for n := range uint64(100) {
		if m, ok := one.Alike(SoundOf(lecture(200+n, 9000))); ok {
			t.Errorf("number %d is taken for the same: %+v", n, m)
		}
	}
}

func BenchmarkAlike(b *testing.B) {
	one, two := SoundOf(lecture(1, 36000)), SoundOf(lecture(2, 36000))
	for b.Loop() {
		one.Alike(two)
	}
}
