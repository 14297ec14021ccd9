package capture_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/capture"
	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
	"latelantern/internal/library"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// cut is a stretch in seconds.
func cut(from, to float64) span.Span {
	return span.Span{Start: time.Duration(from * float64(time.Second)), End: time.Duration(to * float64(time.Second))}
}

// published lights a recording and gives the numbers of its pictures.
func published(t *testing.T, s *testhouse.Stage, id uuid.UUID) []int {
	t.Helper()
	return numbersOf(t, s, s.Lit(id))
}

// TestOneCaptureBecomesTwoRecordings: what was struck stays struck, what follows the split is no
// longer in the first, and one press makes them one again with whatever was cut meanwhile.
func TestOneCaptureBecomesTwoRecordings(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	id, track := s.File(s.Lecture,
		film(t, "two lectures.mp4", testfilm.Film{Length: 20 * time.Second, Width: 320, Height: 180}))
	s.Measured(id)
	s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, cut(2, 4)),
		s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, cut(13, 15)))
	s.Must(s.Capture.Mark(ctx, track, uuid.New(), s.Lecturer, capture.Marker{At: 12 * time.Second}))
	s.Lit(id)
	rest, err := s.Library.Split(ctx, id, s.Lecturer, 10300*ms, uuid.Nil)
	s.Must(err)

	one, two := s.Settled(id), s.Settled(rest)
	if one.Length != 10*time.Second || (two.Length-10*time.Second).Abs() > 50*ms || one.Current() ||
		two.LectureID != s.Lecture || two.Titled {
		t.Fatalf("%+v and %+v", one, two)
	}
	if got := two.Struck.Spans(); len(got) != 1 || got[0] != cut(3, 5) {
		t.Errorf("of the second is struck %v", got)
	}
	if m, err := s.Capture.Markers(ctx, rest); err != nil || len(m) != 1 || m[0].At != 2*time.Second {
		t.Errorf("markers of the second: %v %v", m, err)
	}
	if m, err := s.Capture.Markers(ctx, id); err != nil || len(m) != 0 {
		t.Errorf("markers of the first: %v %v", m, err)
	}
	if _, err := s.Capture.Original(ctx, rest); !errors.Is(err, capture.ErrUnknown) {
		t.Errorf("the file that holds both is given for the second: %v", err)
	}
	for _, r := range []recordings.Recording{one, two} {
		if n := len(s.Measured(r.ID).Peaks); n < 99 || n > 101 {
			t.Errorf("the strip page has %d windows", n)
		}
		whole, err := s.Recordings.Captured(ctx, r.ID)
		s.Must(err)
		unbroken(t, s, whole.Video, r.Length)
		unbroken(t, s, whole.Audio, r.Length)
	}
	if got, want := published(t, s, id), append(count(0, 50), count(100, 250)...); !slices.Equal(got, want) {
		t.Errorf("of the first are published %v", got)
	}
	if got, want := published(t, s, rest), append(count(250, 325), count(375, 500)...); !slices.Equal(got, want) {
		t.Errorf("of the second are published %v", got)
	}

	// Joined by hand they are one stretch again; split once more, and undone with a cut made meanwhile.
	s.Must(s.Releases.Darken(ctx, s.Course, rest, s.Lecturer))
	s.Do(`delete from playlist_entry where recording_id = $1`, rest)
	s.Must(s.Cuts.Change(ctx, rest, s.Lecturer, cuts.Strike, cut(8, 9)))
	a, err := s.Library.Rearranged(ctx, id)
	if err != nil || a == nil || a.Kind != "split" || a.Second != rest || a.By != "lecturer" {
		t.Fatalf("%+v %v", a, err)
	}
	s.Must(s.Library.UndoArrangement(ctx, id, a.ID, s.Lecturer))
	want := slices.Concat(count(0, 50), count(100, 325), count(375, 450), count(475, 500))
	if got := published(t, s, id); !slices.Equal(got, want) {
		t.Errorf("made one again, %v are published", got)
	}
	if _, err := s.Recordings.Recording(ctx, rest); !errors.Is(err, recordings.ErrUnknown) {
		t.Errorf("the second is still there: %v", err)
	}
	if err := s.Library.UndoArrangement(ctx, id, a.ID, s.Lecturer); !errors.Is(err, library.ErrChanged) {
		t.Errorf("undone twice: %v", err)
	}
	for name, at := range map[string]time.Duration{"before its beginning": -time.Second, "at it": 0,
		"at its end": 20 * time.Second, "beyond": time.Hour} {
		if _, err := s.Library.Split(ctx, id, s.Lecturer, at, uuid.Nil); !errors.Is(err, library.ErrSplit) {
			t.Errorf("split %s: %v", name, err)
		}
	}
}

