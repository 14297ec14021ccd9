package capture_test

import (
	"bytes"
	"context"
	"errors"
	"testing"
	"time"

	"latelantern/internal/capture"
	"latelantern/internal/platform/clock"
	"latelantern/internal/recordings"
	"latelantern/internal/testhouse"
)

// later is the house at a time after its own.
func later(s *testhouse.Stage, d time.Duration) *capture.Service {
	return s.At(clock.Standing(testhouse.Now.Add(d))).Capture
}

// TestACaptureToWhichNothingComesIsEnded where it stands, by the clock and by when bytes last came.
func TestACaptureToWhichNothingComesIsEnded(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	b, err := s.Capture.Begin(ctx, capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.Desk})
	s.Must(err)
	// The lecture is planned until 85 minutes from now.
	appendAt := func(d time.Duration, offset int64, text string) error {
		_, err := later(s, d).Append(ctx, b.Track, offset, nil, bytes.NewReader([]byte(text)))
		return err
	}
	ends := func(d time.Duration, want int) {
		t.Helper()
		n, err := later(s, d).GiveUp(ctx)
		s.Must(err)
		if n != want {
			t.Errorf("%v on, %d captures are ended, want %d", d, n, want)
		}
	}
	s.Must(appendAt(20*time.Minute, 0, "some"))
	ends(49*time.Minute, 0)
	s.Must(appendAt(94*time.Minute, 4, " more"))
	ends(94*time.Minute+30*time.Second, 0)
	ends(95*time.Minute+30*time.Second, 1)
	ends(96*time.Minute, 0)
	p, err := s.Capture.Stored(ctx, b.Track)
	s.Must(err)
	if !p.Complete() || p.Stored != 9 || !p.GivenUp {
		t.Errorf("%+v", p)
	}
	// What comes all the same goes on where it stood, and no other place.
	if err := appendAt(97*time.Minute, 3, "lies"); !errors.Is(err, capture.ErrOffset) {
		t.Errorf("an offset that lies: %v", err)
	}
	if p, err = s.Capture.Stored(ctx, b.Track); err != nil || !p.Complete() {
		t.Errorf("it took the capture up again: %+v %v", p, err)
	}
	s.Must(appendAt(97*time.Minute, 9, " and late"))
	if p, err = s.Capture.Stored(ctx, b.Track); err != nil || p.Complete() || p.Stored != 18 || p.GivenUp {
		t.Errorf("%+v %v", p, err)
	}
	length := int64(18)
	_, err = later(s, 98*time.Minute).Append(ctx, b.Track, 18, &length, bytes.NewReader(nil))
	s.Must(err)
	if err := appendAt(99*time.Minute, 18, "x"); !errors.Is(err, capture.ErrComplete) {
		t.Errorf("after a stop by hand: %v", err)
	}
}

// TestSilenceInTheMiddleEndsAfterHalfAnHour, and a file that is being sent is not a silent capture.
func TestSilenceInTheMiddleEndsAfterHalfAnHour(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	_, err := s.Capture.Begin(ctx, capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.Desk})
	s.Must(err)
	size := int64(100)
	file, err := s.Capture.Begin(ctx,
		capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.File, Length: &size})
	s.Must(err)
	for _, c := range []struct {
		after time.Duration
		want  int
	}{{29 * time.Minute, 0}, {31 * time.Minute, 1}, {32 * time.Minute, 0}} {
		if n, err := later(s, c.after).GiveUp(ctx); err != nil || n != c.want {
			t.Errorf("%v on: %d, %v", c.after, n, err)
		}
	}
	if p, err := s.Capture.Stored(ctx, file.Track); err != nil || p.Complete() {
		t.Errorf("the file: %+v %v", p, err)
	}
}

// TestLateBytesAreWatchedToo: a capture that was given up and made watchable grows by what comes later.
func TestLateBytesAreWatchedToo(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	all := live(t, 10*time.Second)
	b, err := s.Capture.Begin(ctx, capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.Desk})
	s.Must(err)
	half := int64(len(all) / 2)
	_, err = s.Capture.Append(ctx, b.Track, 0, nil, bytes.NewReader(all[:half]))
	s.Must(err)
	if n, err := later(s, time.Hour).GiveUp(ctx); err != nil || n != 1 {
		t.Fatalf("given up: %d, %v", n, err)
	}
	first := s.Settled(b.Recording)
	if first.State != "ready" || first.Length < 2*time.Second || first.Length > 8*time.Second {
		t.Fatalf("half of it is %+v", first)
	}
	_, err = s.Capture.Append(ctx, b.Track, half, nil, bytes.NewReader(all[half:]))
	s.Must(err)
	if r, err := s.Recordings.Captured(ctx, b.Recording); err != nil || r.Length < first.Length {
		t.Errorf("meanwhile less can be watched: %+v %v", r, err)
	}
	length := int64(len(all))
	_, err = s.Capture.Append(ctx, b.Track, length, &length, bytes.NewReader(nil))
	s.Must(err)
	var whole recordings.Recording
	s.Until(func() bool {
		whole, err = s.Recordings.Recording(ctx, b.Recording)
		s.Must(err)
		return whole.State == "ready" && whole.Length > first.Length
	})
	if d := whole.Length - 10*time.Second; d < -300*time.Millisecond || d > 300*time.Millisecond {
		t.Errorf("all of it is %v long", whole.Length)
	}
}
