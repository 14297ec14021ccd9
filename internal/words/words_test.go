package words_test

import (
	"context"
	"errors"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/demo"
	"latelantern/internal/assemble"
	"latelantern/internal/core/caption"
	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
	"latelantern/internal/platform/captioner"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/standin/transcriber"
	"latelantern/internal/testdb"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
	"latelantern/internal/words"
)

func TestMain(m *testing.M) { testdb.Main(m) }

const ms = time.Millisecond

func at(from, to time.Duration) span.Span { return span.Span{Start: from, End: to} }

func cue(from, to time.Duration, text string) caption.Cue {
	return caption.Cue{Span: at(from, to), Text: text}
}

// written is a recording of twelve seconds with captions of three lines.
func written(t *testing.T) (*testhouse.Stage, uuid.UUID) {
	t.Helper()
	s := testhouse.New(t)
	path := filepath.Join(t.TempDir(), "a.mp4")
	s.Must(testfilm.Film{Length: 12 * time.Second, NoView: true}.Make(t.Context(), path))
	id, _ := s.File(s.Lecture, path)
	s.Settled(id)
	sheet := caption.Sheet{Head: "- of a file",
		Cues: []caption.Cue{cue(time.Second, 2*time.Second, "the tied turns"),
			cue(3*time.Second, 5*time.Second, "at the harbour"),
			cue(8*time.Second, 10*time.Second, "and the tied again")}}
	sheet.Cues[1].Speaker, sheet.Cues[1].As = "Ada",
		caption.Written{Settings: "line:0", Markup: "<v Ada>at the <b>harbour</b>"}
	s.Must(s.Words.Take(t.Context(), id, "en", s.Lecturer, sheet))
	return s, id
}

// texts are the lines of captions in short.
func texts(s *testhouse.Stage, id uuid.UUID, language string) string {
	s.T.Helper()
	lines, err := s.Words.Lines(context.Background(), id, language)
	s.Must(err)
	var out []string
	for _, l := range lines {
		text := l.Start.String() + " " + l.Text
		if l.Speaker != "" {
			text += " (" + l.Speaker + ")"
		}
		out = append(out, text)
	}
	return strings.Join(out, " | ")
}

func line(s *testhouse.Stage, id uuid.UUID, n int) words.Line {
	s.T.Helper()
	lines, err := s.Words.Lines(context.Background(), id, "en")
	s.Must(err)
	return lines[n]
}

func text(t string) *string { return &t }

