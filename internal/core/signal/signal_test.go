package signal

import (
	"math"
	"math/rand"
	"reflect"
	"testing"
	"time"

	"latelantern/internal/core/span"
)

// tone is d of a sine of the given amplitude over noise 60 dB below full scale.
func tone(d time.Duration, hz, amplitude float64) []float64 {
	r := rand.New(rand.NewSource(7))
	out := make([]float64, int(d*Rate/time.Second))
	for i := range out {
		out[i] = amplitude*math.Sin(2*math.Pi*hz*float64(i)/Rate) + 0.001*(r.Float64()-0.5)
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

func TestLoudnessOfTheReferenceTone(t *testing.T) {
	// A sine of 997 Hz at full scale in one channel reads -3.01 LUFS (BS.1770-4, annex 1).
	for amplitude, want := range map[float64]float64{1: -3.01, 0.1: -23.01} {
		if got := measured(tone(20*time.Second, 997, amplitude)).Loudness(); math.Abs(got-want) > 0.1 {
			t.Errorf("amplitude %v: %.2f LUFS, want %.2f", amplitude, got, want)
		}
	}
	if got := measured(make([]float64, 5*Rate)).Loudness(); !math.IsInf(got, -1) {
		t.Errorf("silence: %v", got)
	}
}

func TestSilenceDoesNotLowerLoudness(t *testing.T) {
	loud := tone(10*time.Second, 500, 0.2)
	a, b := measured(loud).Loudness(), measured(loud, tone(60*time.Second, 500, 0)).Loudness()
	if math.Abs(a-b) > 0.3 {
		t.Errorf("%.2f alone, %.2f with a minute of silence", a, b)
	}
}

func TestSpeechAndProposals(t *testing.T) {
	quiet := func(d time.Duration) []float64 { return tone(d, 300, 0) }
	talk := func(d time.Duration) []float64 { return tone(d, 300, 0.2) }
	s := measured(quiet(8*time.Second), talk(20*time.Second), quiet(2*time.Second), talk(10*time.Second), quiet(15*time.Second), talk(10*time.Second), quiet(5*time.Second))
	want := span.Of(span.Span{Start: 8 * time.Second, End: 40 * time.Second}, span.Span{Start: 55 * time.Second, End: 65 * time.Second})
	if got := s.Speech(); !got.Equal(want) {
		t.Fatalf("speech %v, want %v", got.Spans(), want.Spans())
	}
	got := Proposals(s.Speech(), s.Length())
	wantProposals := []Proposal{
		{span.Span{Start: 0, End: 8*time.Second - air}, "before"},
		{span.Span{Start: 40*time.Second + air, End: 55*time.Second - air}, "break"},
		{span.Span{Start: 65*time.Second + air, End: 70 * time.Second}, "after"},
	}
	if !reflect.DeepEqual(got, wantProposals) {
		t.Errorf("proposals %v, want %v", got, wantProposals)
	}
}

func TestNothingIsProposedWithoutSpeech(t *testing.T) {
	s := measured(tone(time.Minute, 300, 0))
	if p := Proposals(s.Speech(), s.Length()); len(p) != 0 {
		t.Errorf("%v", p)
	}
	if got := (&Sound{}).Speech(); !got.Empty() {
		t.Errorf("speech in nothing: %v", got)
	}
}

func TestTalkWithoutAPauseIsSpeech(t *testing.T) {
	s := measured(tone(30*time.Second, 300, 0.2))
	if got := s.Speech().Len(); got < 29*time.Second {
		t.Errorf("%v of 30 s", got)
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

func TestChanges(t *testing.T) {
	slide := func(tone byte) []byte {
		p := make([]byte, 160*90)
		for i := range p[:3000] {
			p[i] = tone
		}
		return p
	}
	pointer := slide(200)
	for i := range 100 {
		pointer[8000+i] = 255
	}
	at := func(s int) time.Duration { return time.Duration(s) * time.Second }
	got := Changes([]Picture{{at(0), slide(200)}, {at(2), slide(200)}, {at(4), pointer}, {at(6), slide(90)}, {at(7), slide(10)}, {at(9), slide(200)}})
	if want := []int{0, 3, 5}; !reflect.DeepEqual(got, want) {
		t.Errorf("%v, want %v", got, want)
	}
	r := rand.New(rand.NewSource(3))
	var film []Picture
	for i := range 1800 {
		p := make([]byte, 160*90)
		r.Read(p)
		film = append(film, Picture{at(2 * i), p})
	}
	if n := len(Changes(film)); n > mostPerHour+1 {
		t.Errorf("a film of an hour has %d slides", n)
	}
	if Changes(nil) != nil {
		t.Error("slides in nothing")
	}
}
