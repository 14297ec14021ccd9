package measure

import (
	"math"
	"slices"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/capture"
	"latelantern/internal/core/splice"
	"latelantern/internal/format/fmp4"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/clock"
	"latelantern/internal/recordings"
	"latelantern/internal/testfilm"
)

var track = uuid.MustParse("0199c3a0-0000-7000-8000-000000000006")

// upTo is the track as it was when it had n segments.
func upTo(t *testing.T, whole *recordings.Packed, n int) *recordings.Packed {
	t.Helper()
	out := &recordings.Packed{Packed: &fmp4.Packed{Init: whole.Init}, Key: whole.Key}
	out.Index.Timescale = whole.Index.Timescale
	for _, seg := range whole.Index.Segments[:n] {
		samples := slices.Clone(whole.Index.Samples[seg.First : seg.First+seg.Count])
		if err := out.Index.Add(splice.Segment{Off: seg.Off, Len: seg.Len, TfdtAt: seg.TfdtAt}, samples); err != nil {
			t.Fatal(err)
		}
	}
	return out
}

// TestWhatGrowsIsMeasuredAsIfItWereWhole: a capture is measured while it runs, some segments at a
// time, and broken off in between; all of it together is what is found in one pass.
func TestWhatGrowsIsMeasuredAsIfItWereWhole(t *testing.T) {
	ctx := t.Context()
	disk, err := blobs.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	path := t.TempDir() + "/a.mp4"
	film := testfilm.Film{Length: 31 * 1e9, Width: 320, Height: 180,
		Scene: "color=c=white:s=320x180:r=25,drawbox=20:20:200:120:black:fill:enable='gte(mod(t,11),5)'"}
	if err := film.Make(ctx, path); err != nil {
		t.Fatal(err)
	}
	if _, err := capture.Package(ctx, disk, path, "pack"); err != nil {
		t.Fatal(err)
	}
	s := &Service{Blobs: disk, Clock: clock.Clock{}, Recordings: recordings.New(nil, disk)}
	sound, err := s.Recordings.Playable("pack/sound")
	if err != nil {
		t.Fatal(err)
	}
	view, err := s.Recordings.Playable("pack/pictures")
	if err != nil {
		t.Fatal(err)
	}
	var once hearing
	if err := s.listen(ctx, sound, &once, true); err != nil {
		t.Fatal(err)
	}
	seenOnce, err := s.look(ctx, view, &sight{})
	if err != nil {
		t.Fatal(err)
	}
	heard, seen := &hearing{}, &sight{}
	var slides []slide
	for n := 4; ; n += 5 {
		ended := n >= len(sound.Index.Segments)
		if err := s.listen(ctx, upTo(t, sound, min(n, len(sound.Index.Segments))), heard, ended); err != nil {
			t.Fatal(err)
		}
		if slides, err = s.look(ctx, upTo(t, view, min(n, len(view.Index.Segments))), seen); err != nil {
			t.Fatal(err)
		}
		if ended {
			break
		}
		if got := heard.heard(); got < 10*n || len(heard.sound.Levels) != 5*got || len(heard.sound.Peaks) != got {
			t.Fatalf("after %d segments %d windows, %d peaks and %d frames are measured", n, got,
				len(heard.sound.Peaks), len(heard.sound.Levels))
		}
		if err := s.breakOffMeasuring(track, "pack", heard, seen); err != nil {
			t.Fatal(err)
		}
		if heard, seen, err = s.goOnMeasuring(track, "pack"); err != nil {
			t.Fatal(err)
		}
	}
	if len(heard.meter.Levels) != len(once.meter.Levels) || len(heard.sound.Levels) != len(once.sound.Levels) ||
		!slices.Equal(heard.sound.Peaks, once.sound.Peaks) {
		t.Errorf("%d windows in steps, %d at once", len(heard.meter.Levels), len(once.meter.Levels))
	}
	for i, l := range once.meter.Levels {
		if d := math.Abs(float64(heard.meter.Levels[i].Power - l.Power)); d > 0.02*float64(l.Power)+1e-7 {
			t.Errorf("window %d has a power of %g in steps and %g at once", i, heard.meter.Levels[i].Power, l.Power)
		}
	}
	if a, b := heard.meter.Levels.Integrated(), once.meter.Levels.Integrated(); math.Abs(a-b) > 0.05 {
		t.Errorf("%.2f LUFS in steps, %.2f at once", a, b)
	}
	if !slices.Equal(slides, seenOnce) || len(slides) < 5 {
		t.Errorf("slides in steps %v, at once %v", slides, seenOnce)
	}
	// Another package of the same track is measured from its beginning.
	if fresh, _, err := s.goOnMeasuring(track, "another"); err != nil || fresh.heard() != 0 {
		t.Errorf("of another package %d windows are measured already (%v)", fresh.heard(), err)
	}
}
