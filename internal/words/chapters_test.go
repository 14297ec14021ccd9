package words_test

import (
	"context"
	"errors"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/chapter"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
	"latelantern/internal/words"
)

// TestChaptersAreProposedAndKept: markers and slides propose them; what a person keeps stays on the
// clock of the capture, and nobody's change is lost.
func TestChaptersAreProposedAndKept(t *testing.T) {
	ctx := t.Context()
	s, id := written(t)
	r, err := s.Recordings.Recording(ctx, id)
	s.Must(err)
	s.Do(`insert into marker (id, capture_id, at_ms, word, made_by, made_at)
		select gen_random_uuid(), capture_id, 6000, 'the harbour', $2, now() from recording_capture
		where recording_id = $1`, id, s.Lecturer)
	read := func() ([]chapter.Chapter, bool) {
		t.Helper()
		now, err := s.Words.Chapters(ctx, id, r.Kept())
		s.Must(err)
		return now.List, now.ByHand
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
	// Each change is undone, and made again; what was undone is not made again over another.
	turn := func(do func(ctx context.Context, recording, by uuid.UUID) error, want ...string) {
		t.Helper()
		if err := do(ctx, id, s.Lecturer); err != nil {
			t.Errorf("turn: %v", err)
		}
		now, byHand := read()
		var titles []string
		for _, c := range now {
			titles = append(titles, c.Title)
		}
		if !slices.Equal(titles, want) || byHand != (want[0] != "the harbour") {
			t.Errorf("stand now: %q %v, want %q", titles, byHand, want)
		}
	}
	s.Must(set(kept, kept[:1]))
	turn(s.Words.UndoChapters, "first of all", "last")
	turn(s.Words.UndoChapters, "the harbour")
	if err := s.Words.UndoChapters(ctx, id, s.Lecturer); !errors.Is(err, words.ErrNothing) {
		t.Errorf("nothing is left to be undone: %v", err)
	}
	turn(s.Words.RedoChapters, "first of all", "last")
	turn(s.Words.RedoChapters, "first of all")
	turn(s.Words.UndoChapters, "first of all", "last")
	s.Do(`update chapter set title = 'other' where title = 'last'`)
	if err := s.Words.UndoChapters(ctx, id, s.Lecturer); !errors.Is(err, words.ErrChanged) {
		t.Errorf("over what another did: %v", err)
	}
	s.Do(`update chapter set title = 'last' where title = 'other'`)
	s.Must(set(kept, kept))
	if now, err := s.Words.Chapters(ctx, id, r.Kept()); err != nil || now.Redo || !now.Undo {
		t.Errorf("after another change: %+v (%v)", now, err)
	}
	// Whatever is struck, they stand where they stood.
	s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, span.Span{Start: 0, End: 3 * time.Second}))
	if now, _ := read(); len(now) != 2 || now[0].At != 0 {
		t.Errorf("after a cut: %+v", now)
	}
	rest, err := s.Library.Split(ctx, id, s.Lecturer, 7*time.Second, s.Lecture)
	s.Must(err)
	after, err := s.Words.Chapters(ctx, rest, r.Kept())
	s.Must(err)
	if now, _ := read(); len(now) != 1 || len(after.List) != 0 {
		t.Errorf("after a split %+v stand in the first, and %+v in the rest, of which nobody kept any", now, after.List)
	}
	// What was kept before the split is brought back in this recording alone.
	turn(s.Words.UndoChapters, "first of all")
	turn(s.Words.RedoChapters, "first of all")
	now, _ := read()
	s.Must(set(now, nil))
	if again, byHand := read(); byHand || len(again) != 1 || again[0].Title != "the harbour" {
		t.Errorf("back to what is proposed: %+v %v", again, byHand)
	}
}