// TestCorrectingUndoingAndMakingAgain: each change is one step back and forth.
func TestCorrectingUndoingAndMakingAgain(t *testing.T) {
	ctx := t.Context()
	s, id := written(t)
	begun := "1s the tied turns | 3s at the harbour (Ada) | 8s and the tied again"
	steps := []string{texts(s, id, "en")}
	if steps[0] != begun {
		t.Fatalf("taken: %s", steps[0])
	}
	do := func(want string, err error) {
		t.Helper()
		s.Must(err)
		if got := texts(s, id, "en"); got != want {
			t.Errorf("now %s, want %s", got, want)
		}
		steps = append(steps, want)
	}
	l := line(s, id, 0)
	do("1s The tied turns. | 3s at the harbour (Ada) | 8s and the tied again",
		s.Words.Correct(ctx, id, "en", l.ID, s.Lecturer,
			words.Correction{Seen: l.Text, Text: text(" The  tied turns. ")}))
	n, err := s.Words.Replace(ctx, id, "en", s.Lecturer, caption.Finding{Text: "tied", Whole: true}, "tide")
	do("1s The tide turns. | 3s at the harbour (Ada) | 8s and the tide again", err)
	if n != 2 {
		t.Errorf("replaced in %d places", n)
	}
	l = line(s, id, 2)
	do("1s The tide turns. | 3s at the harbour (Ada) | 8s and the tide again (Ada)",
		s.Words.Correct(ctx, id, "en", l.ID, s.Lecturer, words.Correction{Seen: l.Text, Speaker: text("Ada")}))
	do("1s The tide turns. | 3s at the harbour (Ada Quill) | 8s and the tide again (Ada Quill)",
		s.Words.Correct(ctx, id, "en", l.ID, s.Lecturer,
			words.Correction{Seen: l.Text, Speaker: text("Ada Quill"), All: true}))
	do("1s The tide turns. | 3s at the harbour (Ada Quill) | 8s and the tide (Ada Quill) | 9.444s again (Ada Quill)",
		s.Words.Split(ctx, id, "en", l.ID, s.Lecturer, 13))
	do("1s The tide turns. | 3s at the harbour and the tide (Ada Quill) | 9.444s again (Ada Quill)",
		s.Words.Join(ctx, id, "en", line(s, id, 1).ID, s.Lecturer))
	l = line(s, id, 2)
	do("1s The tide turns. | 3s at the harbour and the tide (Ada Quill)",
		s.Words.Correct(ctx, id, "en", l.ID, s.Lecturer, words.Correction{Seen: l.Text, Text: text(" \n")}))
	for i := len(steps) - 2; i >= 0; i-- {
		s.Must(s.Words.Undo(ctx, id, "en"))
		if got := texts(s, id, "en"); got != steps[i] {
			t.Fatalf("taken back to %s, was %s", got, steps[i])
		}
	}
	// What a file said of a line is back as well.
	if l := line(s, id, 1); l.As.Settings != "line:0" || l.As.Markup != "<v Ada>at the <b>harbour</b>" {
		t.Errorf("of the file is left %+v", l.As)
	}
	for _, want := range steps[1:] {
		s.Must(s.Words.Redo(ctx, id, "en"))
		if got := texts(s, id, "en"); got != want {
			t.Fatalf("made again %s, was %s", got, want)
		}
	}
	if err := s.Words.Redo(ctx, id, "en"); !errors.Is(err, words.ErrNothing) {
		t.Errorf("nothing is left to make again: %v", err)
	}
	// What was taken back cannot be made again over another change.
	s.Must(s.Words.Undo(ctx, id, "en"))
	l = line(s, id, 0)
	s.Must(s.Words.Correct(ctx, id, "en", l.ID, s.Second, words.Correction{Seen: l.Text, Text: text("Another")}))
	if err := s.Words.Redo(ctx, id, "en"); !errors.Is(err, words.ErrNothing) {
		t.Errorf("over another change: %v", err)
	}
}

// TestNobodysWordsAreLost when two correct at once, and what cannot be kept changes nothing.
func TestNobodysWordsAreLost(t *testing.T) {
	ctx := t.Context()
	s, id := written(t)
	l := line(s, id, 0)
	s.Must(s.Words.Correct(ctx, id, "en", l.ID, s.Lecturer,
		words.Correction{Seen: l.Text, Text: text("the tide turns")}))
	before := texts(s, id, "en")
	for name, c := range map[string]struct {
		err  error
		want error
	}{
		"what another changed meanwhile": {s.Words.Correct(ctx, id, "en", l.ID, s.Second,
			words.Correction{Seen: l.Text, Text: text("the tithe turns")}), words.ErrChanged},
		"a line that is none": {s.Words.Correct(ctx, id, "en", uuid.New(), s.Second,
			words.Correction{Text: text("x")}), words.ErrUnknown},
		"a language that is not there": {s.Words.Correct(ctx, id, "de", l.ID, s.Second,
			words.Correction{Seen: "the tide turns", Text: text("x")}), words.ErrUnknown},
		"a line as long as a page": {s.Words.Correct(ctx, id, "en", l.ID, s.Second,
			words.Correction{Seen: "the tide turns", Text: text(strings.Repeat("é", words.MaxText+1))}),
			words.ErrInvalid},
		"parted before the first word": {s.Words.Split(ctx, id, "en", l.ID, s.Second, 0), words.ErrInvalid},
		"joined after the last line":   {s.Words.Join(ctx, id, "en", line(s, id, 2).ID, s.Second), words.ErrInvalid},
		"a language that is none":      {s.Words.Take(ctx, id, "../x", s.Second, caption.Sheet{}), words.ErrInvalid},
		"a draft over words of people": {s.Words.AskForDraft(ctx, id, "en"), words.ErrInvalid},
	} {
		if !errors.Is(c.err, c.want) {
			t.Errorf("%s: %v", name, c.err)
		}
	}
	if got := texts(s, id, "en"); got != before {
		t.Errorf("something was changed all the same: %s", got)
	}
}

