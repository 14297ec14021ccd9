package library_test

import (
	"context"
	"errors"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/library"
	"latelantern/internal/recordings"
	"latelantern/internal/testhouse"
)

func TestWordsOfPeopleAreKept(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	id, _ := s.File(s.Lecture, empty(t))
	read := func() recordings.Recording {
		t.Helper()
		r, err := s.Recordings.Recording(ctx, id)
		s.Must(err)
		return r
	}
	if r := read(); r.Titled || r.Title != "" {
		t.Errorf("a new recording is titled %q", r.Title)
	}
	s.Must(s.Library.SetTitle(ctx, id, s.Lecturer, "  Springs \n and   neaps "),
		s.Library.SetDescription(ctx, id, "Two lines\nof it"))
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
		if !errors.Is(err, library.ErrInvalid) && !errors.Is(err, recordings.ErrUnknown) {
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