// TestPartsAreJoined one after the other, or by the clock when they were captured as they happened.
func TestPartsAreJoined(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	path := film(t, "part.mp4", testfilm.Film{Length: 6 * time.Second, Width: 320, Height: 180})
	one, _ := s.File(s.Lecture, path)
	two, _ := s.File(s.Lecture, path)
	s.Settled(one)
	s.Settled(two)
	s.Must(s.Cuts.Change(ctx, two, s.Lecturer, cuts.Strike, cut(0, 2)))
	s.Lit(two)
	if err := s.Library.Join(ctx, one, two, s.Lecturer); !errors.Is(err, library.ErrJoinShown) {
		t.Errorf("one that gives light is joined: %v", err)
	}
	if err := s.Library.Join(ctx, one, one, s.Lecturer); !errors.Is(err, library.ErrJoinSame) {
		t.Errorf("to itself: %v", err)
	}
	s.Must(s.Releases.Darken(ctx, s.Course, two, s.Lecturer))
	s.Do(`delete from playlist_entry`)
	s.Must(s.Library.Join(ctx, one, two, s.Lecturer))
	if got, want := published(t, s, one), append(count(0, 150), count(50, 150)...); !slices.Equal(got, want) {
		t.Errorf("joined are published %v", got)
	}
	a, err := s.Library.Rearranged(ctx, one)
	if err != nil || a == nil || a.Kind != "join" {
		t.Fatalf("%+v %v", a, err)
	}
	s.Must(s.Library.UndoArrangement(ctx, one, a.ID, s.Lecturer))
	r, err := s.Recordings.Recording(ctx, two)
	s.Must(err)
	if got := r.Struck.Spans(); r.Deleted || len(got) != 1 || got[0] != cut(0, 2) {
		t.Errorf("undone, the other is %+v", r)
	}
	if got := published(t, s, one); !slices.Equal(got, count(0, 150)) {
		t.Errorf("undone, of the one are published %v", got)
	}
}

// TestSplittingTwoComputersAtOnce: what one captured while the other did goes with the side on which
// it lies, and is shown on neither.
func TestSplittingTwoComputersAtOnce(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	twelve, two := browserFilm(t, testfilm.Film{Length: 12 * time.Second}),
		browserFilm(t, testfilm.Film{Length: 2 * time.Second})
	age := ages(s)
	one := sendAll(t, s, capture.Start{Age: age(0)}, twelve)
	sendAll(t, s, capture.Start{Age: age(8 * time.Second), By: s.Coordinator}, two)
	if r := s.Settled(one.Recording); r.Parts != 2 || r.Length > 13*time.Second {
		t.Fatalf("%d parts of %v", r.Parts, r.Length)
	}
	rest, err := s.Library.Split(ctx, one.Recording, s.Lecturer, 4*time.Second, uuid.Nil)
	s.Must(err)
	if a, b := s.Settled(one.Recording),
		s.Settled(rest); a.Parts != 1 || b.Parts != 2 || (a.Length-4*time.Second).Abs() > 100*ms || !a.Holes.Empty() ||
		!b.Holes.Empty() {
		t.Errorf("split into %d parts of %v with holes %v, and %d of %v with %v", a.Parts, a.Length, a.Holes, b.Parts,
			b.Length, b.Holes)
	}
	if got := published(t, s, rest); !slices.Equal(got, count(100, 300)) {
		t.Errorf("of the rest are published %v", got)
	}
}

