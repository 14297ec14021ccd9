package signal

import (
	"bytes"
	"math"
	"math/cmplx"
	"testing"
	"time"
)

// gain is by what a filter multiplies a tone of a frequency.
func (f *biquad) gain(hz, rate float64) float64 {
	z := cmplx.Exp(complex(0, -2*math.Pi*hz/rate))
	above := complex(f.b0, 0) + complex(f.b1, 0)*z + complex(f.b2, 0)*z*z
	below := 1 + complex(f.a1, 0)*z + complex(f.a2, 0)*z*z
	return cmplx.Abs(above / below)
}

// TestTheBandOfSpeech: filters of Butterworth let through what they should, at any frequency.
func TestTheBandOfSpeech(t *testing.T) {
	for _, cutoff := range []float64{120, 3400} {
		low, high := lowPass(cutoff, Rate), highPass(cutoff, Rate)
		k := math.Tan(math.Pi * cutoff / Rate)
		for _, hz := range []float64{0, 60, 120, 500, 3400, 6000, 7999} {
			x := math.Pow(math.Tan(math.Pi*hz/Rate)/k, 4)
			for name, c := range map[string]struct{ got, want float64 }{
				"low":  {low.gain(hz, Rate), 1 / math.Sqrt(1+x)},
				"high": {high.gain(hz, Rate), math.Sqrt(x / (1 + x))},
			} {
				if math.Abs(c.got-c.want) > 1e-9 {
					t.Errorf("the %s pass of %v Hz multiplies %v Hz by %v, want %v", name, cutoff, hz, c.got, c.want)
				}
			}
		}
	}
}

// TestKWeighting has the coefficients of ITU-R BS.1770-4, annex 1, tables 1 and 2.
func TestKWeighting(t *testing.T) {
	shelf, pass := kWeighting(48000)
	for _, c := range []struct{ got, want float64 }{
		{shelf.b0, 1.53512485958697}, {shelf.b1, -2.69169618940638}, {shelf.b2, 1.19839281085285},
		{shelf.a1, -1.69065929318241}, {shelf.a2, 0.73248077421585},
		{pass.b0, 1}, {pass.b1, -2}, {pass.b2, 1}, {pass.a1, -1.99004745483398}, {pass.a2, 0.99007225036621},
	} {
		if math.Abs(c.got-c.want) > 1e-8 {
			t.Errorf("%v, want %v", c.got, c.want)
		}
	}
}

// TestAFilterAnswersAnImpulse as its recursion says, and stops reckoning once nothing is left of it.
func TestAFilterAnswersAnImpulse(t *testing.T) {
	f := biquad{b0: 0.5, b1: -0.25, b2: 0.125, a1: -0.5, a2: 0.25}
	var x, y [8]float64
	x[0] = 1
	for i := range x {
		y[i] = f.b0 * x[i]
		if i > 0 {
			y[i] += f.b1*x[i-1] - f.a1*y[i-1]
		}
		if i > 1 {
			y[i] += f.b2*x[i-2] - f.a2*y[i-2]
		}
		if got := f.step(x[i]); math.Abs(got-y[i]) > 1e-12 {
			t.Errorf("step %d gives %v, want %v", i, got, y[i])
		}
	}
	for _, c := range []struct {
		z1, z2 float64
		gone   bool
	}{{1e-31, -1e-31, true}, {1e-31, 1e-29, false}, {-1e-29, 1e-31, false}, {1e-29, 1e-29, false}} {
		f := biquad{z1: c.z1, z2: c.z2}
		f.settle()
		if gone := f.z1 == 0 && f.z2 == 0; gone != c.gone || !gone && (f.z1 != c.z1 || f.z2 != c.z2) {
			t.Errorf("%v and %v became %v and %v", c.z1, c.z2, f.z1, f.z2)
		}
	}
}

// TestASoundIsMeasured: level, crossings and peak of what is known.
func TestASoundIsMeasured(t *testing.T) {
	var s Sound
	for i := range Rate + 100 {
		s.Add(math.Sin(2*math.Pi*1000*(float64(i)+0.5)/Rate), 0.25)
	}
	if len(s.Levels) != 50 || len(s.Crossings) != 50 || len(s.Peaks) != 10 {
		t.Fatalf("%d levels, %d crossings, %d peaks", len(s.Levels), len(s.Crossings), len(s.Peaks))
	}
	if l := s.Levels[30]; math.Abs(l+3.04) > 0.1 { // half of full power, in the middle of the band
		t.Errorf("its level is %v dB", l)
	}
	if s.Crossings[30] != 40 {
		t.Errorf("a tone of 1 kHz goes through zero %d times in 20 ms", s.Crossings[30])
	}
	for i, p := range s.Peaks {
		if p != 128 { // the root of a quarter is a half
			t.Errorf("peak %d is %d", i, p)
		}
	}
	if l := s.Length(); l != time.Second+6250*time.Microsecond {
		t.Errorf("it is %v long", l)
	}
	s.Close()
	s.Close()
	if len(s.Peaks) != 11 {
		t.Errorf("closed there are %d peaks", len(s.Peaks))
	}
	var fast Sound
	for i := range frameLen {
		fast.Add(float64(1-2*(i%2)), 2)
	}
	if fast.Crossings[0] != 255 {
		t.Errorf("what crosses all the time crosses %d times", fast.Crossings[0])
	}
	if fast.Close(); fast.Peaks[0] != 255 {
		t.Errorf("what is louder than full scale peaks at %d", fast.Peaks[0])
	}
	var still Sound
	for range 2 * frameLen {
		still.Add(0, 0)
	}
	if still.Levels[1] != -120 || still.Crossings[1] != 0 {
		t.Errorf("silence has %v dB and %d crossings", still.Levels[1], still.Crossings[1])
	}
}

