package sweep_test

import (
	"context"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
	"latelantern/internal/sweep"
	"latelantern/internal/testdb"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// TestWhatNothingNamesIsSwept, and nothing else: what is published plays on, also of a generation of packaging that was
// replaced, what was written lately is left, and so is what the sweep does not know.
func TestWhatNothingNamesIsSwept(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	path := filepath.Join(t.TempDir(), "a.mp4")
	s.Must(testfilm.Film{Length: 9 * time.Second, Width: 320, Height: 180}.Make(ctx, path))
	id, track := s.File(s.Lecture, path)
	s.Measured(id)
	s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, span.Span{Start: time.Second, End: 2 * time.Second}))
	edition := *s.Lit(id).EditionID
	kept := all(t, s)
	// As after more of a track came: it has another generation, and the edition is still of the first.
	s.Do(`update track set pack = 'pack/' || id || '/newer'`)

	stranger := uuid.NewString()
	left := []string{"pack/" + track.String() + "/newer/pictures.mp4", "unknown/" + stranger, "readme"}
	gone := []string{
		"log/" + stranger, "strip/" + stranger + "/0.jpg", "measure/" + stranger + "/keys",
		"recorder/" + stranger + ".jpg", "playlist/" + stranger,
		"pack/" + stranger + "/1/sound.mp4", "pack/" + track.String() + "/older/pictures.mp4",
		"pack/" + track.String() + "/older/pictures.index",
		"edition/" + stranger + "/plan.json", "edition/" + edition.String() + "/copy-aa.mp4", "log/.put-123",
	}
	for _, key := range slices.Concat(left, gone) {
		s.Must(s.Blobs.Put(key, strings.NewReader("12345")))
	}
	if swept, err := s.Sweep.Sweep(ctx, time.Now().Add(sweep.Grace-time.Minute)); err != nil || len(swept) != 0 {
		t.Errorf("of what was written lately is swept %+v (%v)", swept, err)
	}
	swept, err := s.Sweep.Sweep(ctx, time.Now().Add(sweep.Grace+time.Minute))
	s.Must(err)
	want := slices.Concat(kept, left)
	slices.Sort(want)
	if is := all(t, s); !slices.Equal(is, want) {
		t.Errorf("there are\n%s\nwant\n%s", strings.Join(is, "\n"), strings.Join(want, "\n"))
	}
	var told []string
	for _, x := range swept {
		told = append(told, fmt.Sprint(x.Kind, " ", x.Blobs, " ", x.Bytes))
	}
	slices.Sort(told)
	counted := []string{"copy 1 5", "edition 1 5", "half 1 5", "log 1 5", "measure 1 5", "pack 3 15", "playlist 1 5", "recorder 1 5",
		"strip 1 5"}
	if !slices.Equal(told, counted) {
		t.Errorf("it tells of %q, want %q", told, counted)
	}
	if n := s.Count(`select sum(bytes)::int from swept`); n != 5*len(gone) {
		t.Errorf("%d bytes are counted as swept", n)
	}
	p, err := s.Publication.Edition(ctx, edition)
	s.Must(err)
	for n := range p.Video.Segments {
		if _, err := s.Recordings.Segment(p.Video, n); err != nil {
			t.Errorf("segment %d of what is published: %v", n, err)
		}
	}
}

// all are the keys of all blobs.
func all(t *testing.T, s *testhouse.Stage) []string {
	t.Helper()
	var out []string
	for e, err := range s.Blobs.List("") {
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, e.Key)
	}
	slices.Sort(out)
	return out
}
