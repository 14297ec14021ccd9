package measure_test

import (
	"bytes"
	"errors"
	"image/jpeg"
	"testing"
	"time"

	"latelantern/internal/recordings"
	"latelantern/internal/testhouse"
)

const ms = time.Millisecond

func TestTheStripPageOfATalk(t *testing.T) {
	s := testhouse.New(t)
	id := s.Talk()
	strip := s.Measured(id)
	if n := len(strip.Peaks); n < 398 || n > 402 {
		t.Errorf("%d peaks of 40 s", n)
	}
	if quiet, loud := strip.Peaks[30], strip.Peaks[100]; quiet > 40 || loud < 70 {
		t.Errorf("the peaks are %d in silence and %d in speech", quiet, loud)
	}
	if strip.Loudness == nil || *strip.Loudness < -40 || *strip.Loudness > -10 {
		t.Errorf("the loudness is %v", strip.Loudness)
	}
	var at []int64
	for _, x := range strip.Slides {
		at = append(at, x.AtMs)
	}
	if len(at) != 4 || at[0] != 0 || at[1] != 7000 || at[2] != 17000 || at[3] != 29000 {
		t.Errorf("slides begin at %v", at)
	}
	for n, x := range strip.Slides {
		b, err := s.Recordings.SlidePicture(t.Context(), id, x.Track, x.Picture)
		s.Must(err)
		if p, err := jpeg.Decode(bytes.NewReader(b)); err != nil || p.Bounds().Dx() != 320 || p.Bounds().Dy() != 180 {
			t.Errorf("the picture of slide %d: %v", n, err)
		}
	}
	if _, err := s.Recordings.SlidePicture(t.Context(), id, strip.Slides[0].Track, 4); !errors.Is(err,
		recordings.ErrUnknown) {
		t.Errorf("a slide that is not there: %v", err)
	}
	want := []struct {
		why        string
		start, end time.Duration
	}{{"before", 0, 6300 * ms}, {"break", 17700 * ms, 28300 * ms}, {"after", 35700 * ms, 40 * time.Second}}
	if len(strip.Proposals) != len(want) {
		t.Fatalf("the proposals are %+v", strip.Proposals)
	}
	for i, p := range strip.Proposals {
		if string(p.Why) != want[i].why || (p.Start-want[i].start).Abs() > 400*ms ||
			(p.End-want[i].end).Abs() > 400*ms {
			t.Errorf("proposal %d is %s from %v to %v", i, p.Why, p.Start, p.End)
		}
	}
}
