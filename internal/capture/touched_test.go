package capture_test

import (
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/capture"
	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// TestWhatSomeoneTouchedIsNotJoined: what is captured after a recording was trimmed, titled, lit or darkened is one of
// its own, also when it says that it began before; what was decided about the first one still holds.
func TestWhatSomeoneTouchedIsNotJoined(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	four := browserFilm(t, testfilm.Film{Length: 4 * time.Second})
	last := sendAll(t, s, capture.Start{Age: 10 * time.Minute}, four).Recording
	for _, c := range []struct {
		name string
		do   func(id uuid.UUID) error
	}{
		{"left alone", nil},
		{"trimmed", func(id uuid.UUID) error {
			return s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, span.Span{Start: time.Second, End: 2 * time.Second})
		}},
		{"titled", func(id uuid.UUID) error { return s.Library.SetTitle(ctx, id, s.Lecturer, "Tides") }},
		{"lit", func(id uuid.UUID) error { s.Lit(id); return nil }},
		{"darkened", func(id uuid.UUID) error {
			s.Lit(id)
			return s.Releases.Darken(ctx, s.Course, id, s.Lecturer)
		}},
	} {
		s.Settled(last)
		if c.do != nil {
			s.Must(c.do(last))
		}
		before := s.Settled(last)
		next := sendAll(t, s, capture.Start{Age: 10*time.Minute + 30*time.Second}, four).Recording
		if joined := next == last; joined != (c.do == nil) {
			t.Errorf("%s: joined %v", c.name, joined)
		}
		s.Settled(next)
		after := s.Settled(last)
		if c.do != nil &&
			(after.Parts != before.Parts || !after.Struck.Equal(before.Struck) ||
				after.EditionID != nil && !after.Current()) {
			t.Errorf("%s: it is another one now: %+v", c.name, after)
		}
		last = next
	}
}

// TestASecondPictureIsOfWhoeverCapturesTheFirst.
func TestASecondPictureIsOfWhoeverCapturesTheFirst(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	first, err := s.Capture.Begin(ctx, capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.Desk})
	s.Must(err)
	for name, in := range map[string]capture.Start{
		"another person": {Lecture: s.Lecture, By: s.Coordinator, Source: capture.Desk, Beside: first.Track},
		"a recorder":     {Lecture: s.Lecture, Source: capture.Hall, Beside: first.Track},
		"a file":         {Lecture: s.Lecture, By: s.Lecturer, Source: capture.File, Beside: first.Track},
	} {
		if _, err := s.Capture.Begin(ctx, in); !errors.Is(err, capture.ErrBeside) {
			t.Errorf("%s: %v", name, err)
		}
	}
	_, err = s.Capture.Begin(ctx,
		capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.Desk, Beside: first.Track})
	s.Must(err)
	for _, length := range []int64{capture.MaxLength + 1, 1 << 62} {
		if _, err := s.Capture.Append(ctx, first.Track, 0, &length, strings.NewReader("")); !errors.Is(err,
			capture.ErrTooLarge) {
			t.Errorf("a length of %d: %v", length, err)
		}
	}
}
