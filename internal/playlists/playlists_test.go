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
	return listed(s, playlists.Of{Course: s.Course})
}

func listed(s *testhouse.Stage, of playlists.Of) ([]playlists.Entry, string) {
	s.T.Helper()
	entries, err := s.Playlists.Entries(context.Background(), of)
	s.Must(err)
	return entries, words(entries)
}

func words(entries []playlists.Entry) string {
	var words []string
	for _, e := range entries {
		word := e.Topic
		switch {
		case e.Heading != nil:
			word = strings.ToUpper(*e.Heading)
		case e.Address != nil:
			word = "<" + e.Title + ">"
		case e.Number.Of > 1:
			word = fmt.Sprintf("%s %d/%d", e.Topic, e.Number.N, e.Number.Of)
		}
		words = append(words, word)
	}
	return strings.Join(words, " ")
}

func weeks(s *testhouse.Stage, names ...string) []uuid.UUID {
	var out []uuid.UUID
	for i, n := range names {
		out = append(out, bare(s, s.AddLecture(s.Course, testhouse.Now.AddDate(0, 0, -70+7*i), n)))
	}
	return out
}

// ids are entries by name.
func ids(of ...uuid.UUID) []uuid.UUID { return of }

func TestRecordingsComeInTheOrderOfTheirLectures(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	main := playlists.Of{Course: s.Course}
	r := weeks(s, "one", "two", "three", "four")
	for _, i := range []int{2, 0, 3, 1, 1} {
		s.Must(s.Playlists.Add(ctx, main, nil, r[i]))
	}
	if _, got := list(s); got != "one two three four" {
		t.Errorf("the order is %s", got)
	}
}

func TestArranging(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	main := playlists.Of{Course: s.Course}
	r := weeks(s, "one", "two", "three")
	for _, x := range r {
		s.Must(s.Playlists.Add(ctx, main, nil, x))
	}
	id, err := s.Playlists.AddHeading(ctx, main, playlists.Text{Title: "  The   beginning "})
	s.Must(err)
	entries, got := list(s)
	if got != "one two three THE BEGINNING" {
		t.Fatalf("the order is %s", got)
	}
	s.Must(s.Playlists.Move(ctx, main, ids(id), entries[0].ID))
	s.Must(s.Playlists.Move(ctx, main, ids(entries[0].ID), uuid.Nil))
	if _, got := list(s); got != "THE BEGINNING two three one" {
		t.Errorf("moved: %s", got)
	}
	s.Must(s.Playlists.Word(ctx, main, id, playlists.Text{Title: "Start"}))
	s.Must(s.Playlists.Remove(ctx, main, entries[1].ID))
	if _, got := list(s); got != "START three one" {
		t.Errorf("renamed and removed: %s", got)
	}
	// A recording that was put where it is by hand keeps its neighbours when another comes.
	s.Must(s.Playlists.Add(ctx, main, nil, r[1]))
	if _, got := list(s); got != "START two three one" {
		t.Errorf("added again: %s", got)
	}
	for _, c := range []struct {
		name string
		err  error
		want error
	}{
		{"an entry that is not there", s.Playlists.Move(ctx, main, ids(uuid.New()), uuid.Nil), playlists.ErrUnknown},
		{"before one that is not there", s.Playlists.Move(ctx, main, ids(id), uuid.New()), playlists.ErrUnknown},
		{"of another course", s.Playlists.Remove(ctx, playlists.Of{Course: s.Other}, id), playlists.ErrUnknown},
		{"a recording is no heading", s.Playlists.Word(ctx, main, entries[2].ID, playlists.Text{Title: "x"}),
			playlists.ErrUnknown},
		{"an empty heading", s.Playlists.Word(ctx, main, id, playlists.Text{Title: "  "}), playlists.ErrInvalid},
		{"a heading too long", s.Playlists.Word(ctx, main, id, playlists.Text{Title: strings.Repeat("x", 121)}),
			playlists.ErrInvalid},
		{"a recording of another course", s.Playlists.Add(ctx, main, nil, bare(s, s.Elsewhere)), playlists.ErrUnknown},
		{"a recording that is not there", s.Playlists.Add(ctx, main, nil, uuid.New()), playlists.ErrUnknown},
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
	main := playlists.Of{Course: s.Course}
	var names []string
	for i := range 12 {
		names = append(names, fmt.Sprintf("w%02d", i))
	}
	r := weeks(s, names...)
	var all sync.WaitGroup
	errs := make([]error, len(r))
	for i := range r {
		all.Go(func() { errs[i] = s.Playlists.Add(ctx, main, nil, r[i]) })
	}
	all.Wait()
	s.Must(errs...)
	entries, _ := list(s)
	for i := range entries {
		all.Go(func() { errs[i] = s.Playlists.Move(ctx, main, ids(entries[i].ID), entries[(i+5)%12].ID) })
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
