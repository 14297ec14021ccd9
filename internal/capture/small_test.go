package capture_test

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"latelantern/internal/capture"
	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
	"latelantern/internal/recordings"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// TestASmallCopyFollows: it has the same cuts at the same times, is a fraction of the size, and
// comes both when the edition is there first and when the copy is.
func TestASmallCopyFollows(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	s.Capture.Small = true
	a := sendAll(t, s, capture.Start{},
		browserFilm(t, testfilm.Film{Length: 12 * time.Second, Width: 1280, Height: 720}))
	r := s.Settled(a.Recording)
	s.Must(s.Cuts.Change(ctx, r.ID, s.Lecturer, cuts.Strike, span.Span{Start: 3130 * ms, End: 6470 * ms}))
	r = s.Lit(r.ID)
	small := func(r recordings.Recording) *recordings.Presentation {
		t.Helper()
		var out *recordings.Presentation
		s.Until(func() bool {
			var err error
			if out, err = s.Publication.Small(ctx, *r.EditionID); err != nil &&
				!errors.Is(err, recordings.ErrNotReady) {
				t.Fatal(err)
			}
			return out != nil
		})
		return out
	}
	check := func(r recordings.Recording) {
		t.Helper()
		whole, err := s.Publication.Edition(ctx, *r.EditionID)
		s.Must(err)
		x := small(r)
		if x.Length != whole.Length || x.Video.Shown().Height != 360 {
			t.Errorf("it is %v long of %v, and %d high", x.Length, whole.Length, x.Video.Shown().Height)
		}
		unbroken(t, s, x.Video, x.Length)
		unbroken(t, s, x.Audio, x.Length)
		if part := float64(x.Video.Bytes()) / float64(whole.Video.Bytes()); part > 0.5 {
			t.Errorf("its pictures are %.0f per cent of the whole", part*100)
		}
		// The clicks are where they are in the whole.
		folder := t.TempDir()
		var heard [2][]time.Duration
		for i, rendition := range []*recordings.Rendition{whole.Audio, x.Audio} {
			path := filepath.Join(folder, "a.mp4")
			f, err := os.Create(path)
			s.Must(err, s.Recordings.WriteRendition(f, rendition), f.Close())
			heard[i], err = testfilm.Clicks(ctx, path)
			s.Must(err)
		}
		// One at the very edge of a cut may be in one and not in the other.
		if n := len(heard[0]) - len(heard[1]); n < -1 || n > 1 || len(heard[0]) < 14 {
			t.Fatalf("%d clicks are heard in the whole and %d in the small copy", len(heard[0]), len(heard[1]))
		}
		apart := 0
		for _, a := range heard[0] {
			if !slices.ContainsFunc(heard[1], func(b time.Duration) bool { return (a - b).Abs() < 60*ms }) {
				apart++
			}
		}
		if apart > 1 {
			t.Errorf("%d clicks of the whole are not heard in the small copy: %v and %v", apart, heard[0], heard[1])
		}
	}
	check(r)
	s.Until(func() bool {
		x, err := s.Recordings.Recording(ctx, r.ID)
		s.Must(err)
		return x.SmallState == "ready" && x.SmallShare == 100
	})
	// A new trim finds the copy there already.
	s.Must(s.Cuts.Change(ctx, r.ID, s.Lecturer, cuts.Strike, span.Span{Start: 0, End: 1210 * ms}))
	check(s.Lit(r.ID))
}
