package playlists_test

import (
	"bytes"
	"errors"
	"io"
	"strings"
	"testing"
	"testing/iotest"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/playlist"
	"latelantern/internal/platform/clock"
	"latelantern/internal/playlists"
	"latelantern/internal/testhouse"
)

const aPDF = "%PDF-1.7\n1 0 obj\n<< /Type /Catalog >>\nendobj\ntrailer << /Root 1 0 R >>\n%%EOF\n"

// filesOf are the files in a playlist, each by its title and name.
func filesOf(s *testhouse.Stage, of playlists.Of) (ids []uuid.UUID, named string) {
	s.T.Helper()
	entries, err := s.Playlists.Entries(s.T.Context(), of)
	s.Must(err)
	for _, e := range entries {
		if e.FileID != nil {
			ids, named = append(ids, *e.FileID), named+e.Title+"|"+e.FileName+" "
		}
	}
	return ids, strings.TrimSpace(named)
}

// TestAFileInAPlaylist stands in it as an entry that is called, moved and taken out as any other, in each course that
// shows it, with the bytes that came.
func TestAFileInAPlaylist(t *testing.T) {
	ctx, s := t.Context(), testhouse.New(t, true)
	of := named(s, "Before the examination", playlist.Hand)
	_, err := s.Playlists.AddHeading(ctx, of, playlists.Text{Title: "To read"})
	s.Must(err)
	entry, err := s.Playlists.AddFile(ctx, of, s.Lecturer, `C:\slides\Week 1.pdf`, int64(len(aPDF)),
		iotest.OneByteReader(strings.NewReader(aPDF)))
	s.Must(err)
	files, is := filesOf(s, of)
	if is != "Week 1|Week 1.pdf" {
		t.Fatalf("the files are %q", is)
	}
	s.Must(s.Playlists.Word(ctx, of, entry, playlists.Text{Title: "Slides of week 1"}),
		s.Playlists.Move(ctx, of, []uuid.UUID{entry}, first(s, of)))
	if err := s.Playlists.Word(ctx, of, entry, playlists.Text{Title: "x", Address: "https://x.example/"}); err == nil {
		t.Error("a file became a page")
	}
	if entries, err := s.Playlists.Entries(ctx, of); err != nil || len(entries) != 2 || entries[0].ID != entry ||
		entries[0].Title != "Slides of week 1" || entries[0].Heading != nil {
		t.Errorf("called and moved: %+v (%v)", entries, err)
	}
	if _, _, err := s.Playlists.File(ctx, s.Other, files[0]); !errors.Is(err, playlists.ErrUnknown) {
		t.Errorf("a course that does not show it has it: %v", err)
	}
	s.Must(s.Playlists.Show(ctx, playlists.Of{Course: s.Other, List: of.List}, true))
	for _, course := range []uuid.UUID{s.Course, s.Other} {
		f, b, err := s.Playlists.File(ctx, course, files[0])
		s.Must(err)
		if got, err := io.ReadAll(b); err != nil || string(got) != aPDF || f.Kind != "application/pdf" ||
			f.Bytes != int64(len(aPDF)) {
			t.Errorf("%+v with %q (%v)", f, got, err)
		}
		s.Must(b.Close())
	}

	s.Must(s.Playlists.Remove(ctx, of, entry))
	if _, _, err := s.Playlists.File(ctx, s.Course, files[0]); !errors.Is(err, playlists.ErrUnknown) {
		t.Errorf("taken out it is still there: %v", err)
	}
	err = s.Playlists.AddFileAgain(ctx, playlists.Of{Course: s.Other}, files[0], "")
	if !errors.Is(err, playlists.ErrUnknown) {
		t.Errorf("another course puts it back: %v", err)
	}
	s.Must(s.Playlists.AddFileAgain(ctx, of, files[0], "  "))
	if ids, is := filesOf(s, of); is != "Week 1|Week 1.pdf" || len(ids) != 1 {
		t.Errorf("put back without a title: %q", is)
	}
	entries, err := s.Playlists.Entries(ctx, of)
	s.Must(err)
	s.Must(s.Playlists.Remove(ctx, of, entries[len(entries)-1].ID))
	s.Must(s.Playlists.AddFileAgain(ctx, of, files[0], "Slides of week 1"))
	if _, is := filesOf(s, of); is != "Slides of week 1|Week 1.pdf" {
		t.Errorf("put back: %q", is)
	}
}

// first is the first entry of a playlist.
func first(s *testhouse.Stage, of playlists.Of) uuid.UUID {
	entries, err := s.Playlists.Entries(s.T.Context(), of)
	s.Must(err)
	return entries[0].ID
}

