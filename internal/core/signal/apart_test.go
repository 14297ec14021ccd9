package signal

import (
	"math"
	"math/rand"
	"testing"
	"time"
)

// syllables is noise that swells and falls away four times a second, with a breath now and then, as speech does.
func syllables(n int, level float64, seed int64) []float64 {
	r := rand.New(rand.NewSource(seed))
	out := make([]float64, n)
	breath := false
	for i := range out {
		if i%(Rate/4) == 0 {
			breath = r.Intn(6) == 0
		}
		if t := float64(i%(Rate/4)) / Rate * 4; !breath {
			out[i] = level * math.Pow(math.Sin(math.Pi*t), 2) * r.NormFloat64() * 0.5
		}
	}
	return out
}

// plucks are strings: each note rings on into the next.
func plucks(n int, level float64, seed int64) []float64 {
	r := rand.New(rand.NewSource(seed))
	out := make([]float64, n)
	for at := 0; at < n; at += Rate/4 + Rate/4*r.Intn(2) {
		root := 196 * math.Pow(2, float64(r.Intn(17))/12)
		for i := at; i < min(n, at+Rate*3/2); i++ {
			t := float64(i-at) / Rate
			for k := 1.0; k <= 5; k++ {
				out[i] += level / k / 2 * math.Exp(-t*(3+k)) * math.Sin(2*math.Pi*root*k*t)
			}
		}
	}
	return out
}

// TestWhatIsNoSpeaker: notes that are plucked, and those who chat in the rows, before, in the break and after.
func TestWhatIsNoSpeaker(t *testing.T) {
	const away = 0.16 // 16 dB
	for name, with := range map[string]func(n int, seed int64) []float64{
		"nothing":       func(n int, _ int64) []float64 { return make([]float64, n) },
		"plucked notes": func(n int, seed int64) []float64 { return plucks(n, 0.3, seed) },
		"chatter": func(n int, seed int64) []float64 {
			out := syllables(n, away, seed)
			for i := 3 * Rate; i < n; i += 5 * Rate { // by turns, with a moment of nothing
				for j := i; j < min(n, i+Rate/2); j++ {
					out[j] = 0
				}
			}
			return out
		},
	} {
		var all []float64
		var want []time.Duration
		now := func() time.Duration { return time.Duration(len(all)) * time.Second / Rate }
		for k, speech := range []int{0, 60, 0, 40, 0} {
			if k%2 == 0 {
				all = append(all, with(Rate*[]int{9, 0, 20, 0, 11}[k], int64(k))...)
				continue
			}
			want = append(want, now())
			all = append(all, syllables(speech*Rate, 1, int64(k))...)
			want = append(want, now())
		}
		room := rand.New(rand.NewSource(9))
		for i := range all {
			all[i] = 0.5*all[i] + 0.001*room.NormFloat64()
		}
		var s Sound
		s.Write(all)
		s.Close()
		spans := s.Speech().Spans()
		if len(spans) != 2 {
			t.Errorf("%s: %v", name, spans)
			continue
		}
		for i, x := range spans {
			if (x.Start-want[2*i]).Abs() > time.Second || (x.End-want[2*i+1]).Abs() > time.Second {
				t.Errorf("%s: %v, which is from %v to %v", name, x, want[2*i], want[2*i+1])
			}
		}
	}
}

// TestAQuestionFromTheRows: what is said far away for a moment, among what is said near, stays within the lecture.
func TestAQuestionFromTheRows(t *testing.T) {
	all := syllables(30*Rate, 1, 1)
	all = append(all, syllables(5*Rate, 0.16, 2)...)
	all = append(all, syllables(30*Rate, 1, 3)...)
	room := rand.New(rand.NewSource(9))
	for i := range all {
		all[i] = 0.5*all[i] + 0.001*room.NormFloat64()
	}
	var s Sound
	s.Write(all)
	s.Close()
	if spans := s.Speech().Spans(); len(spans) != 1 {
		t.Errorf("%v", spans)
	}
}

// TestALineMoreIsASlide, and a pointer is none.
func TestALineMoreIsASlide(t *testing.T) {
	blank := func() []byte {
		p := make([]byte, Width*Height)
		for i := range p {
			p[i] = 235
		}
		return p
	}
	line := func(p []byte, y, width int) {
		for row := y; row < y+3; row++ {
			for x := 12; x < 12+width; x++ {
				if (x/2+row)%3 < 2 {
					p[row*Width+x] = 40
				}
			}
		}
	}
	var pictures []Picture
	for n := range 40 {
		p := blank()
		for k := range min(5, n/8+1) {
			line(p, 10+k*12, 40+10*(k%3))
		}
		// A pointer, somewhere else in each picture.
		x, y := 20+(n*37)%110, 70+(n*7)%12
		for row := y; row < y+4; row++ {
			for col := x; col < x+4; col++ {
				p[row*Width+col] = 0
			}
		}
		pictures = append(pictures, Picture{At: time.Duration(2*n) * time.Second, Grey: p})
	}
	var at []int
	for _, c := range Changes(pictures) {
		at = append(at, c.Picture)
	}
	if want := []int{0, 8, 16, 24, 32}; len(at) != len(want) || at[1] != 8 || at[2] != 16 || at[3] != 24 ||
		at[4] != 32 {
		t.Errorf("slides begin with pictures %v, not %v", at, want)
	}
}
