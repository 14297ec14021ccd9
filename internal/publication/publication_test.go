package publication_test

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"latelantern/internal/assemble"
	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/publication"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// logged is what is written to the log until the test ends.
type logged struct {
	mu sync.Mutex
	b  bytes.Buffer
}

func (l *logged) Write(b []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.b.Write(b)
}

func (l *logged) String() string {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.b.String()
}

func listen(t *testing.T) *logged {
	l := &logged{}
	was := slog.Default()
	slog.SetDefault(slog.New(slog.NewTextHandler(l, nil)))
	t.Cleanup(func() { slog.SetDefault(was) })
	return l
}

// TestAPublicationThatIsNotAsPlannedIsEncodedAnew: an index that lacks a picture is found out
// before students see what came of it, and what they see is right.
func TestAPublicationThatIsNotAsPlannedIsEncodedAnew(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	log := listen(t)
	path := filepath.Join(t.TempDir(), "a.mp4")
	s.Must(testfilm.Film{Length: 12 * time.Second, Width: 320, Height: 180}.Make(ctx, path))
	id, track := s.File(s.Lecture, path)
	s.Measured(id)
	s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, cut(3*time.Second, 4520*ms)))

	var pack string
	s.Must(s.DB.QueryRow(ctx, `select pack from track where id = $1`, track).Scan(&pack))
	side := pack + "/pictures.index"
	b, err := s.Blobs.Range(side, 0, s.Blobs.Size(side))
	s.Must(err)
	lines := strings.SplitAfter(string(b), "\n")
	var segment map[string]any
	s.Must(json.Unmarshal([]byte(lines[4]), &segment))
	samples := segment["samples"].([]any)
	last := len(samples) - 1
	samples[last-1].([]any)[1] = samples[last-1].([]any)[1].(float64) + samples[last].([]any)[1].(float64)
	segment["samples"] = samples[:last]
	changed, err := json.Marshal(segment)
	s.Must(err)
	lines[4] = string(changed) + "\n"
	s.Must(s.Blobs.Put(side, strings.NewReader(strings.Join(lines, ""))))

	r := s.Lit(id)
	if !strings.Contains(log.String(), "all of it is encoded anew") ||
		!strings.Contains(log.String(), r.EditionID.String()) {
		t.Errorf("the log says nothing of it: %s", log)
	}
	key, err := s.Publication.Copy(ctx, *r.EditionID, publication.CopyVideo, nil)
	s.Must(err)
	got, err := testfilm.Numbers(ctx, testhouse.Local(t, s.Blobs, key))
	s.Must(err)
	var want []int
	for n := range 300 {
		if n < 75 || n >= 113 {
			want = append(want, n)
		}
	}
	if !slices.Equal(got, want) {
		t.Errorf("%d pictures are shown, %d are wanted; first difference: %s", len(got), len(want),
			difference(got, want))
	}
	heard, err := testfilm.Clicks(ctx, testhouse.Local(t, s.Blobs, key))
	s.Must(err)
	for _, at := range []time.Duration{500 * ms, 2500 * ms, 3480*ms + 500*ms} {
		if i, _ := slices.BinarySearch(heard, at-25*ms); i == len(heard) || heard[i] > at+25*ms {
			t.Errorf("no click is heard at %v: %v", at, heard)
		}
	}
}

// TestAPublicationAsPlannedIsNotEncodedAnew, whatever it is made of.
func TestAPublicationAsPlannedIsNotEncodedAnew(t *testing.T) {
	s := testhouse.New(t)
	log := listen(t)
	path := filepath.Join(t.TempDir(), "a.mp4")
	s.Must(testfilm.Film{Length: 8 * time.Second, Width: 320, Height: 180, BFrames: 2}.Make(t.Context(), path))
	id, _ := s.File(s.Lecture, path)
	s.Settled(id)
	s.Must(s.Cuts.Change(t.Context(), id, s.Lecturer, cuts.Strike, cut(1700*ms, 4520*ms)))
	s.Lit(id)
	if strings.Contains(log.String(), "anew") {
		t.Errorf("the log says %s", log)
	}
}

// TestCutsInAFilmWithoutASteadyRate as browsers make them: what is encoded around each cut still
// goes into one track.
func TestCutsInAFilmWithoutASteadyRate(t *testing.T) {
	s := testhouse.New(t)
	log := listen(t)
	path := filepath.Join(t.TempDir(), "a.mkv")
	testfilm.Tool(t, "-f", "lavfi", "-i", "testsrc2=s=320x180:r=60:d=16", "-vf",
		"select='lt(t,6)*lt(random(1),0.9)+gte(t,6)*not(mod(n,7))'", "-fps_mode", "vfr", "-c:v", "libx264", "-preset",
		"ultrafast", "-bf", "0", "-g", "30", "-pix_fmt", "yuv420p", path)
	id, _ := s.File(s.Lecture, path)
	s.Settled(id)
	for _, x := range []span.Span{cut(1300*ms, 1900*ms), cut(4100*ms, 4700*ms), cut(8300*ms, 9100*ms),
		cut(12300*ms, 13700*ms)} {
		s.Must(s.Cuts.Change(t.Context(), id, s.Lecturer, cuts.Strike, x))
	}
	r := s.Lit(id)
	if strings.Contains(log.String(), "anew") {
		t.Errorf("the log says %s", log)
	}
	edition, err := s.Publication.Edition(t.Context(), *r.EditionID)
	s.Must(err)
	if d := (edition.Length - r.Kept().Len()).Abs(); len(edition.Stretches) != 5 || d > 300*ms {
		t.Errorf("%d stretches of %v are published, %v is kept", len(edition.Stretches), edition.Length, r.Kept().Len())
	}
	key, err := s.Publication.Copy(t.Context(), *r.EditionID, publication.CopyVideo, nil)
	s.Must(err)
	if out, err := exec.Command("ffmpeg", "-v", "error", "-i", testhouse.Local(t, s.Blobs, key), "-f", "null",
		"-").CombinedOutput(); err != nil || len(out) > 0 {
		t.Errorf("the copy cannot be decoded: %v %s", err, out)
	}
}

