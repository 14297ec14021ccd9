package publish_test

import (
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/capture"
	"latelantern/internal/core/span"
	"latelantern/internal/library"
	"latelantern/internal/publish"
	"latelantern/internal/testdb"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// bare is a recording of a lecture of which nothing has arrived.
func bare(s *testhouse.Stage, lecture uuid.UUID) uuid.UUID {
	s.T.Helper()
	b, err := s.Capture.Begin(context.Background(), capture.Start{Lecture: lecture, By: s.Lecturer, Source: capture.File})
	s.Must(err)
	return b.Recording
}

var cut = span.Span{End: time.Second}

// list is the playlist as words: headings in capitals, recordings by the topic of their lecture.
func list(s *testhouse.Stage) ([]publish.Entry, string) {
	s.T.Helper()
	entries, err := s.Publish.Entries(context.Background(), s.Course)
	s.Must(err)
	var words []string
	for _, e := range entries {
		if e.Heading != nil {
			words = append(words, strings.ToUpper(*e.Heading))
		} else {
			words = append(words, e.Topic)
		}
	}
	return entries, strings.Join(words, " ")
}

func weeks(s *testhouse.Stage, names ...string) []uuid.UUID {
	var out []uuid.UUID
	for i, n := range names {
		out = append(out, bare(s, s.AddLecture(s.Course, testhouse.Now.AddDate(0, 0, -70+7*i), n)))
	}
	return out
}

func TestRecordingsComeInTheOrderOfTheirLectures(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	r := weeks(s, "one", "two", "three", "four")
	for _, i := range []int{2, 0, 3, 1, 1} {
		s.Must(s.Publish.Add(ctx, s.Course, r[i]))
	}
	if _, got := list(s); got != "one two three four" {
		t.Errorf("the order is %s", got)
	}
}

func TestArranging(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	r := weeks(s, "one", "two", "three")
	for _, x := range r {
		s.Must(s.Publish.Add(ctx, s.Course, x))
	}
	id, err := s.Publish.AddHeading(ctx, s.Course, "  The   beginning ")
	s.Must(err)
	entries, got := list(s)
	if got != "one two three THE BEGINNING" {
		t.Fatalf("the order is %s", got)
	}
	s.Must(s.Publish.Move(ctx, s.Course, id, entries[0].ID))
	s.Must(s.Publish.Move(ctx, s.Course, entries[0].ID, uuid.Nil))
	if _, got := list(s); got != "THE BEGINNING two three one" {
		t.Errorf("moved: %s", got)
	}
	s.Must(s.Publish.Rename(ctx, s.Course, id, "Start"))
	s.Must(s.Publish.Remove(ctx, s.Course, entries[1].ID))
	if _, got := list(s); got != "START three one" {
		t.Errorf("renamed and removed: %s", got)
	}
	// A recording that was put where it is by hand keeps its neighbours when another comes.
	s.Must(s.Publish.Add(ctx, s.Course, r[1]))
	if _, got := list(s); got != "START two three one" {
		t.Errorf("added again: %s", got)
	}
	for _, c := range []struct {
		name string
		err  error
		want error
	}{
		{"an entry that is not there", s.Publish.Move(ctx, s.Course, uuid.New(), uuid.Nil), publish.ErrUnknown},
		{"before one that is not there", s.Publish.Move(ctx, s.Course, id, uuid.New()), publish.ErrUnknown},
		{"of another course", s.Publish.Remove(ctx, s.Other, id), publish.ErrUnknown},
		{"a recording is no heading", s.Publish.Rename(ctx, s.Course, entries[2].ID, "x"), publish.ErrUnknown},
		{"an empty heading", s.Publish.Rename(ctx, s.Course, id, "  "), publish.ErrInvalid},
		{"a heading too long", s.Publish.Rename(ctx, s.Course, id, strings.Repeat("x", 121)), publish.ErrInvalid},
		{"a recording of another course", s.Publish.Add(ctx, s.Course, bare(s, s.Elsewhere)), publish.ErrUnknown},
		{"a recording that is not there", s.Publish.Add(ctx, s.Course, uuid.New()), publish.ErrUnknown},
	} {
		if !errors.Is(c.err, c.want) {
			t.Errorf("%s: %v", c.name, c.err)
		}
	}
	if _, got := list(s); got != "START two three one" {
		t.Errorf("something that was refused changed the order: %s", got)
	}
}

// TestManyHandsAtOnce add and move in one playlist: nothing is lost and no two stand in one place.
func TestManyHandsAtOnce(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	var names []string
	for i := range 12 {
		names = append(names, fmt.Sprintf("w%02d", i))
	}
	r := weeks(s, names...)
	var all sync.WaitGroup
	errs := make([]error, len(r))
	for i := range r {
		all.Go(func() { errs[i] = s.Publish.Add(ctx, s.Course, r[i]) })
	}
	all.Wait()
	s.Must(errs...)
	entries, _ := list(s)
	for i := range entries {
		all.Go(func() { errs[i] = s.Publish.Move(ctx, s.Course, entries[i].ID, entries[(i+5)%12].ID) })
	}
	all.Wait()
	s.Must(errs...)
	_, got := list(s)
	words := strings.Fields(got)
	slices.Sort(words)
	if !slices.Equal(words, names) {
		t.Errorf("after many moves there are %s", got)
	}
}

func TestLightAndDarken(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	path := filepath.Join(t.TempDir(), "a.mp4")
	s.Must(testfilm.Film{Length: 3 * time.Second, Width: 320, Height: 180}.Make(ctx, path))
	id, _ := s.File(s.Lecture, path)
	s.Settled(id)
	s.Lit(id)
	s.Lit(id) // once more changes nothing
	if n := s.Count(`select count(*) from publication where recording_id = $1`, id); n != 1 {
		t.Errorf("it is lit %d times", n)
	}
	if n := s.Count(`select count(*) from edition where recording_id = $1`, id); n != 1 {
		t.Errorf("%d editions of the same cuts were made", n)
	}
	if entries, got := list(s); got != "Today" || !entries[0].Lit || entries[0].LengthMs != 3000 {
		t.Errorf("the playlist is %s: %+v", got, entries)
	}
	s.Must(s.Publish.Darken(ctx, s.Course, id, s.Coordinator))
	if entries, got := list(s); got != "Today" || entries[0].Lit {
		t.Errorf("taken back, the playlist is %s", got)
	}
	if n := s.Count(`select count(*) from publication where recording_id = $1 and darkened_by = $2 and lit_by = $3`, id, s.Coordinator, s.Lecturer); n != 1 {
		t.Error("who lit it and who took it back is not kept")
	}
	s.Lit(id)
	if n := s.Count(`select count(*) from publication where recording_id = $1`, id); n != 2 {
		t.Errorf("%d publications are kept", n)
	}
	if err := s.Publish.Light(ctx, s.Course, bare(s, s.Later), s.Lecturer); !errors.Is(err, library.ErrNotReady) {
		t.Errorf("a recording of which nothing has come: %v", err)
	}
	if _, got := list(s); got != "Today" {
		t.Errorf("what could not be lit stands in the playlist: %s", got)
	}
	// Published cuts are those of the moment it was lit, until it is lit again.
	s.Must(s.Library.Change(ctx, id, s.Lecturer, library.Strike, cut))
	r, err := s.Library.Recording(ctx, id)
	s.Must(err)
	if r.Current() {
		t.Error("a new trim counts as published before it is")
	}
	if entries, _ := list(s); entries[0].LengthMs != 3000 {
		t.Errorf("students see %d ms", entries[0].LengthMs)
	}
	s.Lit(id)
	if entries, _ := list(s); entries[0].LengthMs != 2000 {
		t.Errorf("published again, students see %d ms", entries[0].LengthMs)
	}
	// Back to the cuts before: what was published then may be removed by now, and is made anew.
	s.Must(s.Library.Change(ctx, id, s.Lecturer, library.Undo, cut))
	s.Lit(id)
	if entries, _ := list(s); entries[0].LengthMs != 3000 {
		t.Errorf("after undo and lighting students see %d ms", entries[0].LengthMs)
	}
}
