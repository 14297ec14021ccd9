package capture_test

import (
	"bytes"
	"context"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/capture"
	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
	"latelantern/internal/publication"
	"latelantern/internal/recordings"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

const ms = time.Millisecond

// browserFilm is what a browser sends, of a given kind.
func browserFilm(t *testing.T, f testfilm.Film) []byte {
	t.Helper()
	f.Encoding = []string{"-c:v", "libx264", "-preset", "ultrafast", "-bf", "0", "-g", "50", "-c:a", "libopus",
		"-cluster_time_limit", "1000"}
	if f.Width == 0 {
		f.Width, f.Height = 320, 180
	}
	path := filepath.Join(t.TempDir(), "part.mkv")
	if err := f.Make(context.Background(), path); err != nil {
		t.Fatal(err)
	}
	b, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// ages gives how old captures are that begin so long after each other, the first twenty minutes ago, however long the
// test takes meanwhile.
func ages(s *testhouse.Stage) func(after time.Duration) time.Duration {
	from := s.Clock.Now()
	return func(after time.Duration) time.Duration { return 20*time.Minute - after + s.Clock.Now().Sub(from) }
}

// sendAll begins a track and sends all of it.
func sendAll(t *testing.T, s *testhouse.Stage, in capture.Start, all []byte) capture.Started {
	t.Helper()
	in.Lecture, in.Source = s.Lecture, capture.Desk
	if in.By == uuid.Nil {
		in.By = s.Lecturer
	}
	b, err := s.Capture.Begin(context.Background(), in)
	s.Must(err)
	length := int64(len(all))
	if _, err := s.Capture.Append(context.Background(), b.Track, 0, &length, bytes.NewReader(all)); err != nil {
		t.Fatal(err)
	}
	return b
}

// numbersOf are the numbers burnt into the pictures of the published recording.
func numbersOf(t *testing.T, s *testhouse.Stage, r recordings.Recording) []int {
	t.Helper()
	key, err := s.Publication.Copy(context.Background(), *r.EditionID, publication.CopyVideo, nil)
	s.Must(err)
	n, err := testfilm.Numbers(context.Background(), testhouse.Local(t, s.Blobs, key))
	s.Must(err)
	return n
}

func count(from, to int) (out []int) {
	for n := from; n < to; n++ {
		out = append(out, n)
	}
	return out
}

// TestPartsOfALectureAreOneRecording: a computer that failed and came back leaves one recording
// with a hole where nothing was captured; what is published has neither.
func TestPartsOfALectureAreOneRecording(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	first := sendAll(t, s, capture.Start{}, browserFilm(t, testfilm.Film{Length: 6 * time.Second}))
	if r := s.Settled(first.Recording); r.Parts != 1 || !r.Holes.Empty() {
		t.Fatalf("one part: %+v", r)
	}
	s.Do(`update capture set started_at = started_at - interval '40 s'`)
	s.Do(`update recording set origin_at = origin_at - interval '40 s'`)
	s.Measured(first.Recording)
	s.Do(`delete from strip`)
	second := sendAll(t, s, capture.Start{}, browserFilm(t, testfilm.Film{Length: 4 * time.Second}))
	if second.Recording != first.Recording || second.Capture == first.Capture {
		t.Fatalf("the second part is of another recording")
	}
	r := s.Settled(first.Recording)
	holes := r.Holes.Spans()
	if r.Parts != 2 || len(holes) != 1 || (holes[0].Start-6*time.Second).Abs() > 100*ms ||
		holes[0].End < 40*time.Second || holes[0].End > 50*time.Second {
		t.Fatalf("%d parts with holes %v", r.Parts, holes)
	}
	if d := r.Length - holes[0].End; (d - 4*time.Second).Abs() > 100*ms {
		t.Errorf("after the hole come %v", d)
	}
	whole, err := s.Recordings.Captured(ctx, r.ID)
	s.Must(err)
	if whole.Length != r.Length || !whole.Ended {
		t.Errorf("it can be played for %v of %v", whole.Length, r.Length)
	}
	unbroken(t, s, whole.Video, whole.Length)
	unbroken(t, s, whole.Audio, whole.Length)

	strip := s.Measured(r.ID)
	if n := time.Duration(len(strip.Peaks)) * 100 * ms; (n - r.Length).Abs() > 300*ms {
		t.Errorf("the strip page is %v long", n)
	}
	r = s.Lit(r.ID)
	if got, want := numbersOf(t, s, r), append(count(0, 150), count(0, 100)...); !slices.Equal(got, want) {
		t.Errorf("published are %d pictures, want %d", len(got), len(want))
	}
	// A cut over the hole takes from both parts.
	s.Must(s.Cuts.Change(ctx, r.ID, s.Lecturer, cuts.Strike,
		span.Span{Start: 5 * time.Second, End: holes[0].End + time.Second}))
	r = s.Lit(r.ID)
	if got, want := numbersOf(t, s, r), append(count(0, 125), count(25, 100)...); !slices.Equal(got, want) {
		t.Errorf("published after a cut are %d pictures, want %d: %v", len(got), len(want), got)
	}
	edition, err := s.Publication.Edition(ctx, *r.EditionID)
	s.Must(err)
	if (edition.Length-8*time.Second).Abs() > 80*ms || len(edition.Stretches) != 2 {
		t.Errorf("published are %v in %v", edition.Length, edition.Stretches)
	}
	unbroken(t, s, edition.Video, edition.Length)
	heard, err := testfilm.Clicks(ctx, testhouse.Local(t, s.Blobs,
		must(s.Publication.Copy(ctx, *r.EditionID, publication.CopyVideo, nil))))
	s.Must(err)
	for i, h := range heard {
		if d := (h - time.Duration(i+1)*500*ms).Abs(); d > 60*ms {
			t.Errorf("click %d is heard at %v", i, h)
		}
	}
	if len(heard) < 14 {
		t.Errorf("%d clicks are heard in 8 s", len(heard))
	}
}

func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

// unbroken checks that the segments of a rendition follow one another without a gap, and can all be read.
func unbroken(t *testing.T, s *testhouse.Stage, r *recordings.Rendition, length time.Duration) {
	t.Helper()
	var at time.Duration
	for i, d := range r.Durations() {
		it, track := r.Segments[i], r.TrackOf(i)
		begins := time.Duration(it.Time) * time.Second / time.Duration(track.Timescale)
		if (begins - at).Abs() > 60*ms {
			t.Fatalf("segment %d begins at %v, after %v", i, begins, at)
		}
		at = begins + d
		if _, err := s.Recordings.Segment(r, i); err != nil {
			t.Fatalf("segment %d: %v", i, err)
		}
		if _, err := r.InitOf(it.Track); err != nil {
			t.Fatalf("head of segment %d: %v", i, err)
		}
	}
	if (at - length).Abs() > 150*ms {
		t.Errorf("it ends at %v, not %v", at, length)
	}
}

// TestPartsThatDiffer: another size, sound alone, two computers at once. All of it is played,
// published and copied.
func TestPartsThatDiffer(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	four, larger := browserFilm(t, testfilm.Film{Length: 4 * time.Second}),
		browserFilm(t, testfilm.Film{Length: 4 * time.Second, Width: 480, Height: 270})
	six, blind := browserFilm(t, testfilm.Film{Length: 6 * time.Second}),
		browserFilm(t, testfilm.Film{Length: 4 * time.Second, NoView: true})
	age := ages(s)
	a := sendAll(t, s, capture.Start{Age: age(0)}, four)
	sendAll(t, s, capture.Start{Age: age(10 * time.Second)}, larger)
	// its first 2 s stand beside the second part
	sendAll(t, s, capture.Start{Age: age(12 * time.Second), By: s.Coordinator}, six)
	sendAll(t, s, capture.Start{Age: age(30 * time.Second)}, blind)
	if n := s.Count(`select count(*) from recording`); n != 1 {
		t.Fatalf("%d recordings", n)
	}
	r := s.Settled(a.Recording)
	if got := r.Kept().Len(); r.Parts != 4 || (got-16*time.Second).Abs() > 300*ms {
		t.Fatalf("%d parts hold %v, holes %v", r.Parts, got, r.Holes)
	}
	whole, err := s.Recordings.Captured(ctx, r.ID)
	s.Must(err)
	unbroken(t, s, whole.Video, whole.Length)
	unbroken(t, s, whole.Audio, whole.Length)
	r = s.Lit(r.ID)
	edition, err := s.Publication.Edition(ctx, *r.EditionID)
	s.Must(err)
	if (edition.Length - 16*time.Second).Abs() > 300*ms {
		t.Errorf("published are %v", edition.Length)
	}
	unbroken(t, s, edition.Video, edition.Length)
	unbroken(t, s, edition.Audio, edition.Length)
	file := testhouse.Local(t, s.Blobs, must(s.Publication.Copy(ctx, *r.EditionID, publication.CopyVideo, nil)))
	out, err := exec.Command("ffprobe", "-v", "error", "-show_entries", "stream=codec_type,width,duration", "-of",
		"csv=p=0", file).Output()
	s.Must(err)
	t.Logf("%s", out)
	if n := must(testfilm.Numbers(ctx, file)); len(n) < 300 {
		t.Errorf("the copy has %d pictures", len(n))
	}
}

// TestASecondPictureStaysInStep is cut with the first and never apart from it.
func TestASecondPictureStaysInStep(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	track := uuid.New()
	first := sendAll(t, s, capture.Start{Track: track}, browserFilm(t, testfilm.Film{Length: 10 * time.Second}))
	beside := browserFilm(t, testfilm.Film{Length: 9 * time.Second, NoSound: true})
	second := sendAll(t, s, capture.Start{Beside: track, Lag: 400 * ms}, beside)
	if first.Track != track || second.Capture != first.Capture || second.Recording != first.Recording {
		t.Fatalf("%+v beside %+v", second, first)
	}
	r := s.Settled(first.Recording)
	if !r.SecondVideo || r.Parts != 1 {
		t.Fatalf("%+v", r)
	}
	whole, err := s.Recordings.Captured(ctx, r.ID)
	s.Must(err)
	unbroken(t, s, whole.SecondVideo, 9400*ms)
	for _, x := range []span.Span{{Start: 0, End: 1130 * ms}, {Start: 3 * time.Second, End: 4470 * ms},
		{Start: 6 * time.Second, End: 6610 * ms}} {
		s.Must(s.Cuts.Change(ctx, r.ID, s.Lecturer, cuts.Strike, x))
	}
	// The second leads for a while; that is a version as any other, and is carried through the cuts.
	s.Must(s.Cuts.Change(ctx, r.ID, s.Lecturer, cuts.Lead, cut(2, 8)),
		s.Cuts.Change(ctx, r.ID, s.Lecturer, cuts.Follow, cut(5, 5.5)))
	if err := s.Cuts.Change(ctx, r.ID, s.Lecturer, cuts.Lead, cut(2, 2.1)); err == nil {
		t.Error("a tenth of a second is led")
	}
	r = s.Lit(r.ID)
	edition, err := s.Publication.Edition(ctx, *r.EditionID)
	s.Must(err)
	unbroken(t, s, edition.SecondVideo, edition.Length)
	copied := testhouse.Local(t, s.Blobs, must(s.Publication.Copy(ctx, *r.EditionID, publication.CopyVideo, nil)))
	tracks, err := exec.Command("ffprobe", "-v", "error", "-count_packets", "-show_entries",
		"stream=codec_type,nb_read_packets", "-of", "csv=p=0", copied).Output()
	if want := strings.Count(string(tracks), "video,"); err != nil || want != 2 ||
		strings.Count(string(tracks), "audio,") != 1 {
		t.Errorf("a copy holds %s (%v)", tracks, err)
	}
	led := edition.Led
	if len(led) != 2 || (led[0].Start-870*ms).Abs() > 41*ms || (led[0].Len()-1530*ms).Abs() > 81*ms ||
		(led[1].Len()-1890*ms).Abs() > 81*ms {
		t.Errorf("the second leads at %v of what is published", led)
	}
	s.Must(s.Cuts.Change(ctx, r.ID, s.Lecturer, cuts.Undo, span.Span{}))
	if back, err := s.Recordings.Recording(ctx, r.ID); err != nil || !back.Led.Equal(span.Of(cut(2, 8))) ||
		back.Current() {
		t.Errorf("undone, the second leads at %v (%v)", back.Led.Spans(), err)
	}
	s.Must(s.Cuts.Change(ctx, r.ID, s.Lecturer, cuts.Redo, span.Span{}))
	// Picture n of the second is 400 ms later on the clock than picture n of the first.
	for i, d := range edition.SecondVideo.Durations() {
		it, track := edition.SecondVideo.Segments[i], edition.SecondVideo.TrackOf(i)
		if track.Source == "" || d < 200*ms {
			continue
		}
		folder := t.TempDir()
		path := filepath.Join(folder, "a.mp4")
		s.Must(os.WriteFile(path, append(slices.Clone(track.Init),
			must(s.Recordings.Segment(edition.SecondVideo, i))...),
			0o600))
		n, err := testfilm.Numbers(ctx, path)
		s.Must(err)
		at := time.Duration(it.Time) * time.Second / time.Duration(track.Timescale)
		want := at
		for _, x := range edition.Stretches {
			if at >= x.At-ms {
				want = x.Source.Start + at - x.At
			}
		}
		if shown := time.Duration(n[0])*40*ms + 400*ms; (shown - want).Abs() > 41*ms {
			t.Errorf("at %v the first shows %v and the second %v", at, want, shown)
		}
	}
}

// TestBeginningTwiceBeginsOnce: an answer may be lost on the line, and a second picture may be
// heard of before the first.
func TestBeginningTwiceBeginsOnce(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	in := capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.Desk, Track: uuid.New(), Age: time.Minute}
	a, err := s.Capture.Begin(ctx, in)
	s.Must(err)
	b, err := s.Capture.Begin(ctx, in)
	s.Must(err)
	if a != b || s.Count(`select count(*) from track`) != 1 {
		t.Errorf("%+v, then %+v", a, b)
	}
	if p, err := s.Capture.Stored(ctx, a.Track); err != nil ||
		s.Clock.Now().Sub(p.Started).Round(5*time.Second) != time.Minute {
		t.Errorf("it began at %v (%v)", p.Started, err)
	}
	beside := in
	beside.Track, beside.Beside = uuid.New(), uuid.New()
	if _, err := s.Capture.Begin(ctx, beside); !errors.Is(err, capture.ErrBeside) {
		t.Errorf("beside nothing: %v", err)
	}
	other := in
	other.Lecture = s.Elsewhere
	if _, err := s.Capture.Begin(ctx, other); !errors.Is(err, capture.ErrTaken) {
		t.Errorf("the track of another lecture: %v", err)
	}
	beside.Beside = in.Track
	_, err = s.Capture.Begin(ctx, beside)
	s.Must(err)
	beside.Track = uuid.New()
	if _, err := s.Capture.Begin(ctx, beside); !errors.Is(err, capture.ErrTaken) {
		t.Errorf("a third picture: %v", err)
	}
	// A capture is over when both of its pictures are.
	s.Must(s.Capture.End(ctx, a.Recording))
	if n := s.Count(`select count(*) from capture where stopped_at is not null`); n != 1 {
		t.Errorf("%d captures are over", n)
	}
}

// TestAnEarlierPartMovesTheClock: a computer that had no line tells late that it began first.
func TestAnEarlierPartMovesTheClock(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	four := browserFilm(t, testfilm.Film{Length: 4 * time.Second})
	a := sendAll(t, s, capture.Start{Age: 10 * time.Minute}, four)
	began := func() (at time.Time) {
		s.Must(s.DB.QueryRow(ctx, `select origin_at from recording where id = $1`, a.Recording).Scan(&at))
		return at
	}
	then := began()
	s.Settled(a.Recording)
	id := uuid.New()
	s.Must(s.Capture.Mark(ctx, a.Track, id, s.Lecturer,
		capture.Marker{At: 3 * time.Second, Word: " the  tide\nturns "}))
	sendAll(t, s, capture.Start{Age: 10*time.Minute + 30*time.Second}, four)
	by := then.Sub(began())
	r := s.Settled(a.Recording)
	if by < 20*time.Second || r.Parts != 2 {
		t.Errorf("it begins %v earlier, with %d parts", by, r.Parts)
	}
	m, err := s.Capture.Markers(ctx, r.ID)
	s.Must(err)
	if len(m) != 1 || (m[0].At-3*time.Second-by).Abs() > ms || m[0].Word != "the tide turns" {
		t.Errorf("the marker is now %+v", m)
	}
	r = s.Lit(r.ID)
	if got := len(numbersOf(t, s, r)); got != 200 {
		t.Errorf("%d pictures are published, want those of 8 s", got)
	}
}