// TestWhatIsNoFileForAPlaylist is refused with its reason, and leaves nothing.
func TestWhatIsNoFileForAPlaylist(t *testing.T) {
	ctx, s := t.Context(), testhouse.New(t)
	of := named(s, "Slides", playlist.Hand)
	large := io.MultiReader(strings.NewReader(aPDF), bytes.NewReader(make([]byte, playlists.MostFile)))
	for name, c := range map[string]struct {
		length int64
		r      io.Reader
		code   fault.Code
	}{
		"nothing":                            {0, strings.NewReader(""), "playlist.file_empty"},
		"a page":                             {-1, strings.NewReader("<!doctype html><script>alert(1)</script>"), "playlist.file_kind"},
		"a drawing with scripts":             {-1, strings.NewReader(`<svg xmlns="http://www.w3.org/2000/svg"/>`), "playlist.file_kind"},
		"a program":                          {-1, strings.NewReader("\x7fELF\x02\x01\x01\x00"), "playlist.file_kind"},
		"a file that is larger than is said": {10, large, "playlist.file_large"},
		"a file that says it is large":       {playlists.MostFile + 1, strings.NewReader(aPDF), "playlist.file_large"},
		"a file that breaks off": {-1, io.MultiReader(strings.NewReader(strings.Repeat(aPDF, 2000)),
			iotest.ErrReader(io.ErrUnexpectedEOF)), "playlist.file_cut"},
		"a file that breaks off at once": {-1, iotest.ErrReader(io.ErrUnexpectedEOF), "playlist.file_cut"},
	} {
		_, err := s.Playlists.AddFile(ctx, of, s.Lecturer, "a.pdf", c.length, c.r)
		if !errors.Is(err, playlists.ErrInvalid) || !errors.Is(err, c.code) {
			t.Errorf("%s: %v, want %s", name, err, c.code)
		}
	}
	if n := s.Count(`select (select count(*) from playlist_file) + (select count(*) from playlist_entry)`); n != 0 {
		t.Errorf("%d are kept", n)
	}
	for e, err := range s.Blobs.List("playlist") {
		t.Errorf("%s is kept (%v)", e.Key, err)
	}
	elsewhere := playlists.Of{Course: s.Course, List: uuid.New()}
	untouched := iotest.ErrReader(errors.New("it was read"))
	_, err := s.Playlists.AddFile(ctx, elsewhere, s.Lecturer, "a", -1, untouched)
	if !errors.Is(err, playlists.ErrUnknown) {
		t.Errorf("into no playlist: %v", err)
	}
	for name, want := range map[string]string{"": "file", "..": "file", "a\x00b\nc.txt": "a b c.txt",
		strings.Repeat("long", 90) + ".odp": strings.Repeat("long", 29) + ".odp", ".pdf": ".pdf"} {
		_, err := s.Playlists.AddFile(ctx, of, s.Lecturer, name, -1, strings.NewReader("Read chapter 3."))
		s.Must(err)
		entries, err := s.Playlists.Entries(ctx, of)
		s.Must(err)
		if e := entries[len(entries)-1]; e.FileName != want || e.Title == "" {
			t.Errorf("%q is kept as %q, called %q", name, e.FileName, e.Title)
		}
	}
}

// TestFilesThatStandNowhere can be put back for a month; then they are forgotten, and so are their bytes.
func TestFilesThatStandNowhere(t *testing.T) {
	ctx, s := t.Context(), testhouse.New(t)
	of := named(s, "Slides", playlist.Hand)
	var entries []uuid.UUID
	for range 2 {
		id, err := s.Playlists.AddFile(ctx, of, s.Lecturer, "a.pdf", -1, strings.NewReader(aPDF))
		s.Must(err)
		entries = append(entries, id)
	}
	files, _ := filesOf(s, of)
	s.Must(s.Playlists.Remove(ctx, of, entries[0]))
	for _, days := range []int{0, 29} {
		later := *s.Playlists
		later.Clock = clock.Standing(testhouse.Now.AddDate(0, 0, days))
		s.Must(later.ForgetFiles(ctx))
	}
	s.Must(s.Playlists.AddFileAgain(ctx, of, files[0], "")) // on the last day
	again, _ := filesOf(s, of)
	late := *s.Playlists
	late.Clock = clock.Standing(testhouse.Now.AddDate(0, 0, 40))
	s.Must(late.ForgetFiles(ctx))
	if n := s.Count(`select count(*) from playlist_file`); n != 2 || len(again) != 2 {
		t.Fatalf("of 2 files %d are left", n)
	}
	s.Must(s.Playlists.Remove(ctx, of, entries[1]), late.ForgetFiles(ctx))
	late.Clock = clock.Standing(testhouse.Now.AddDate(0, 0, 71))
	s.Must(late.ForgetFiles(ctx))
	if n := s.Count(`select count(*) from playlist_file`); n != 1 {
		t.Errorf("of 1 file %d are left", n)
	}
	_, err := s.Sweep.Sweep(ctx, time.Now().Add(24*time.Hour))
	s.Must(err)
	blobs := 0
	for _, err := range s.Blobs.List("playlist") {
		s.Must(err)
		blobs++
	}
	if blobs != 1 {
		t.Errorf("the bytes of %d files are left", blobs)
	}
}