// loudness is what another tool measures in a file: LUFS and dBTP.
func loudness(t *testing.T, path string) (integrated, peak float64) {
	t.Helper()
	out, err := exec.Command("ffmpeg", "-hide_banner", "-nostats", "-i", path, "-map", "0:a", "-af",
		"ebur128=peak=true", "-f", "null", "-").CombinedOutput()
	if err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	summary := string(out[bytes.LastIndex(out, []byte("Summary:")):])
	read := func(pattern string) float64 {
		m := regexp.MustCompile(pattern).FindStringSubmatch(summary)
		if m == nil {
			t.Fatalf("no %s in %s", pattern, summary)
		}
		v, err := strconv.ParseFloat(m[1], 64)
		if err != nil {
			t.Fatal(err)
		}
		return v
	}
	return read(`I:\s+(-?[\d.]+) LUFS`), read(`Peak:\s+(-?[\d.]+) dBFS`)
}

// TestLoudnessIsBroughtToOneMeasure in what is taken away, by the gain that the player is told;
// the peak stays under its limit.
func TestLoudnessIsBroughtToOneMeasure(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	id := s.Talk()
	s.Measured(id)
	s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, cut(17500*ms, 28500*ms)))
	r := s.Lit(id)
	edition, err := s.Publication.Edition(ctx, *r.EditionID)
	s.Must(err)
	g := edition.Gain
	if g == nil || math.Abs(g.DB) < 1 {
		t.Fatalf("the gain is %+v", g)
	}
	key, err := s.Publication.Copy(ctx, *r.EditionID, publication.CopyVideo, nil)
	s.Must(err)
	var plain bytes.Buffer
	s.Must(s.Recordings.WriteRendition(&plain, edition.Audio))
	before := filepath.Join(t.TempDir(), "plain.mp4")
	s.Must(os.WriteFile(before, plain.Bytes(), 0o600))
	was, peak := loudness(t, before)
	if math.Abs(was-g.Loudness) > 0.5 || math.Abs(peak-g.Peak) > 0.5 {
		t.Errorf("it has %.1f LUFS and %.1f dBTP, and was measured as %+v", was, peak, g)
	}
	is, _ := loudness(t, testhouse.Local(t, s.Blobs, key)) // encoding moves the peaks of noise
	if want := g.Loudness + g.DB; math.Abs(is-want) > 0.7 || peak+g.DB > -0.7 {
		t.Errorf("the copy has %.1f LUFS, want %.1f: %+v", is, want, g)
	}
	if g.Limited == (math.Abs(is+16) < 0.3) {
		t.Errorf("%.1f LUFS, and limited is %v", is, g.Limited)
	}
}

// TestAnEditionWhileTheStoreFails: nobody sees half of it, it is tried again, and what students see is right.
func TestAnEditionWhileTheStoreFails(t *testing.T) {
	ctx := context.Background()
	var failed, mended atomic.Bool
	store := &blobs.Memory{Fault: func(operation, key string) error {
		if operation == "put" && strings.HasPrefix(key, "edition/") && !mended.Load() {
			failed.Store(true)
			return errors.New("the disk is gone")
		}
		return nil
	}}
	s := testhouse.NewWith(t, assemble.Settings{Store: store})
	path := filepath.Join(t.TempDir(), "a.mp4")
	s.Must(testfilm.Film{Length: 12 * time.Second, Width: 320, Height: 180}.Make(ctx, path))
	id, _ := s.File(s.Lecture, path)
	s.Measured(id)
	s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, cut(3*time.Second, 4520*ms)))
	r, err := s.Recordings.Recording(ctx, id)
	s.Must(err, s.Releases.Light(ctx, r.CourseID, id, s.Lecturer))
	s.Until(failed.Load)
	if r, err = s.Recordings.Recording(ctx, id); err != nil || r.EditionID != nil {
		t.Errorf("half an edition is shown: %v %v", r.EditionID, err)
	}
	mended.Store(true)
	s.Until(func() bool {
		r, err = s.Recordings.Recording(ctx, id)
		s.Must(err)
		return r.Current()
	})
	x, err := s.Publication.Edition(ctx, *r.EditionID)
	s.Must(err)
	if d := (x.Length - (12*time.Second - 1520*ms)).Abs(); d > 40*ms {
		t.Errorf("it is %v long", x.Length)
	}
}