// even is some windows of one power.
func even(n int, db float64) Levels {
	out := make(Levels, n)
	for i := range out {
		out[i] = Level{Power: float32(math.Pow(10, (db+0.691)/10)), Peak: float32(math.Pow(10, db/20))}
	}
	return out
}

// TestLoudnessIsGated: what is quiet does not count, and what is within 10 LU does.
func TestLoudnessIsGated(t *testing.T) {
	join := func(parts ...Levels) (out Levels) {
		for _, p := range parts {
			out = append(out, p...)
		}
		return out
	}
	mean := func(db ...float64) float64 {
		sum := 0.0
		for _, x := range db {
			sum += math.Pow(10, x/10)
		}
		return 10 * math.Log10(sum/float64(len(db)))
	}
	for name, c := range map[string]struct {
		levels Levels
		want   float64
	}{
		"one block":              {even(4, -20), -20},
		"no block":               {even(3, -20), math.Inf(-1)},
		"all alike":              {even(50, -23), -23},
		"below the absolute":     {even(50, -71), math.Inf(-1)},
		"just above it":          {even(50, -69.9), -69.9},
		"silence beside it":      {join(even(400, -20), even(400, -90)), mean(-20)},
		"nine below":             {join(even(4000, -20), even(4000, -29)), mean(-20, -29)},
		"fifteen below is gated": {join(even(4000, -20), even(4000, -35)), -20},
	} {
		if got := c.levels.Integrated(); math.Abs(got-c.want) > 0.02 && got != c.want {
			t.Errorf("%s: %v, want %v", name, got, c.want)
		}
	}
	loud := even(8, -30)
	loud[3].Peak = 0.5
	if p := loud.Peak(); math.Abs(p+6.0206) > 1e-3 {
		t.Errorf("its peak is %v", p)
	}
	for name, c := range map[string]struct {
		levels  Levels
		db      float64
		limited bool
	}{"to the target": {even(8, -23), 7, false}, "louder than it": {even(8, -10), -6, false},
		"hardly speech": {even(8, -40), 20, true}, "just speech": {even(8, -36), 20, false},
		"peaks": {loud, 5.0206, true}} {
		g, ok := c.levels.Gain()
		if !ok || math.Abs(g.DB-c.db) > 1e-3 || g.Limited != c.limited && name != "just speech" {
			t.Errorf("%s: %+v (%v), want %v dB", name, g, ok, c.db)
		}
	}
	kept := Levels{{Power: 1, Peak: -2}}.Bytes()
	if want := []byte{0, 0, 0x80, 0x3f, 0, 0, 0, 0xc0}; !bytes.Equal(kept, want) {
		t.Errorf("kept they are % x", kept)
	}
	if l, err := ReadLevels([]byte{0, 0, 0x80, 0x3f, 0, 0, 0, 0xc0, 0, 0, 0, 0x40, 0, 0, 0x80, 0x40}); err != nil ||
		len(l) != 2 || l[0] != (Level{1, -2}) || l[1] != (Level{2, 4}) {
		t.Errorf("read they are %v (%v)", l, err)
	}
}

// TestTwoChannelsWeighAlike: their powers are added, and the louder peak counts.
func TestTwoChannelsWeighAlike(t *testing.T) {
	var one, two Meter
	for i := range LoudRate {
		v := 0.5 * math.Sin(2*math.Pi*997*float64(i)/LoudRate)
		one.Write(v)
		two.Write(v/2, v)
	}
	if len(one.Levels) != 10 || len(two.Levels) != 10 {
		t.Fatalf("%d and %d windows", len(one.Levels), len(two.Levels))
	}
	if r := two.Levels[5].Power / one.Levels[5].Power; math.Abs(float64(r)-1.25) > 1e-4 {
		t.Errorf("two channels have %v of the power of one", r)
	}
	a, b := one.Levels[5].Peak, two.Levels[5].Peak
	if math.Abs(float64(a-b)) > 1e-6 || math.Abs(float64(a)-0.5) > 0.002 {
		t.Errorf("their peaks are %v and %v", a, b)
	}
	// By BS.1770 a tone of 997 Hz weighs 0.691 dB.
	if l := 10 * math.Log10(float64(one.Levels[5].Power)); math.Abs(l-(-9.03+0.691)) > 0.05 {
		t.Errorf("a tone of 997 Hz weighs %v dB", l)
	}
}
