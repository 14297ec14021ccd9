package words_test

import (
	"context"
	"os"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"latelantern/demo"
	"latelantern/internal/assemble"
	"latelantern/internal/core/caption"
	"latelantern/internal/core/lattice"
	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
	"latelantern/internal/platform/captioner"
	"latelantern/internal/testhouse"
	"latelantern/internal/words"
)

// listener is a captioner that drafts one word of each piece, and heard others besides.
type listener struct{}

func (listener) Name() string       { return "listener" }
func (listener) Speaks(string) bool { return true }
func (listener) Close() error       { return nil }
func (l listener) Begin(context.Context, captioner.Own) (captioner.Session, error) {
	return l, nil
}

func (listener) Draft(_ context.Context, pieces []captioner.Piece) (captioner.Draft, error) {
	var out captioner.Draft
	for _, p := range pieces {
		word := span.Span{Start: p.At.Start, End: p.At.Start + 400*ms}
		next := span.Span{Start: word.End, End: word.End + 400*ms}
		out.Words = append(out.Words, caption.Word{Span: word, Text: "spring"}, caption.Word{Span: next, Text: "tied"})
		out.Heard = append(out.Heard, lattice.Heard{Span: word, Word: "spring", Share: 0.9},
			lattice.Heard{Span: next, Word: "tide", Share: 0.25}, lattice.Heard{Span: next, Word: "tied", Share: 0.75})
	}
	return out, nil
}

// TestWhatMayHaveBeenSaid is found on the clock of the recording, until someone corrects the line;
// it goes with the draft, and comes back with it.
func TestWhatMayHaveBeenSaid(t *testing.T) {
	ctx := t.Context()
	s := testhouse.NewWith(t, assemble.Settings{Captioner: listener{}})
	s.Must(s.Words.SetCourse(ctx, s.Course, words.Course{Language: "en", Drafts: true}))
	path := filepath.Join(t.TempDir(), "a.mp4")
	film, err := demo.Film("tid-1")
	s.Must(err, os.WriteFile(path, film, 0o600))
	id, _ := s.File(s.Lecture, path)
	s.Measured(id)
	s.Until(func() bool { c, err := s.Words.Of(ctx, id, "en"); return err == nil && c.State == "ready" })
	perhaps := func(text string) []lattice.Heard {
		t.Helper()
		list, err := s.Words.Perhaps(ctx, id, "en", text)
		s.Must(err)
		return list
	}
	lines, err := s.Words.Lines(ctx, id, "en")
	s.Must(err)
	n := len(lines)
	all := perhaps("Spring tide!")
	if len(all) != n || n < 2 || all[0].Word != "spring tide" || all[0].Share != 0.25 ||
		!slices.ContainsFunc(all,
			func(h lattice.Heard) bool { return h.Start == lines[0].Start && h.Len() == 800*ms }) {
		t.Fatalf("of %d lines heard %+v", n, all)
	}
	// Of which words it was hardly sure is seen where they are read, until someone corrects the line.
	unsure := func() (out []string) {
		t.Helper()
		read, err := s.Words.Read(ctx, id, "en")
		s.Must(err)
		for _, l := range read {
			for _, w := range l.Words {
				if w.Unsure {
					out = append(out, w.Text)
				}
			}
		}
		return out
	}
	if got := unsure(); len(got) > 0 {
		t.Errorf("it was sure, and not of %v", got)
	}
	s.Do(`update heard set share = 0.49 where word = 'tied'`)
	if got := unsure(); !slices.Equal(got, slices.Repeat([]string{"tied"}, n)) {
		t.Errorf("of %d lines it was not sure of %v", n, got)
	}
	if len(perhaps("the of")) > 0 || len(perhaps("%")) > 0 || len(perhaps("ebb")) > 0 {
		t.Error("what nobody heard is found")
	}
	// A search tells what stands in the draft, and not again that it may have been said.
	for text, want := range map[string][2]int{"spring": {n, 0}, "tide": {0, n}, "tied": {n, 0}, "spring tide": {0, n},
		" ": {}} {
		hits, err := s.Words.Search(ctx, id, text)
		s.Must(err)
		var got [2]int
		for _, h := range hits {
			switch h.Where {
			case words.Said:
				got[0]++
			case words.Perhaps:
				got[1]++
			}
		}
		if got != want {
			t.Errorf("%q is found %v times, said and perhaps said, want %v", text, got, want)
		}
	}
	// What a person corrects is known.
	text := "spring tied"
	s.Must(s.Words.Correct(ctx, id, "en", lines[0].ID, s.Lecturer, words.Correction{Seen: lines[0].Text, Text: &text}))
	if got := perhaps("tide"); len(got) != n-1 ||
		slices.ContainsFunc(got, func(h lattice.Heard) bool { return h.Start < lines[0].End }) {
		t.Errorf("of a line that was corrected: %+v", got)
	}
	if got := unsure(); len(got) != n-1 {
		t.Errorf("with one line corrected it was not sure of %v", got)
	}
	s.Must(s.Words.Undo(ctx, id, "en"))
	// A file takes the place of the draft, and is taken back.
	s.Must(s.Words.Take(ctx, id, "en", s.Lecturer,
		caption.Sheet{Cues: []caption.Cue{cue(time.Second, 2*time.Second, "By hand.")}}))
	if got := perhaps("tide"); len(got) > 0 {
		t.Errorf("beside what people wrote: %+v", got)
	}
	s.Must(s.Words.Undo(ctx, id, "en"))
	if got := perhaps("tide"); len(got) != n {
		t.Errorf("of the draft that came back: %d of %d", len(got), n)
	}
	// Whatever is struck or split, it stays where it is.
	s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, span.Span{Start: 0, End: 2 * time.Second}))
	if got := perhaps("spring tide"); !slices.Equal(got, all) {
		t.Errorf("after a cut: %+v", got)
	}
	half := lines[n/2].Start - 50*ms
	rest, err := s.Library.Split(ctx, id, s.Lecturer, half, s.Lecture)
	s.Must(err)
	later, err := s.Words.Perhaps(ctx, rest, "en", "tide")
	s.Must(err)
	if got := perhaps("tide"); len(got)+len(later) != n || len(later) == 0 || later[0].Start > time.Minute {
		t.Errorf("after a split %d and %d of %d", len(got), len(later), n)
	}
	// A draft that is made anew hears anew.
	s.Must(s.Words.AskForDraft(ctx, rest, "en"))
	s.Until(func() bool { c, err := s.Words.Of(ctx, rest, "en"); return err == nil && c.State == "ready" })
	if got := s.Count(`select count(*) from heard`); got != 3*n {
		t.Errorf("%d words are kept as heard of %d lines", got, n)
	}
}
