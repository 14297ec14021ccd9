package signal

import (
	"math"
	"slices"
	"testing"
	"time"
)

// sine is a tone of one channel at LoudRate.
func sine(d time.Duration, hz, amplitude, phase float64) []float64 {
	out := make([]float64, int(d*LoudRate/time.Second))
	for i := range out {
		out[i] = amplitude * math.Sin(2*math.Pi*hz*float64(i)/LoudRate+phase)
	}
	return out
}

func metered(parts ...[]float64) Levels {
	var m Meter
	for _, p := range parts {
		for _, v := range p {
			m.Write(v)
		}
	}
	return m.Levels
}

// TestPeaksBetweenSamples are found: of a tone at a quarter of the rate no sample need come near
// its peak.
func TestPeaksBetweenSamples(t *testing.T) {
	for name, c := range map[string]struct {
		hz, phase float64
	}{"on the samples": {12000, math.Pi / 2}, "between them": {12000, math.Pi / 4}, "low": {200, 0.3},
		"a sixth of the rate": {8000, math.Pi / 6}} {
		got := metered(sine(2*time.Second, c.hz, 0.5, c.phase)).Peak()
		if want := 20 * math.Log10(0.5); math.Abs(got-want) > 0.35 {
			t.Errorf("%s: %.2f dBTP, want %.2f", name, got, want)
		}
	}
	if p := metered(make([]float64, LoudRate)).Peak(); !math.IsInf(p, -1) {
		t.Errorf("silence has a peak of %v", p)
	}
}

// TestTheGainOfARecording brings it to the target, but never its peak over the limit.
func TestTheGainOfARecording(t *testing.T) {
	tone := func(amplitude float64) []float64 { return sine(10*time.Second, 997, amplitude, 0) }
	knock := func(amplitude float64) []float64 { return sine(20*time.Millisecond, 997, amplitude, 0) }
	for name, c := range map[string]struct {
		sound   [][]float64
		gain    float64
		limited bool
	}{
		"quiet":            {[][]float64{tone(0.1)}, 7.0, false},
		"loud":             {[][]float64{tone(0.5)}, -7.0, false},
		"quiet, one knock": {[][]float64{tone(0.1), knock(0.6), tone(0.1)}, 3.4, true},
		"very quiet":       {[][]float64{tone(0.003)}, MostGain, true},
	} {
		g, ok := metered(c.sound...).Gain()
		if !ok || math.Abs(g.DB-c.gain) > 0.25 || g.Limited != c.limited {
			t.Errorf("%s: %+v, %v; want %v dB", name, g, ok, c.gain)
		}
		if g.Peak+g.DB > PeakLimit+0.01 {
			t.Errorf("%s: its peak comes to %.2f dBTP", name, g.Peak+g.DB)
		}
	}
	if _, ok := metered(make([]float64, 5*LoudRate)).Gain(); ok {
		t.Error("silence has a gain")
	}
}

// TestLevelsAreKept and go on where they stood.
func TestLevelsAreKept(t *testing.T) {
	whole := metered(sine(4*time.Second, 440, 0.3, 0))
	read, err := ReadLevels(whole.Bytes())
	if err != nil || !slices.Equal(read, whole) || len(whole) != 40 {
		t.Fatalf("%d levels, %v", len(read), err)
	}
	if _, err := ReadLevels(make([]byte, 12)); err == nil {
		t.Error("half a level is read")
	}
	m := Meter{Levels: read}
	for _, v := range sine(time.Second, 440, 0.3, 0) {
		m.Write(v)
	}
	if len(m.Levels) != 50 {
		t.Errorf("%d levels after five seconds", len(m.Levels))
	}
}