// TestCaptionsStayOnTheClockOfTheCapture: a cut, a restore and a split neither lose nor shift a word.
func TestCaptionsStayOnTheClockOfTheCapture(t *testing.T) {
	ctx := t.Context()
	s, id := written(t)
	before := texts(s, id, "en")
	s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, at(2500*ms, 6*time.Second)))
	if got := texts(s, id, "en"); got != before {
		t.Errorf("struck: %s", got)
	}
	r, err := s.Recordings.Recording(ctx, id)
	s.Must(err)
	cues, _, _, err := s.Words.Shown(ctx, id, "")
	s.Must(err)
	carried := caption.Carry(cues, r.Cuts().Carrier())
	if len(carried) != 2 || carried[1].Start != 4500*ms || carried[1].Text != "and the tied again" {
		t.Errorf("carried: %+v", carried)
	}
	s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Restore, at(2500*ms, 6*time.Second)))
	rest, err := s.Library.Split(ctx, id, s.Lecturer, 7*time.Second, s.Lecture)
	s.Must(err)
	if got := texts(s, id, "en"); got != "1s the tied turns | 3s at the harbour (Ada)" {
		t.Errorf("split, the first: %s", got)
	}
	if got := texts(s, rest, "en"); !strings.HasSuffix(got, "and the tied again") || strings.Contains(got, "|") {
		t.Errorf("split, the rest: %s", got)
	}
	arranged, err := postgres.Value[uuid.UUID](ctx, s.DB, `select id from rearrangement where recording_id = $1`, id)
	s.Must(err, s.Library.UndoArrangement(ctx, id, arranged, s.Lecturer))
	if got := texts(s, id, "en"); got != before {
		t.Errorf("made one again: %s", got)
	}
}

// TestLanguagesStandBesideEachOther; a file that is taken by mistake is gone with one step.
func TestLanguagesStandBesideEachOther(t *testing.T) {
	ctx := t.Context()
	s, id := written(t)
	s.Must(s.Words.Take(ctx, id, "de", s.Lecturer,
		caption.Sheet{Cues: []caption.Cue{cue(time.Second, 2*time.Second, "die Flut kehrt um")}}))
	if _, in, all, err := s.Words.Shown(ctx, id, "de"); err != nil || in != "de" || strings.Join(all, " ") != "de en" {
		t.Errorf("%s of %v (%v)", in, all, err)
	}
	if _, in, _, err := s.Words.Shown(ctx, id, "fr"); err != nil || in != "de" && in != "en" {
		t.Errorf("of a language that is not there: %s (%v)", in, err)
	}
	if main, err := s.Words.Main(ctx, id); err != nil || main != "en" {
		t.Errorf("the course is held in %s (%v)", main, err)
	}
	s.Must(s.Words.Undo(ctx, id, "de"))
	if _, err := s.Words.Of(ctx, id, "de"); !errors.Is(err, words.ErrUnknown) {
		t.Errorf("after the file was taken back: %v", err)
	}
	s.Must(s.Words.Show(ctx, id, "en", s.Lecturer, false))
	if cues, _, all, err := s.Words.Shown(ctx, id, ""); err != nil || len(cues) > 0 || len(all) > 0 {
		t.Errorf("hidden, and shown all the same: %v %v (%v)", cues, all, err)
	}
}