// TestTheEndGoesToTheNextClass: the capture ran on, and what was meant to be captured later
// follows it; one press takes it back.
func TestTheEndGoesToTheNextClass(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	ten, four := browserFilm(t, testfilm.Film{Length: 10 * time.Second}),
		browserFilm(t, testfilm.Film{Length: 4 * time.Second})
	age := ages(s)
	long := sendAll(t, s, capture.Start{Age: age(0)}, ten)
	next := s.AddLecture(s.Course, testhouse.Now.Add(-time.Minute), "The next class")
	was := s.Lecture
	s.Lecture = next
	late := sendAll(t, s, capture.Start{Age: age(15 * time.Second)}, four)
	s.Lecture = was
	s.Settled(long.Recording)
	s.Settled(late.Recording)
	s.Must(s.Cuts.Change(ctx, late.Recording, s.Lecturer, cuts.Strike, cut(0, 1)))
	into, err := s.Library.Split(ctx, long.Recording, s.Lecturer, 6*time.Second, next)
	s.Must(err)
	if into != late.Recording {
		t.Fatalf("the end went to %v and not to what was captured of the next class", into)
	}
	r := s.Settled(into)
	apart := time.Duration(s.Count(`select extract(epoch from b.started_at - a.started_at) * 1000
		from capture a, capture b where a.id = $1 and b.id = $2`, long.Capture, late.Capture)) * ms
	if want := apart - 6*time.Second + 4*time.Second; r.Parts != 2 || (r.Length-want).Abs() > 200*ms ||
		r.Holes.Empty() {
		t.Errorf("it has %d parts and %v of %v, holes %v", r.Parts, r.Length, want, r.Holes)
	}
	if got, want := published(t, s, into), append(count(150, 250), count(25, 100)...); !slices.Equal(got, want) {
		t.Errorf("of the next class are published %v", got)
	}
	if got := published(t, s, long.Recording); !slices.Equal(got, count(0, 150)) {
		t.Errorf("of the first are published %v", got)
	}
	a, err := s.Library.Rearranged(ctx, long.Recording)
	if err != nil || a == nil || a.Second != into {
		t.Fatalf("%+v %v", a, err)
	}
	undoneBeside(t, s, long.Recording, into, a.ID)
	if got := published(t, s, long.Recording); !slices.Equal(got, count(0, 250)) {
		t.Errorf("taken back, of the first are published %v", got)
	}
	if r := s.Settled(into); r.Parts != 1 || len(r.Struck.Spans()) != 1 || r.Struck.Spans()[0] != cut(0, 1) {
		t.Errorf("taken back, of the next class is left %+v", r)
	}
}

// undoneBeside takes an arrangement back while someone who holds one of its recordings comes to hold the other too.
func undoneBeside(t *testing.T, s *testhouse.Stage, one, other, arrangement uuid.UUID) {
	t.Helper()
	ctx, stop := context.WithTimeout(context.Background(), time.Minute)
	defer stop()
	undone := make(chan error, 1)
	s.Must(postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if err := recordings.Hold(ctx, tx, one); err != nil {
			return err
		}
		go func() { undone <- s.Library.UndoArrangement(ctx, one, arrangement, s.Lecturer) }()
		s.Until(func() bool {
			return s.Count(`select count(*) from pg_stat_activity
				where wait_event_type = 'Lock' and datname = current_database()`) > 0
		})
		return recordings.Hold(ctx, tx, other)
	}), <-undone)
}

// TestManyComputersThatBeginAtOnce to capture one lecture make one recording of it.
func TestManyComputersThatBeginAtOnce(t *testing.T) {
	s := testhouse.New(t)
	const computers = 12
	begun, faults := make(chan capture.Started, computers), make(chan error, computers)
	for range computers {
		go func() {
			one, err := s.Capture.Begin(context.Background(), capture.Start{Lecture: s.Lecture, By: s.Lecturer,
				Source: capture.Desk, MediaType: "video/webm"})
			begun <- one
			faults <- err
		}()
	}
	made := map[uuid.UUID]bool{}
	for range computers {
		s.Must(<-faults)
		made[(<-begun).Recording] = true
	}
	if parts := s.Count(`select count(*) from recording_capture`); len(made) != 1 || parts != computers {
		t.Errorf("%d recordings with %d parts", len(made), parts)
	}
}

