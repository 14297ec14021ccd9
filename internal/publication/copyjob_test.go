package publication_test

import (
	"io"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"latelantern/internal/core/chapter"
	"latelantern/internal/core/span"
	"latelantern/internal/publication"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// TestACopyIsMadeOnce however many ask for it at once, and says its true size; with other chapters it is another one.
func TestACopyIsMadeOnce(t *testing.T) {
	s := testhouse.New(t)
	path := filepath.Join(t.TempDir(), "a.mp4")
	s.Must(testfilm.Film{Length: 6 * time.Second, Width: 320, Height: 180}.Make(t.Context(), path))
	id, _ := s.File(s.Lecture, path)
	s.Settled(id)
	edition := *s.Lit(id).EditionID
	jobs := func() int { return s.Count(`select count(*)::int from river_job where kind = 'make_copy'`) }
	ready := func() int64 {
		t.Helper()
		var size int64
		s.Until(func() bool {
			c, err := s.Publication.CopyOf(t.Context(), edition, publication.CopyVideo)
			s.Must(err)
			size = c.Bytes
			return c.State == "ready"
		})
		return size
	}
	var all sync.WaitGroup
	for range 12 {
		all.Go(func() {
			if _, err := s.Publication.AskCopy(t.Context(), edition, publication.CopyVideo, nil); err != nil {
				t.Error(err)
			}
		})
	}
	all.Wait()
	size := ready()
	f, err := s.Publication.OpenCopy(t.Context(), edition, publication.CopyVideo)
	s.Must(err)
	defer f.Close()
	held, err := f.Seek(0, io.SeekEnd)
	s.Must(err)
	if n := jobs(); n != 1 || size != held || size == 0 {
		t.Errorf("%d jobs made a copy of %d bytes that says %d", n, held, size)
	}
	if c, err := s.Publication.AskCopy(t.Context(), edition, publication.CopyVideo, nil); err != nil || c.State != "ready" || jobs() != 1 {
		t.Errorf("asked again: %+v %v", c, err)
	}
	other := []chapter.Published{{Span: span.Span{End: 3 * time.Second}, Title: "One"}}
	if c, err := s.Publication.AskCopy(t.Context(), edition, publication.CopyVideo, other); err != nil || c.State != "making" {
		t.Errorf("with chapters: %+v %v", c, err)
	}
	ready()
	if n := jobs(); n != 2 {
		t.Errorf("%d jobs", n)
	}
}
