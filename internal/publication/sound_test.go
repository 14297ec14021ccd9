package publication_test

import (
	"context"
	"errors"
	"path/filepath"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/cuts"
	"latelantern/internal/publication"
	"latelantern/internal/recordings"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// TestSoundAlone is trimmed and published too: to the frame of sound.
func TestSoundAlone(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	path := filepath.Join(t.TempDir(), "a.mp3")
	s.Must(testfilm.Film{Length: 10 * time.Second, NoView: true, Encoding: []string{"-c:a", "libmp3lame"}}.Make(ctx,
		path))
	id, _ := s.File(s.Lecture, path)
	s.Settled(id)
	s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, cut(2250*ms, 6250*ms)))
	r := s.Lit(id)
	edition, err := s.Publication.Edition(ctx, *r.EditionID)
	s.Must(err)
	if edition.Video != nil || edition.Audio == nil || (edition.Length-6*time.Second).Abs() > 60*ms {
		t.Fatalf("it is %v long", edition.Length)
	}
	key, err := s.Publication.Copy(ctx, *r.EditionID, publication.CopyVideo, nil)
	s.Must(err)
	heard, err := testfilm.Clicks(ctx, testhouse.Local(t, s.Blobs, key))
	s.Must(err)
	found := 0
	for _, want := range []time.Duration{500, 1000, 1500, 2000, 2500, 3000, 3500, 4000, 4500, 5000, 5500} {
		for _, h := range heard {
			if (h - want*ms).Abs() < 60*ms {
				found++
				break
			}
		}
	}
	if found != 11 {
		t.Errorf("clicks are heard at %v", heard)
	}
}

// TestASegmentThatIsNotThere is no reason to fail.
func TestASegmentThatIsNotThere(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	path := filepath.Join(t.TempDir(), "a.mp4")
	s.Must(testfilm.Film{Length: 4 * time.Second, Width: 320, Height: 180}.Make(ctx, path))
	id, _ := s.File(s.Lecture, path)
	s.Settled(id)
	whole, err := s.Recordings.Captured(ctx, id)
	s.Must(err)
	for _, n := range []int{-1, len(whole.Video.Segments), 1 << 30} {
		if _, err := s.Recordings.Segment(whole.Video, n); !errors.Is(err, recordings.ErrUnknown) {
			t.Errorf("segment %d: %v", n, err)
		}
	}
	if _, err := s.Recordings.Segment(nil, 0); !errors.Is(err, recordings.ErrUnknown) {
		t.Errorf("of no rendition: %v", err)
	}
	if _, err := s.Publication.Edition(ctx, uuid.New()); !errors.Is(err, recordings.ErrNotReady) {
		t.Errorf("no such edition: %v", err)
	}
	if _, err := s.Recordings.Captured(ctx, uuid.New()); !errors.Is(err, recordings.ErrUnknown) {
		t.Errorf("no such recording: %v", err)
	}
	// Whole segments are served as they lie on the disk, but for eight bytes of time.
	first, err := s.Recordings.Segment(whole.Video, 0)
	s.Must(err)
	raw, err := s.Blobs.Range(whole.Video.Source, whole.Video.Segments[0].Off, whole.Video.Segments[0].Len)
	s.Must(err)
	differ := 0
	for i := range raw {
		if raw[i] != first[i] {
			differ++
		}
	}
	if len(raw) != len(first) || differ > 8 {
		t.Errorf("%d of %d bytes differ", differ, len(raw))
	}
}
