package words_test

import (
	"errors"
	"testing"
	"time"

	"latelantern/internal/core/chapter"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/span"
	"latelantern/internal/library"
	"latelantern/internal/words"
)

// TestChaptersAreProposedAndKept: markers and slides propose them; what a person keeps stays on the
// clock of the capture, and nobody's change is lost.
func TestChaptersAreProposedAndKept(t *testing.T) {
	ctx := t.Context()
	s, id := written(t)
	r, err := s.Library.Recording(ctx, id)
	s.Must(err)
	s.Do(`insert into marker (id, capture_id, at_ms, word, made_by, made_at) select gen_random_uuid(), capture_id, 6000, 'the harbour', $2, now() from recording_capture where recording_id = $1`, id, s.Lecturer)
	read := func() ([]chapter.Chapter, bool) {
		t.Helper()
		list, byHand, err := s.Words.Chapters(ctx, id, r.Kept())
		s.Must(err)
		return list, byHand
	}
	proposed, byHand := read()
	if byHand || len(proposed) != 1 || proposed[0] != (chapter.Chapter{At: 6 * time.Second, Title: "the harbour"}) {
		t.Fatalf("proposed: %+v %v", proposed, byHand)
	}
	mine := []chapter.Chapter{{At: 8 * time.Second, Title: "last"}, {At: 0, Title: " first  of all "}}
	set := func(seen, list []chapter.Chapter) error {
		return s.Words.SetChapters(ctx, id, s.Lecturer, r.Kept(), r.Length, seen, list)
	}
	var wrong fault.Faults
	if err := set(proposed, []chapter.Chapter{{At: time.Hour, Title: "too late"}}); !errors.As(err, &wrong) {
		t.Errorf("after the end: %v", err)
	}
	s.Must(set(proposed, mine))
	kept, byHand := read()
	if !byHand || len(kept) != 2 || kept[0].Title != "first of all" || kept[1].At != 8*time.Second {
		t.Fatalf("kept: %+v %v", kept, byHand)
	}
	if err := set(proposed, nil); !errors.Is(err, words.ErrChanged) {
		t.Errorf("over what was not seen: %v", err)
	}
	// Whatever is struck, they stand where they stood.
	s.Must(s.Library.Change(ctx, id, s.Lecturer, library.Strike, span.Span{Start: 0, End: 3 * time.Second}))
	if now, _ := read(); len(now) != 2 || now[0].At != 0 {
		t.Errorf("after a cut: %+v", now)
	}
	rest, err := s.Library.Split(ctx, id, s.Lecturer, 7*time.Second, s.Lecture)
	s.Must(err)
	after, _, err := s.Words.Chapters(ctx, rest, r.Kept())
	s.Must(err)
	if now, _ := read(); len(now) != 1 || len(after) != 0 {
		t.Errorf("after a split %+v stand in the first, and %+v in the rest, of which nobody kept any", now, after)
	}
	now, _ := read()
	s.Must(set(now, nil))
	if again, byHand := read(); byHand || len(again) != 1 || again[0].Title != "the harbour" {
		t.Errorf("back to what is proposed: %+v %v", again, byHand)
	}
}
