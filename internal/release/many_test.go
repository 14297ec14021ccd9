package release_test

import (
	"errors"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/viewing"
	"latelantern/internal/playlists"
	"latelantern/internal/recordings"
	"latelantern/internal/release"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// two are recordings that can be lit, of two lectures of the course.
func two(s *testhouse.Stage) (out []uuid.UUID) {
	s.T.Helper()
	path := filepath.Join(s.T.TempDir(), "a.mp4")
	s.Must(testfilm.Film{Length: 3 * time.Second, Width: 320, Height: 180}.Make(s.T.Context(), path))
	for _, lecture := range []uuid.UUID{s.Lecture, s.AddLecture(s.Course, testhouse.Now.Add(-50*time.Hour), "Before")} {
		id, _ := s.File(lecture, path)
		out = append(out, id)
	}
	for _, id := range out {
		s.Settled(id)
	}
	return out
}

// stands are how many recordings give light to both courses, and how many entries their playlists have.
func stands(s *testhouse.Stage) [4]int {
	s.T.Helper()
	var out [4]int
	for i, course := range []uuid.UUID{s.Course, s.Other} {
		out[i] = s.Count(`select count(*) from released where course_id = $1 and lit`, course)
		entries, err := s.Playlists.Entries(s.T.Context(), playlists.Of{Course: course})
		s.Must(err)
		out[2+i] = len(entries)
	}
	return out
}

// TestManyAreLitInOneStep, and taken back in one; what was so before stays.
func TestManyAreLitInOneStep(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t)
	ids := two(s)
	s.Lit(ids[0])
	want := func(when string, stand [4]int) {
		t.Helper()
		if got := stands(s); got != stand {
			t.Errorf("%s it stands %v, want %v", when, got, stand)
		}
	}
	want("before", [4]int{1, 0, 1, 0})
	many := release.Many{Pairs: release.Every(append(slices.Clone(ids), ids[0]), []uuid.UUID{s.Other, s.Course}),
		Giving: viewing.Giving{Lit: new(true)}}
	step, err := s.Releases.Change(ctx, s.Lecturer, many)
	s.Must(err)
	want("lit", [4]int{2, 2, 2, 2})
	if n := s.Count(`select count(*) from light_change_part where change_id = $1`, step); n != 3 {
		t.Errorf("the step has %d parts", n)
	}
	if _, err := s.Releases.Change(ctx, s.Lecturer, many); !errors.Is(err, release.ErrNothing) {
		t.Errorf("all is lit: %v", err)
	}
	if err := s.Releases.TakeBack(ctx, step, s.Colleague, false); !errors.Is(err, release.ErrUnknown) {
		t.Errorf("someone else takes it back: %v", err)
	}
	s.Must(s.Releases.TakeBack(ctx, step, s.Coordinator, true))
	want("taken back", [4]int{1, 0, 1, 0})
	if err := s.Releases.TakeBack(ctx, step, s.Coordinator, true); !errors.Is(err, release.ErrUnknown) {
		t.Errorf("taken back twice: %v", err)
	}
	_, err = s.Releases.Change(ctx, s.Lecturer, many)
	s.Must(err)
	many = release.Many{Pairs: release.Every(ids, []uuid.UUID{s.Other}), Giving: viewing.Giving{Lit: new(false)}}
	step, err = s.Releases.Change(ctx, s.Lecturer, many)
	s.Must(err)
	want("darkened for one course", [4]int{2, 0, 2, 2})
	// What was lit again meanwhile is lit once.
	s.Must(s.Releases.Light(ctx, s.Other, ids[1], s.Colleague), s.Releases.TakeBack(ctx, step, s.Lecturer, false))
	want("brought back", [4]int{2, 2, 2, 2})
}

// TestAllOrNothingIsLit: one that cannot be lit, or is not there, keeps the others as they are.
func TestAllOrNothingIsLit(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t)
	ids := two(s)
	courses := []uuid.UUID{s.Course, s.Other}
	for name, bad := range map[string]struct {
		recording, course uuid.UUID
		err               error
	}{
		"nothing has come of it": {begun(s, s.Later), s.Course, recordings.ErrNotReady},
		"no recording":           {uuid.New(), s.Course, release.ErrUnknown},
		"no course":              {ids[0], uuid.New(), release.ErrUnknown},
	} {
		_, err := s.Releases.Change(ctx, s.Lecturer, release.Many{Giving: viewing.Giving{Lit: new(true)},
			Pairs: release.Every(append(slices.Clone(ids), bad.recording), append(slices.Clone(courses), bad.course))})
		if !errors.Is(err, bad.err) {
			t.Errorf("%s: %v", name, err)
		}
	}
	s.Must(s.Library.SetDeleted(ctx, ids[1], s.Lecturer, true))
	if _, err := s.Releases.Change(ctx, s.Lecturer, release.Many{Pairs: release.Every(ids, courses),
		Giving: viewing.Giving{Lit: new(true)}}); !errors.Is(err, release.ErrUnknown) {
		t.Errorf("one that was taken away: %v", err)
	}
	if got := stands(s); got != [4]int{} {
		t.Errorf("it stands %v", got)
	}
	if n := s.Count(`select count(*) from light_change`); n != 0 {
		t.Errorf("%d steps are kept", n)
	}
}
