package door_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/capture"
	"latelantern/internal/core/doorway"
	"latelantern/internal/core/fault"
	"latelantern/internal/door"
	"latelantern/internal/testdb"
	"latelantern/internal/testhouse"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func stands(s *testhouse.Stage, person, lecture uuid.UUID) door.At {
	s.T.Helper()
	at, err := s.Door.Stands(s.T.Context(), person, lecture)
	s.Must(err)
	return at
}

// TestWhoStandsHow at each doorway, by roster, rule and clock.
func TestWhoStandsHow(t *testing.T) {
	s := testhouse.New(t, true)
	want := func(person, lecture uuid.UUID, enter bool, why doorway.Reason) {
		t.Helper()
		if at := stands(s, person, lecture); at.Enter != enter || at.Reason != why || at.Code != "COU 1" {
			t.Errorf("%+v, want %v, %s", at, enter, why)
		}
	}
	want(s.Student, s.Lecture, true, doorway.AsEnrolled)
	want(s.Lecturer, s.Later, true, doorway.AsStaff)
	want(s.Coordinator, s.Later, true, doorway.AsStaff)
	want(s.Outsider, s.Lecture, false, doorway.NotEnrolled)
	want(s.Colleague, s.Lecture, false, doorway.NotEnrolled)
	want(s.Student, s.Later, false, doorway.NotYet)
	if at := stands(s, s.Student, s.Later); !at.Opens.Equal(testhouse.Now.AddDate(0, 0, 7).Add(-10 * time.Minute)) {
		t.Errorf("it opens at %v", at.Opens)
	}
	s.Do(`update lecture set doorway = 'closed' where id = $1`, s.Lecture)
	want(s.Student, s.Lecture, false, doorway.IsClosed)
	s.Do(`update lecture set doorway = 'walk_in', called_off_at = now() where id = $1`, s.Lecture)
	want(s.Student, s.Lecture, false, doorway.IsOff)
	// What is captured before its time is open.
	_, err := s.Capture.Begin(t.Context(), capture.Start{Lecture: s.Later, By: s.Lecturer, Source: capture.Desk})
	s.Must(err)
	want(s.Student, s.Later, true, doorway.AsEnrolled)
	if !stands(s, s.Student, s.Later).Running {
		t.Error("it does not say that it is captured")
	}
	s.Do(`delete from membership where person_id = $1`, s.Student)
	want(s.Student, s.Later, false, doorway.NotEnrolled)
	want(s.Second, s.Later, true, doorway.AsEnrolled)
	// While someone captures alone nobody comes in, until another captures with the class.
	s.Do(`update capture set alone = true`)
	want(s.Second, s.Later, false, doorway.IsClosed)
	want(s.Lecturer, s.Later, true, doorway.AsStaff)
	if stands(s, s.Second, s.Later).Running {
		t.Error("it tells that someone captures alone")
	}
	s.Do(`update capture set started_at = started_at - interval '1 day'`)
	_, err = s.Capture.Begin(t.Context(), capture.Start{Lecture: s.Later, By: s.Lecturer, Source: capture.Desk})
	s.Must(err)
	want(s.Second, s.Later, true, doorway.AsEnrolled)
	if _, err := s.Door.Stands(t.Context(), s.Student, uuid.New()); !errors.Is(err, door.ErrUnknown) {
		t.Errorf("no such lecture: %v", err)
	}
}

