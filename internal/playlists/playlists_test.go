package playlists_test

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/capture"
	"latelantern/internal/playlists"
	"latelantern/internal/testdb"
	"latelantern/internal/testhouse"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// bare is a recording of a lecture of which nothing has arrived.
func bare(s *testhouse.Stage, lecture uuid.UUID) uuid.UUID {
	s.T.Helper()
	b, err := s.Capture.Begin(context.Background(),
		capture.Start{Lecture: lecture, By: s.Lecturer, Source: capture.File})
	s.Must(err)
	return b.Recording
}

// list is the playlist as words: headings in capitals, recordings by the topic of their lecture.
func list(s *testhouse.Stage) ([]playlists.Entry, string) {
	s.T.Helper()
	entries, err := s.Playlists.Entries(context.Background(), s.Course)
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
		s.Must(s.Playlists.Add(ctx, s.Course, r[i]))
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
		s.Must(s.Playlists.Add(ctx, s.Course, x))
	}
	id, err := s.Playlists.AddHeading(ctx, s.Course, "  The   beginning ")
	s.Must(err)
	entries, got := list(s)
	if got != "one two three THE BEGINNING" {
		t.Fatalf("the order is %s", got)
	}
	s.Must(s.Playlists.Move(ctx, s.Course, id, entries[0].ID))
	s.Must(s.Playlists.Move(ctx, s.Course, entries[0].ID, uuid.Nil))
	if _, got := list(s); got != "THE BEGINNING two three one" {
		t.Errorf("moved: %s", got)
	}
	s.Must(s.Playlists.Rename(ctx, s.Course, id, "Start"))
	s.Must(s.Playlists.Remove(ctx, s.Course, entries[1].ID))
	if _, got := list(s); got != "START three one" {
		t.Errorf("renamed and removed: %s", got)
	}
	// A recording that was put where it is by hand keeps its neighbours when another comes.
	s.Must(s.Playlists.Add(ctx, s.Course, r[1]))
	if _, got := list(s); got != "START two three one" {
		t.Errorf("added again: %s", got)
	}
	for _, c := range []struct {
		name string
		err  error
		want error
	}{
		{"an entry that is not there", s.Playlists.Move(ctx, s.Course, uuid.New(), uuid.Nil), playlists.ErrUnknown},
		{"before one that is not there", s.Playlists.Move(ctx, s.Course, id, uuid.New()), playlists.ErrUnknown},
		{"of another course", s.Playlists.Remove(ctx, s.Other, id), playlists.ErrUnknown},
		{"a recording is no heading", s.Playlists.Rename(ctx, s.Course, entries[2].ID, "x"), playlists.ErrUnknown},
		{"an empty heading", s.Playlists.Rename(ctx, s.Course, id, "  "), playlists.ErrInvalid},
		{"a heading too long", s.Playlists.Rename(ctx, s.Course, id, strings.Repeat("x", 121)), playlists.ErrInvalid},
		{"a recording of another course", s.Playlists.Add(ctx, s.Course, bare(s, s.Elsewhere)), playlists.ErrUnknown},
		{"a recording that is not there", s.Playlists.Add(ctx, s.Course, uuid.New()), playlists.ErrUnknown},
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
		all.Go(func() { errs[i] = s.Playlists.Add(ctx, s.Course, r[i]) })
	}
	all.Wait()
	s.Must(errs...)
	entries, _ := list(s)
	for i := range entries {
		all.Go(func() { errs[i] = s.Playlists.Move(ctx, s.Course, entries[i].ID, entries[(i+5)%12].ID) })
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
