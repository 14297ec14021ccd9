package door_test

import (
	"strings"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/chat"
	"latelantern/internal/core/doorway"
	core "latelantern/internal/core/toall"
	"latelantern/internal/testhouse"
	"latelantern/internal/toall"
)

// TestFromNowOn whoever comes is let in, until people have to ask again: who is in then stays, who was sent out is out.
func TestFromNowOn(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	s.Do(`update lecture set doorway = 'ask'`)
	s.Must(s.Door.Ask(ctx, s.Student, s.Lecture), s.Door.KeepOpen(ctx, s.Lecture, s.Lecturer, true),
		s.Door.KeepOpen(ctx, s.Lecture, s.Lecturer, true))
	if open, err := s.Door.Open(ctx, s.Lecture); err != nil || !open {
		t.Errorf("it is not said to be open: %v", err)
	}
	if list, err := s.Door.Asks(ctx, s.Lecture); err != nil || len(list) != 1 || !list[0].LetIn {
		t.Errorf("who waited: %+v %v", list, err)
	}
	for name, who := range map[string]uuid.UUID{"who waited": s.Student, "who comes": s.Second} {
		if at := stands(s, who, s.Lecture); !at.Enter {
			t.Errorf("%s: %+v", name, at)
		}
	}
	if at := stands(s, s.Second, s.Later); at.Enter {
		t.Errorf("at another lecture: %+v", at)
	}
	if at := stands(s, s.Outsider, s.Lecture); at.Enter {
		t.Errorf("a stranger: %+v", at)
	}
	sent := s.Person("sent", s.Course, "student", "")
	s.Must(s.Presence.Played(ctx, s.Second, s.Lecture), s.Presence.Played(ctx, sent, s.Lecture),
		s.Door.Answer(ctx, s.Lecture, sent, s.Lecturer, false, ""))
	s.Do(`update lecture set doorway = 'closed'`)
	if at := stands(s, s.Second, s.Lecture); at.Reason != doorway.IsClosed {
		t.Errorf("a door that was closed since: %+v", at)
	}
	s.Do(`update lecture set doorway = 'ask'`)
	s.Must(s.Door.KeepOpen(ctx, s.Lecture, s.Lecturer, false), s.Door.KeepOpen(ctx, s.Lecture, s.Lecturer, false))
	late := s.Person("late", s.Course, "student", "")
	for name, x := range map[string]struct {
		who uuid.UUID
		why doorway.Reason
	}{"who was let in": {s.Student, doorway.WasLetIn}, "who walked in": {s.Second, doorway.WasLetIn},
		"who was sent out": {sent, doorway.WasSentOut}, "who comes now": {late, doorway.MustAsk}} {
		if at := stands(s, x.who, s.Lecture); at.Reason != x.why {
			t.Errorf("%s: %+v, want %s", name, at, x.why)
		}
	}
}

// TestAWordAtTheDoor is told whom it was for, until they ask again or are let in.
func TestAWordAtTheDoor(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	s.Do(`update lecture set doorway = 'ask'`)
	s.Must(s.Door.Ask(ctx, s.Student, s.Lecture),
		s.Door.Answer(ctx, s.Lecture, s.Student, s.Lecturer, false, " Please come\nin the \u202ebreak. "))
	if at := stands(s, s.Student, s.Lecture); at.Reason != doorway.MustAsk || at.Word != "Please come in the break." {
		t.Errorf("%+v", at)
	}
	s.Must(s.Door.Ask(ctx, s.Student, s.Lecture))
	if at := stands(s, s.Student, s.Lecture); at.Reason != doorway.Waiting || at.Word != "" {
		t.Errorf("asked again: %+v", at)
	}
	s.Must(s.Door.Answer(ctx, s.Lecture, s.Student, s.Lecturer, true, "never said"))
	s.Must(s.Door.Answer(ctx, s.Lecture, s.Student, s.Lecturer, false, "Quiet, please."))
	if at := stands(s, s.Student, s.Lecture); at.Reason != doorway.WasSentOut || at.Word != "Quiet, please." {
		t.Errorf("sent out: %+v", at)
	}
	s.Must(s.Door.Answer(ctx, s.Lecture, s.Student, s.Lecturer, true, ""))
	if at := stands(s, s.Student, s.Lecture); !at.Enter || at.Word != "" {
		t.Errorf("let in again: %+v", at)
	}
	if err := s.Door.Answer(ctx, s.Lecture, s.Student, s.Lecturer, false, strings.Repeat("a", 201)); err == nil {
		t.Error("a long word is said")
	}
	if at := stands(s, s.Student, s.Lecture); !at.Enter {
		t.Errorf("after a word that is too long: %+v", at)
	}
}

// TestWhoOnlyChats is in, and can be sent out.
func TestWhoOnlyChats(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	s.Must(s.Chat.Say(ctx, chat.Saying{ID: uuid.New(), Lecture: s.Lecture, Person: s.Student, Text: "Good morning."}))
	in, err := s.Door.Insiders(ctx, s.Lecture)
	s.Must(err)
	if len(in) != 1 || in[0].PersonID != s.Student {
		t.Errorf("%+v", in)
	}
	s.Must(s.Door.Answer(ctx, s.Lecture, s.Student, s.Lecturer, false, ""))
	if at := stands(s, s.Student, s.Lecture); at.Reason != doorway.WasSentOut {
		t.Errorf("sent out: %+v", at)
	}
	s.Do(`delete from doorway_ask`)
	s.Do(`update chat_line set said_at = said_at - interval '20 minutes'`)
	if in, err := s.Door.Insiders(ctx, s.Lecture); err != nil || len(in) != 0 {
		t.Errorf("who said something long ago: %+v %v", in, err)
	}
}

// TestWhoOnlyAnswers what is put to all is in, and can be sent out.
func TestWhoOnlyAnswers(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	asked := uuid.New()
	s.Must(s.ToAll.Ask(ctx, toall.Asking{ID: asked, Lecture: s.Lecture, By: s.Lecturer,
		Question: core.Question{Kind: core.Words, Text: "Why?"}}),
		s.ToAll.Answer(ctx, toall.Giving{Lecture: s.Lecture, Asked: asked, Person: s.Student,
			Answer: core.Answer{Words: "The tide."}}))
	if in, err := s.Door.Insiders(ctx, s.Lecture); err != nil || len(in) != 1 || in[0].PersonID != s.Student {
		t.Errorf("%+v %v", in, err)
	}
	s.Must(s.Door.Answer(ctx, s.Lecture, s.Student, s.Lecturer, false, ""))
	if at := stands(s, s.Student, s.Lecture); at.Reason != doorway.WasSentOut {
		t.Errorf("sent out: %+v", at)
	}
	s.Do(`delete from doorway_ask`)
	s.Do(`update given_answer set later = true`)
	if in, err := s.Door.Insiders(ctx, s.Lecture); err != nil || len(in) != 0 {
		t.Errorf("who answered it in the recording: %+v %v", in, err)
	}
}
