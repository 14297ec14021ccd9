package library_test

import (
	"bytes"
	"context"
	"errors"
	"image/jpeg"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/library"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// talk is a lecture of 40 s: seven seconds of a still hall, slides that change at 7, 17 and
// 29 s with speech over them, a break from 17 s to 29 s, and quiet from 35 s on.
func talk(t *testing.T, s *testhouse.Stage) uuid.UUID {
	t.Helper()
	path := filepath.Join(t.TempDir(), "talk.mp4")
	// Speech is imitated by noise that swells four times a second, over the faint noise of a room.
	out, err := exec.Command("ffmpeg", "-y", "-v", "error",
		"-f", "lavfi", "-i", "color=c=0x304050:s=640x360:r=10:d=40", "-f", "lavfi", "-i", "anoisesrc=r=48000:a=0.3:d=40:c=pink:seed=4", "-f", "lavfi", "-i", "anoisesrc=r=48000:a=0.001:d=40:seed=5",
		"-filter_complex", "[0:v]drawbox=60:40:300:200:white:fill:enable='between(t,7,16.99)',drawbox=260:140:340:200:yellow:fill:enable='between(t,17,28.99)',drawbox=20:20:560:120:red:fill:enable='gte(t,29)',format=yuv420p[v];"+
			"[1:a]volume='if(between(t,7,17)+between(t,29,35),0.5+0.5*sin(2*PI*4*t),0)':eval=frame[said];[said][2:a]amix=inputs=2:normalize=0[a]",
		"-map", "[v]", "-map", "[a]", "-c:v", "libx264", "-preset", "veryfast", "-g", "10", "-c:a", "aac", "-b:a", "96k", path).CombinedOutput()
	if err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	id, _ := s.File(s.Lecture, path)
	return id
}

func TestTheStripPageOfATalk(t *testing.T) {
	s := testhouse.New(t)
	id := talk(t, s)
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
		b, err := s.Library.SlidePicture(t.Context(), id, x.Track, x.Picture)
		s.Must(err)
		if p, err := jpeg.Decode(bytes.NewReader(b)); err != nil || p.Bounds().Dx() != 320 || p.Bounds().Dy() != 180 {
			t.Errorf("the picture of slide %d: %v", n, err)
		}
	}
	if _, err := s.Library.SlidePicture(t.Context(), id, strip.Slides[0].Track, 4); !errors.Is(err, library.ErrUnknown) {
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
		if string(p.Why) != want[i].why || (p.Start-want[i].start).Abs() > 400*ms || (p.End-want[i].end).Abs() > 400*ms {
			t.Errorf("proposal %d is %s from %v to %v", i, p.Why, p.Start, p.End)
		}
	}
}

func TestWordsOfPeopleAreKept(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	id, _ := s.File(s.Lecture, empty(t))
	read := func() library.Recording {
		t.Helper()
		r, err := s.Library.Recording(ctx, id)
		s.Must(err)
		return r
	}
	if r := read(); r.Titled || r.Title != "" {
		t.Errorf("a new recording is titled %q", r.Title)
	}
	s.Must(s.Library.SetTitle(ctx, id, s.Lecturer, "  Springs \n and   neaps "), s.Library.SetDescription(ctx, id, "Two lines\nof it"))
	if r := read(); r.Title != "Springs and neaps" || !r.Titled || r.Description != "Two lines\nof it" {
		t.Errorf("kept: %q, %q", r.Title, r.Description)
	}
	for name, err := range map[string]error{
		"an empty title":    s.Library.SetTitle(ctx, id, s.Lecturer, " \t "),
		"a long title":      s.Library.SetTitle(ctx, id, s.Lecturer, strings.Repeat("é", 201)),
		"a long text":       s.Library.SetDescription(ctx, id, strings.Repeat("é", library.MaxDescription+1)),
		"title of nothing":  s.Library.SetTitle(ctx, uuid.New(), s.Lecturer, "x"),
		"delete of nothing": s.Library.SetDeleted(ctx, uuid.New(), s.Lecturer, true),
	} {
		if !errors.Is(err, library.ErrInvalid) && !errors.Is(err, library.ErrUnknown) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if r := read(); r.Title != "Springs and neaps" {
		t.Errorf("a refused title changed it to %q", r.Title)
	}
	s.Must(s.Library.SetDeleted(ctx, id, s.Lecturer, true))
	if !read().Deleted {
		t.Error("it is not taken away")
	}
	s.Must(s.Library.SetDeleted(ctx, id, s.Lecturer, false))
	if r := read(); r.Deleted || r.Title != "Springs and neaps" {
		t.Error("it is not brought back as it was")
	}
}

func empty(t *testing.T) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "a.mp4")
	if err := exec.Command("touch", path).Run(); err != nil {
		t.Fatal(err)
	}
	return path
}

// TestSoundAlone is trimmed and published too: to the frame of sound.
func TestSoundAlone(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	path := filepath.Join(t.TempDir(), "a.mp3")
	s.Must(testfilm.Film{Length: 10 * time.Second, NoView: true, Encoding: []string{"-c:a", "libmp3lame"}}.Make(ctx, path))
	id, _ := s.File(s.Lecture, path)
	s.Settled(id)
	s.Must(s.Library.Change(ctx, id, s.Lecturer, library.Strike, cut(2250*ms, 6250*ms)))
	r := s.Lit(id)
	edition, err := s.Library.Edition(ctx, *r.EditionID)
	s.Must(err)
	if edition.Pictures != nil || edition.Sound == nil || (edition.Length-6*time.Second).Abs() > 60*ms {
		t.Fatalf("it is %v long", edition.Length)
	}
	key, err := s.Library.Copy(ctx, *r.EditionID, nil)
	s.Must(err)
	heard, err := testfilm.Clicks(ctx, s.Blobs.Path(key))
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
	whole, err := s.Library.Captured(ctx, id)
	s.Must(err)
	for _, n := range []int{-1, len(whole.Pictures.Items), 1 << 30} {
		if _, err := s.Library.Segment(whole.Pictures, n); !errors.Is(err, library.ErrUnknown) {
			t.Errorf("segment %d: %v", n, err)
		}
	}
	if _, err := s.Library.Segment(nil, 0); !errors.Is(err, library.ErrUnknown) {
		t.Errorf("of no rail: %v", err)
	}
	if _, err := s.Library.Edition(ctx, uuid.New()); !errors.Is(err, library.ErrNotReady) {
		t.Errorf("no such edition: %v", err)
	}
	if _, err := s.Library.Captured(ctx, uuid.New()); !errors.Is(err, library.ErrUnknown) {
		t.Errorf("no such recording: %v", err)
	}
	// Whole segments are served as they lie on the disk, but for eight bytes of time.
	first, err := s.Library.Segment(whole.Pictures, 0)
	s.Must(err)
	raw, err := s.Blobs.Range(whole.Pictures.Source, whole.Pictures.Items[0].Off, whole.Pictures.Items[0].Len)
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