// TestAskingAtTheDoor: one asks, is let in, can be sent out, and asks again.
func TestAskingAtTheDoor(t *testing.T) {
	s := testhouse.New(t, true)
	if err := s.Door.Ask(t.Context(), s.Student, s.Lecture); !errors.Is(err, door.ErrNotAsked) {
		t.Errorf("where one walks in: %v", err)
	}
	s.Do(`update lecture set doorway = 'ask' where id = $1`, s.Lecture)
	if at := stands(s, s.Student, s.Lecture); at.Enter || at.Reason != doorway.MustAsk {
		t.Errorf("%+v", at)
	}
	err := s.Door.Answer(t.Context(), s.Lecture, s.Student, s.Lecturer, true, "")
	if !errors.Is(err, door.ErrNotAsked) {
		t.Errorf("let in without asking: %v", err)
	}
	s.Must(s.Door.Ask(t.Context(), s.Student, s.Lecture), s.Door.Ask(t.Context(), s.Second, s.Lecture))
	if err := s.Door.Ask(t.Context(), s.Student, s.Lecture); !errors.Is(err, door.ErrNotAsked) {
		t.Errorf("asked twice: %v", err)
	}
	list, err := s.Door.Asks(t.Context(), s.Lecture)
	s.Must(err)
	if len(list) != 2 || list[0].Name != "student" || list[0].LetIn {
		t.Errorf("%+v", list)
	}
	s.Must(s.Door.Answer(t.Context(), s.Lecture, s.Student, s.Lecturer, true, ""),
		s.Door.Answer(t.Context(), s.Lecture, s.Second, s.Lecturer, false, ""))
	if at := stands(s, s.Student, s.Lecture); !at.Enter || at.Reason != doorway.WasLetIn {
		t.Errorf("let in: %+v", at)
	}
	if at := stands(s, s.Second, s.Lecture); at.Enter || at.Reason != doorway.MustAsk {
		t.Errorf("not let in, one can ask again: %+v", at)
	}
	s.Must(s.Door.Answer(t.Context(), s.Lecture, s.Student, s.Lecturer, false, ""))
	if at := stands(s, s.Student, s.Lecture); at.Enter || at.Reason != doorway.WasSentOut {
		t.Errorf("sent out: %+v", at)
	}
	if err := s.Door.Ask(t.Context(), s.Student, s.Lecture); !errors.Is(err, door.ErrNotAsked) {
		t.Errorf("sent out, they ask again: %v", err)
	}
	// Whoever was sent out stays in the list, and out whatever the doorway; let in again they are in.
	if list, err := s.Door.Asks(t.Context(), s.Lecture); err != nil || len(list) != 1 || !list[0].SentOut {
		t.Errorf("%+v %v", list, err)
	}
	s.Do(`update lecture set doorway = 'walk_in' where id = $1`, s.Lecture)
	if at := stands(s, s.Student, s.Lecture); at.Enter {
		t.Errorf("sent out, they walk in: %+v", at)
	}
	s.Must(s.Door.Answer(t.Context(), s.Lecture, s.Student, s.Lecturer, true, ""))
	if at := stands(s, s.Student, s.Lecture); !at.Enter {
		t.Errorf("let in again: %+v", at)
	}
	// Whoever walked in and follows it can be sent out as well.
	s.Must(s.Presence.Played(t.Context(), s.Second, s.Lecture))
	if in, err := s.Door.Insiders(t.Context(), s.Lecture); err != nil || len(in) != 1 || in[0].PersonID != s.Second {
		t.Errorf("who is in: %+v %v", in, err)
	}
	s.Do(`delete from doorway_ask where person_id = $1`, s.Second)
	s.Must(s.Door.Answer(t.Context(), s.Lecture, s.Second, s.Lecturer, false, ""))
	if at := stands(s, s.Second, s.Lecture); at.Reason != doorway.WasSentOut {
		t.Errorf("who walked in is sent out: %+v", at)
	}
	if in, err := s.Door.Insiders(t.Context(), s.Lecture); err != nil || len(in) != 0 {
		t.Errorf("who is in after that: %+v %v", in, err)
	}
	if err := s.Door.Answer(t.Context(), s.Lecture, s.Third, s.Lecturer, false, ""); !errors.Is(err, door.ErrNotAsked) {
		t.Errorf("nobody is sent out who is not in: %v", err)
	}
}

// TestAllAreLetIn who wait, and nobody else.
func TestAllAreLetIn(t *testing.T) {
	s := testhouse.New(t, true)
	s.Do(`update lecture set doorway = 'ask' where id = $1`, s.Lecture)
	s.Must(s.Door.Ask(t.Context(), s.Student, s.Lecture), s.Door.Ask(t.Context(), s.Second, s.Lecture))
	if n, err := s.Door.Waiting(t.Context(), []uuid.UUID{s.Lecture}); err != nil || n[s.Lecture] != 2 {
		t.Errorf("%v wait, %v", n, err)
	}
	s.Must(s.Door.LetAllIn(t.Context(), s.Lecture, s.Lecturer))
	for _, p := range []uuid.UUID{s.Student, s.Second} {
		if at := stands(s, p, s.Lecture); at.Reason != doorway.WasLetIn {
			t.Errorf("%+v", at)
		}
	}
	if at := stands(s, s.Third, s.Lecture); at.Reason != doorway.MustAsk {
		t.Errorf("who did not ask: %+v", at)
	}
	if n, err := s.Door.Waiting(t.Context(), []uuid.UUID{s.Lecture}); err != nil || len(n) != 0 {
		t.Errorf("%v wait still, %v", n, err)
	}
}

