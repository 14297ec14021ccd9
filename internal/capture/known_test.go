package capture_test

import (
	"bytes"
	"os"
	"testing"
	"time"

	"latelantern/internal/core/fingerprint"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// TestAFileIsKnownAgain wherever it came before; what was taken away comes last.
func TestAFileIsKnownAgain(t *testing.T) {
	s := testhouse.New(t, true)
	path := film(t, "a.mp4", testfilm.Film{Length: time.Second})
	b, err := os.ReadFile(path)
	s.Must(err)
	print, err := fingerprint.Print(int64(len(b)), bytes.NewReader(b))
	s.Must(err)
	if found, err := s.Capture.Find(t.Context(), print); err != nil || len(found) != 0 {
		t.Fatalf("before it came: %+v %v", found, err)
	}
	first, _ := s.File(s.Lecture, path)
	second, _ := s.File(s.Elsewhere, path)
	s.File(s.Lecture, write(t, "a.mp4", append(b, 0)))
	s.Must(s.Library.SetDeleted(t.Context(), second, s.Lecturer, true))
	found, err := s.Capture.Find(t.Context(), print)
	s.Must(err)
	if len(found) != 2 || *found[0].RecordingID != first || found[0].Code != "COU 1" || found[0].Deleted ||
		*found[1].RecordingID != second || !found[1].Deleted {
		t.Errorf("%+v", found)
	}
}