// TestADraftIsShownToNobody until someone lets it be; a file in its place that is taken back leaves
// the draft what it was.
func TestADraftIsShownToNobody(t *testing.T) {
	ctx := t.Context()
	server := &transcriber.Server{Text: "kelp holds fast"}
	web := httptest.NewServer(server)
	defer web.Close()
	server.Feel(transcriber.Down)
	s := testhouse.NewWith(t, assemble.Settings{Captioner: &captioner.Server{Address: web.URL, Model: "simulated"}})
	s.Must(s.Words.SetCourse(ctx, s.Course,
		words.Course{Language: "en", Drafts: true, Glossary: "kelp\nholdfast\n kelp \n"}))
	path := filepath.Join(t.TempDir(), "a.mp4")
	film, err := demo.Film("alg-3")
	s.Must(err, os.WriteFile(path, film, 0o600))
	id, _ := s.File(s.Lecture, path)
	s.Measured(id)
	state := func() words.Captions {
		c, err := s.Words.Of(ctx, id, "en")
		if err != nil && !errors.Is(err, words.ErrUnknown) {
			t.Fatal(err)
		}
		return c
	}
	s.Until(func() bool { return state().Fault != "" })
	if c := state(); c.State != "waiting" || c.Fault != "draft.down" || c.Lines > 0 {
		t.Errorf("while it is down: %+v", c)
	}
	server.Feel(transcriber.Well)
	s.Until(func() bool {
		// it need not be waited for here
		s.Do(`update river_job set scheduled_at = now()
			where kind = 'draft_captions' and state = 'retryable' and scheduled_at > now()`)
		return state().State == "ready"
	})
	c := state()
	if c.Lines < 8 || !c.Draft() || c.Shown || c.Looked || c.DraftedBy != "simulated" || c.Share != 100 {
		t.Fatalf("drafted: %+v", c)
	}
	if heard := server.Heard()[len(server.Heard())-1]; heard.Prompt != "kelp, holdfast" ||
		heard.Length > 30*time.Second {
		t.Errorf("it was told %+v", heard)
	}
	lines, err := s.Words.Lines(ctx, id, "en")
	s.Must(err)
	if lines[0].Start < 10*time.Second || lines[0].Start > 20*time.Second || len(lines[0].Words) == 0 ||
		lines[0].Words[0].Start != lines[0].Start {
		t.Errorf("the first line is %+v", lines[0])
	}
	shown := func() int {
		cues, _, _, err := s.Words.Shown(ctx, id, "")
		s.Must(err)
		return len(cues)
	}
	if shown() > 0 {
		t.Error("a draft is shown that nobody let be")
	}
	// A file in its place, taken back: the draft is there again, and still shown to nobody.
	s.Must(s.Words.Take(ctx, id, "en", s.Lecturer,
		caption.Sheet{Cues: []caption.Cue{cue(12*time.Second, 14*time.Second, "Kelp holds fast.")}}))
	if shown() != 1 {
		t.Error("what people wrote is not shown")
	}
	s.Must(s.Words.Undo(ctx, id, "en"))
	if c := state(); shown() > 0 || !c.Draft() || c.Lines != len(lines) {
		t.Errorf("taken back: %d shown, %+v", shown(), c)
	}
	s.Must(s.Words.Redo(ctx, id, "en"))
	if c := state(); shown() != 1 || c.Draft() || c.Lines != 1 {
		t.Errorf("made again: %d shown, %+v", shown(), c)
	}
	s.Must(s.Words.Undo(ctx, id, "en"), s.Words.Look(ctx, id, "en", s.Lecturer, true))
	if c := state(); shown() > 0 || !c.Looked {
		t.Errorf("looked at, and left a draft: %+v", c)
	}
	s.Must(s.Words.Show(ctx, id, "en", s.Lecturer, true))
	if shown() != len(lines) {
		t.Error("let be, and not shown")
	}
	// A captioner that answers nonsense, or for which the draft is no longer wanted.
	server.Feel(transcriber.Nonsense)
	s.Must(s.Words.AskForDraft(ctx, id, "en"))
	s.Until(func() bool { return state().Fault != "" })
	if c := state(); c.Fault != "draft.nonsense" || shown() > 0 {
		t.Errorf("nonsense: %+v", c)
	}
}