// TestAGuestComesToOneLecture, as long as the link holds.
func TestAGuestComesToOneLecture(t *testing.T) {
	s := testhouse.New(t, true)
	ends := testhouse.Now.Add(2 * time.Hour)
	g, err := s.Door.Invite(t.Context(), s.Lecture, s.Lecturer,
		door.GuestForm{Name: " Ebba  Rowe", Role: doorway.Listener, EndsAt: ends})
	s.Must(err)
	key, ours := strings.CutPrefix(g.Link, "https://lectures.college.example/guest/")
	if !ours || g.Name != "Ebba Rowe" {
		t.Fatalf("%+v", g)
	}
	who, lecture, err := s.Door.Welcome(t.Context(), key)
	s.Must(err)
	if lecture != s.Lecture {
		t.Error("the link leads to another lecture")
	}
	if at := stands(s, who, s.Lecture); !at.Enter || at.Reason != doorway.AsGuest {
		t.Errorf("%+v", at)
	}
	if at := stands(s, who, s.Later); at.Enter || at.Reason != doorway.NotEnrolled {
		t.Errorf("at another lecture: %+v", at)
	}
	s.Do(`update lecture set doorway = 'closed' where id = $1`, s.Lecture)
	if at := stands(s, who, s.Lecture); at.Enter {
		t.Errorf("a listener at a closed door: %+v", at)
	}
	s.Do(`update guest set role = 'speaker'`)
	if at := stands(s, who, s.Lecture); !at.Enter {
		t.Errorf("a speaker at a closed door: %+v", at)
	}
	s.Must(s.Door.TakeBack(t.Context(), s.Lecture, g.ID, false))
	if at := stands(s, who, s.Lecture); at.Enter {
		t.Errorf("after the link was taken back: %+v", at)
	}
	if _, _, err := s.Door.Welcome(t.Context(), key); !errors.Is(err, door.ErrUnknown) {
		t.Errorf("a link that was taken back: %v", err)
	}
	if list, err := s.Door.Guests(t.Context(), s.Lecture); err != nil || len(list) != 0 {
		t.Errorf("%+v %v", list, err)
	}
	s.Must(s.Door.TakeBack(t.Context(), s.Lecture, g.ID, true))
	if of, err := s.Door.Holds(t.Context(), who); err != nil || of != s.Lecture {
		t.Errorf("given again: %v %v", of, err)
	}
	s.Do(`update guest set ends_at = $1`, testhouse.Now)
	if _, err := s.Door.Holds(t.Context(), who); !errors.Is(err, door.ErrUnknown) {
		t.Errorf("after its end: %v", err)
	}
	if list, err := s.Door.Guests(t.Context(), s.Lecture); err != nil || len(list) != 1 || !list[0].Expired ||
		list[0].Link != g.Link {
		t.Errorf("%+v %v", list, err)
	}
	for _, wrong := range []string{"", "AAAA", key[:len(key)-1] + "x", key + "A"} {
		if wrong == key {
			continue
		}
		if _, _, err := s.Door.Welcome(t.Context(), wrong); !errors.Is(err, door.ErrUnknown) {
			t.Errorf("%q: %v", wrong, err)
		}
	}
	if err := s.Door.TakeBack(t.Context(), s.Later, g.ID, false); !errors.Is(err, door.ErrUnknown) {
		t.Errorf("taken back through another lecture: %v", err)
	}
}

func TestGuestsNeedNamePartAndEnd(t *testing.T) {
	s := testhouse.New(t, true)
	good := door.GuestForm{Name: "Ebba", Role: doorway.Speaker, EndsAt: testhouse.Now.Add(time.Hour)}
	for want, change := range map[string]func(*door.GuestForm){
		"name":    func(g *door.GuestForm) { g.Name = "  " },
		"role":    func(g *door.GuestForm) { g.Role = "owner" },
		"ends_at": func(g *door.GuestForm) { g.EndsAt = testhouse.Now },
	} {
		form := good
		change(&form)
		_, err := s.Door.Invite(t.Context(), s.Lecture, s.Lecturer, form)
		var f fault.Faults
		if !errors.As(err, &f) || f[0].Field != want {
			t.Errorf("want a fault at %s: %v", want, err)
		}
	}
	good.EndsAt = testhouse.Now.AddDate(2, 0, 0)
	if _, err := s.Door.Invite(t.Context(), s.Lecture, s.Lecturer, good); err == nil {
		t.Error("a link for two years is made")
	}
}
