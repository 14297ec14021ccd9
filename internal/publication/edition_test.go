package publication_test

import (
	"context"
	"fmt"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
	"latelantern/internal/publication"
	"latelantern/internal/recordings"
	"latelantern/internal/testdb"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

func TestMain(m *testing.M) { testdb.Main(m) }

const ms = time.Millisecond

func cut(from, to time.Duration) span.Span { return span.Span{Start: from, End: to} }

// TestEditionsAreExact publishes films with cuts at odd places and reads every picture and
// every click of what came out.
func TestEditionsAreExact(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	for _, c := range []struct {
		name string
		film testfilm.Film
		file string
		cuts []span.Span
	}{
		{"both ends and the middle", testfilm.Film{Length: 20 * time.Second}, "a.mp4",
			[]span.Span{cut(0, 3130*ms), cut(9210*ms, 12050*ms), cut(17333*ms, 20*time.Second)}},
		{"pictures out of order", testfilm.Film{Length: 20 * time.Second, BFrames: 2}, "b.mp4",
			[]span.Span{cut(0, 1010*ms), cut(5*time.Second, 7990*ms), cut(15450*ms, 16*time.Second)}},
		{"cuts on key pictures", testfilm.Film{Length: 12 * time.Second}, "c.mp4",
			[]span.Span{cut(2*time.Second, 4*time.Second), cut(8*time.Second, 10*time.Second)}},
		{"both cuts in one group", testfilm.Film{Length: 12 * time.Second, Group: 250}, "d.mp4",
			[]span.Span{cut(3*time.Second, 3400*ms), cut(5*time.Second, 5200*ms)}},
		{"a stretch of five pictures between two cuts", testfilm.Film{Length: 12 * time.Second}, "e.mp4",
			[]span.Span{cut(time.Second, 5*time.Second), cut(5200*ms, 9*time.Second)}},
		{"30 pictures a second, no sound", testfilm.Film{Length: 10 * time.Second, Rate: 30, Group: 60, NoSound: true},
			"f.mp4", []span.Span{cut(0, 777*ms), cut(6*time.Second, 7111*ms)}},
		{"an encoding that must be made anew",
			testfilm.Film{Length: 8 * time.Second,
				Encoding: []string{"-c:v", "libvpx", "-deadline", "realtime", "-cpu-used", "8", "-b:v", "2M", "-c:a",
					"libopus"}}, "g.webm", []span.Span{cut(2300*ms, 4100*ms)}},
		{"nothing struck", testfilm.Film{Length: 6 * time.Second}, "h.mp4", nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			path := filepath.Join(t.TempDir(), c.file)
			s.Must(c.film.Make(ctx, path))
			id, _ := s.File(s.Lecture, path)
			if r := s.Settled(id); r.State != "ready" {
				t.Fatalf("it is %s: %s", r.State, r.Fault)
			}
			for _, x := range c.cuts {
				s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, x))
			}
			r := s.Lit(id)
			check(t, s, r, c.film)
		})
	}
}

// check reads the published film of r and compares it with what its cut list keeps.
func check(t *testing.T, s *testhouse.Stage, r recordings.Recording, film testfilm.Film) {
	t.Helper()
	ctx := context.Background()
	edition, err := s.Publication.Edition(ctx, *r.EditionID)
	s.Must(err)
	kept := r.Cuts().Kept().Spans()
	rate := film.Rate
	if rate == 0 {
		rate = 25
	}
	frame := time.Second / time.Duration(rate)
	if len(edition.Stretches) != len(kept) {
		t.Fatalf("%d stretches are published, %d are kept", len(edition.Stretches), len(kept))
	}
	number := func(at time.Duration) int { return int((at + frame/2) / frame) }
	var want []int
	for i, x := range edition.Stretches {
		if d := (x.Source.Start - kept[i].Start).Abs(); d > frame {
			t.Errorf("stretch %d begins %v away from its cut", i, d)
		}
		if d := (x.Source.End - kept[i].End).Abs(); d > frame {
			t.Errorf("stretch %d ends %v away from its cut", i, d)
		}
		for n := number(x.Source.Start); n < number(x.Source.End); n++ {
			want = append(want, n)
		}
	}
	key, err := s.Publication.Copy(ctx, *r.EditionID, publication.CopyVideo, nil)
	s.Must(err)
	got, err := testfilm.Numbers(ctx, testhouse.Local(t, s.Blobs, key))
	s.Must(err)
	if !slices.Equal(got, want) {
		t.Errorf("%d pictures are shown, %d are wanted; first difference: %s", len(got), len(want),
			difference(got, want))
	}
	if film.NoSound {
		return
	}
	heard, err := testfilm.Clicks(ctx, testhouse.Local(t, s.Blobs, key))
	s.Must(err)
	expected := 0
	for _, x := range edition.Stretches {
		for at := (x.Source.Start + 499*ms).Truncate(500 * ms); at < x.Source.End-20*ms; at += 500 * ms {
			if at < x.Source.Start+20*ms {
				continue // cut by the edge
			}
			expected++
			place := x.At + at - x.Source.Start
			if i, _ := slices.BinarySearch(heard, place-20*ms); i == len(heard) || heard[i] > place+20*ms {
				t.Errorf("the click of %v should be heard at %v", at, place)
			}
		}
	}
	if len(heard) < expected || len(heard) > expected+2*len(kept) {
		t.Errorf("%d clicks are heard, %d are expected", len(heard), expected)
	}
}

func difference(a, b []int) string {
	for i := range min(len(a), len(b)) {
		if a[i] != b[i] {
			return fmt.Sprintf("picture %d is number %d, not %d", i, a[i], b[i])
		}
	}
	return "one ends early"
}
