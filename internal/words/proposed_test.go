package words_test

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/fault"
	"latelantern/internal/cuts"
	"latelantern/internal/words"
)

// TestAReaderProposesALine: it stands until someone who teaches takes it or leaves the line as it is, as long as the
// line says what was seen.
func TestAReaderProposesALine(t *testing.T) {
	ctx := t.Context()
	s, id := written(t)
	propose := func(by uuid.UUID, at time.Duration, seen, text string) error {
		return s.Words.Propose(ctx, id, "en", by, at, seen, text)
	}
	stand := func(when, want string) []words.Proposal {
		t.Helper()
		all, err := s.Words.Proposals(ctx, id, "en")
		s.Must(err)
		var said []string
		for _, p := range all {
			said = append(said, fmt.Sprintf("%v %s: %s", p.At, p.Name, p.Text))
		}
		if got := strings.Join(said, " | "); got != want {
			t.Errorf("%s there stands %q, want %q", when, got, want)
		}
		of, err := s.Words.Of(ctx, id, "en")
		lines := map[uuid.UUID]bool{}
		for _, p := range all {
			lines[p.Line] = true
		}
		if s.Must(err); of.Proposed != len(lines) {
			t.Errorf("%s %d lines are counted, want %d", when, of.Proposed, len(lines))
		}
		return all
	}
	for code, err := range map[fault.Code]error{
		"captions.proposed_empty": propose(s.Student, time.Second, "the tied turns", " \u0007\n"),
		"captions.proposed_same":  propose(s.Student, time.Second, "the tied turns", " the  tied turns "),
		"captions.line_long":      propose(s.Student, time.Second, "the tied turns", strings.Repeat("x", 601)),
		"other_line":              propose(s.Student, time.Second, "the tide turns", "the tide turned"),
	} {
		if texts := fault.All(err); !slices.ContainsFunc(texts, func(t fault.Text) bool { return t.Code == code }) {
			t.Errorf("%s: %v", code, err)
		}
	}
	err := propose(s.Student, 20*time.Second, "the tied turns", "the tide turns")
	if !errors.Is(err, words.ErrChanged) {
		t.Errorf("far from its line: %v", err)
	}
	s.Must(propose(s.Student, 8200*ms, "and the tied again", "and the tide again"),
		propose(s.Student, 1100*ms, "the tied turns", "the tired turns"),
		propose(s.Student, time.Second, "the tied turns", "the tide turns"), // in place of that
		propose(s.Second, 900*ms, "the tied turns", "the tide turned"))
	all := stand("at first", "1s student: the tide turns | 1s second: the tide turned | 8s student: and the tide again")
	own, err := s.Words.Proposed(ctx, id, "en", s.Second)
	if s.Must(err); len(own) != 1 || own[0].ID != all[1].ID {
		t.Errorf("of their own they find %+v", own)
	}
	// A cut moves nothing, and nobody takes back what is another's.
	s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, at(3*time.Second, 5*time.Second)))
	for _, err := range []error{s.Words.Withdraw(ctx, id, all[0].ID, s.Second),
		s.Words.LeaveLine(ctx, id, uuid.New(), s.Lecturer, false),
		s.Words.TakeProposal(ctx, id, "en", uuid.New(), s.Lecturer),
		s.Words.TakeProposal(ctx, id, "de", all[0].ID, s.Lecturer)} {
		if !errors.Is(err, words.ErrUnknown) {
			t.Errorf("of what is not there: %v", err)
		}
	}
	s.Must(s.Words.LeaveLine(ctx, id, all[2].ID, s.Lecturer, false))
	stand("left", "1s student: the tide turns | 1s second: the tide turned")
	s.Must(s.Words.LeaveLine(ctx, id, all[2].ID, s.Lecturer, true))
	s.Must(s.Words.TakeProposal(ctx, id, "en", all[0].ID, s.Lecturer))
	stand("taken", "8s student: and the tide again")
	if got := texts(s, id, "en"); !strings.HasPrefix(got, "1s the tide turns |") {
		t.Errorf("the captions are %s", got)
	}
	s.Must(s.Words.Undo(ctx, id, "en"))
	stand("undone", "1s student: the tide turns | 1s second: the tide turned | 8s student: and the tide again")
	s.Must(s.Words.Withdraw(ctx, id, all[2].ID, s.Student))
	stand("withdrawn", "1s student: the tide turns | 1s second: the tide turned")
	// Of one person so many, and no more.
	s.Do(`insert into caption_proposal (id, capture_id, cue_id, seen, text, person_id, made_at)
		select gen_random_uuid(), capture_id, gen_random_uuid(), '', '', person_id, made_at
		from caption_proposal, generate_series(1, 100) where id = $1`, all[0].ID)
	if err := propose(s.Student, 8*time.Second, "and the tied again", "and so"); !errors.Is(err, words.ErrProposed) {
		t.Errorf("one more: %v", err)
	}
	s.Must(propose(s.Second, 8*time.Second, "and the tied again", "and so"))
}