// resized is a capture whose window was resized midway: what came before and after are of two
// sizes, in one track.
func resized(t *testing.T) string {
	t.Helper()
	folder := t.TempDir()
	raw, out := filepath.Join(folder, "all.h264"), filepath.Join(folder, "resized.mkv")
	var all []byte
	for i, size := range []string{"320:180", "640:360"} {
		f := testfilm.Film{Length: 4 * time.Second, Width: 320, Height: 180,
			Encoding: []string{"-c:v", "libx264", "-preset", "ultrafast", "-c:a", "libopus"}}
		path, part := filepath.Join(folder, fmt.Sprint(i)+".mkv"), filepath.Join(folder, fmt.Sprint(i)+".h264")
		if err := f.Make(context.Background(), path); err != nil {
			t.Fatal(err)
		}
		ffmpeg(t, "-i", path, "-map", "0:v", "-vf", "scale="+size+":flags=neighbor", "-c:v", "libx264", "-preset",
			"ultrafast", "-bf", "0", "-g", "50", "-f", "h264", part)
		b, err := os.ReadFile(part)
		if err != nil {
			t.Fatal(err)
		}
		all = append(all, b...)
	}
	if err := os.WriteFile(raw, all, 0o600); err != nil {
		t.Fatal(err)
	}
	ffmpeg(t, "-framerate", "25", "-f", "h264", "-i", raw, "-f", "lavfi", "-i", "anoisesrc=d=8:r=48000:a=0.1", "-map",
		"0", "-map", "1", "-c:v", "copy", "-c:a", "libopus", out)
	return out
}

func ffmpeg(t *testing.T, args ...string) {
	t.Helper()
	if out, err := exec.Command("ffmpeg",
		append([]string{"-y", "-v", "error"}, args...)...).CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
}

// TestAWindowThatIsResized while it is captured: all of it is watched and published, in the size of
// its beginning.
func TestAWindowThatIsResized(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	path := resized(t)
	b, err := os.ReadFile(path)
	s.Must(err)
	live := sendAll(t, s, capture.Start{}, b).Recording
	file, _ := s.File(s.Elsewhere, path)
	for name, id := range map[string]uuid.UUID{"captured": live, "as a file": file} {
		r := s.Settled(id)
		whole, err := s.Recordings.Captured(ctx, id)
		if r.State != "ready" || err != nil {
			t.Fatalf("%s: %s %s (%v)", name, r.State, r.Fault, err)
		}
		unbroken(t, s, whole.Video, whole.Length)
		if x := whole.Video.TrackOf(0); x.Width != 320 || x.Height != 180 || len(whole.Video.More) > 0 {
			t.Errorf("%s: it is %d x %d, and of %d more kinds", name, x.Width, x.Height, len(whole.Video.More))
		}
		s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, cut(1, 2)),
			s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, cut(5.4, 6.2)))
		if got, want := published(t, s, id),
			slices.Concat(count(0, 25), count(50, 100), count(0, 35), count(55, 100)); !slices.Equal(got, want) {
			t.Errorf("%s: published are %v", name, got)
		}
	}
}

// TestACaptureIsMeasuredWhileItRuns, so that its strip page is there soon after it is stopped.
func TestACaptureIsMeasuredWhileItRuns(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := testhouse.New(t)
	all := browserFilm(t, testfilm.Film{Length: 140 * time.Second, Rate: 5, Width: 160, Height: 90})
	b, err := s.Capture.Begin(ctx, capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.Desk})
	s.Must(err)
	_, err = s.Capture.Append(ctx, b.Track, 0, nil, bytes.NewReader(all))
	s.Must(err)
	s.Until(func() bool {
		return s.Count(`select count(*) from strip where track_id = $1 and not done and measured_ms > 120000`,
			b.Track) == 1
	})
	r, err := s.Recordings.Recording(ctx, b.Recording)
	if err != nil || r.State != "running" {
		t.Fatalf("it is %s (%v)", r.State, err)
	}
	if _, err := s.Recordings.Strip(ctx, r.ID, r.Length); !errors.Is(err, recordings.ErrNotReady) {
		t.Errorf("half a strip page is shown: %v", err)
	}
	length := int64(len(all))
	_, err = s.Capture.Append(ctx, b.Track, length, &length, bytes.NewReader(nil))
	s.Must(err)
	if n := len(s.Measured(b.Recording).Peaks); n < 1395 || n > 1405 {
		t.Errorf("%d windows of 140 s are measured", n)
	}
}
