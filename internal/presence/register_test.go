package presence_test

import (
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/capture"
	"latelantern/internal/chat"
	"latelantern/internal/core/fault"
	core "latelantern/internal/core/presence"
	"latelantern/internal/platform/clock"
	"latelantern/internal/presence"
	"latelantern/internal/testhouse"
)

// held has the lecture be captured from its beginning for an hour, and gives the service an hour and a half later.
func held(s *testhouse.Stage) (d presence.Service, at func(min float64) time.Time) {
	s.T.Helper()
	_, err := s.Capture.Begin(s.T.Context(), capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.Desk})
	begin := testhouse.Now
	at = func(min float64) time.Time { return begin.Add(time.Duration(min * float64(time.Minute))) }
	s.Must(err)
	s.Do(`update lecture set starts_at = $2, ends_at = $3 where id = $1`, s.Lecture, at(0), at(90))
	s.Do(`update capture set started_at = $1, stopped_at = $2`, at(2), at(60))
	d = *s.Presence
	d.Clock = clock.Standing(at(100))
	return d, at
}

// stays has somebody have been there.
func stays(s *testhouse.Stage, who uuid.UUID, from, until time.Time) {
	s.T.Helper()
	s.Do(`insert into presence (lecture_id, person_id, from_at, until_at) values ($1, $2, $3, $4)`,
		s.Lecture, who, from, until)
}

// entry is the line of somebody in the register of the lecture.
func entry(s *testhouse.Stage, d presence.Service, who uuid.UUID) presence.Entry {
	s.T.Helper()
	roll, err := d.Roll(s.T.Context(), s.Course, s.Lecture)
	s.Must(err)
	i := slices.IndexFunc(roll.Entries, func(e presence.Entry) bool { return e.Person == who })
	if i < 0 {
		s.T.Fatalf("%v is not in the register", who)
	}
	return roll.Entries[i]
}

// TestTheRegister is made of what is known of each: of the capture's hours, who followed, who said something, who was
// in the hall.
func TestTheRegister(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	d, at := held(s)
	hall, said, none := s.Person("hall", s.Course, "student", ""), s.Person("said", s.Course, "student", ""),
		s.Person("none", s.Course, "student", "")
	stays(s, s.Student, at(1), at(60))
	stays(s, s.Second, at(20), at(40))
	stays(s, s.Lecturer, at(0), at(60))
	c := *s.Chat
	c.Clock = clock.Standing(at(30))
	s.Must(c.Say(ctx, chat.Saying{ID: uuid.New(), Lecture: s.Lecture, Person: said, Text: "here"}))
	d.Clock = clock.Standing(at(3))
	code, _ := d.Code(s.Lecture)
	s.Must(d.SignIn(ctx, s.Lecture, hall, code))
	d.Clock = clock.Standing(at(100))
	for who, want := range map[uuid.UUID]core.Line{
		s.Student: {State: core.Present, There: 58 * time.Minute},
		s.Second:  {State: core.Both, Late: 18 * time.Minute, Early: 20 * time.Minute, There: 20 * time.Minute},
		hall:      {State: core.Present, There: 57 * time.Minute},
		said:      {State: core.Both, Late: 28 * time.Minute, Early: 30 * time.Minute},
		none:      {State: core.Absent},
	} {
		if got := entry(s, d, who); got.Reckoned != want || got.Stands() != want {
			t.Errorf("%s: %+v, want %+v", got.Name, got.Reckoned, want)
		}
	}
	roll, err := d.Roll(ctx, s.Course, s.Lecture)
	s.Must(err)
	if !slices.IsSortedFunc(roll.Entries, func(a, b presence.Entry) int { return strings.Compare(a.Name, b.Name) }) ||
		slices.ContainsFunc(roll.Entries, func(e presence.Entry) bool { return e.Person == s.Lecturer }) {
		t.Errorf("%+v", roll.Entries)
	}
	missing := roll.Missing()
	for _, e := range roll.Entries {
		if want := len(e.Stays) == 0; slices.Contains(missing, e.Person) != want {
			t.Errorf("%s is missing: %v", e.Name, !want)
		}
	}
	if !slices.Contains(missing, none) || slices.Contains(missing, said) {
		t.Errorf("missing: %v", missing)
	}
	// Of a lecture of which nothing is known nobody is absent.
	s.Do(`update lecture set starts_at = $2, ends_at = $3 where id = $1`, s.Later, at(0), at(90))
	if x, err := d.Roll(ctx, s.Course, s.Later); err != nil || x.Known || x.Entries[0].Reckoned.State != core.Unknown {
		t.Errorf("nothing is known: %+v %v", x, err)
	}
	s.Must(d.SetMark(ctx, s.Later, s.Second, s.Lecturer, &presence.MarkForm{State: core.Excused}))
	if x, err := d.Roll(ctx, s.Course, s.Later); err != nil || !x.Known || x.Entries[0].Reckoned.State != core.Absent {
		t.Errorf("somebody was excused: %+v %v", x, err)
	}
	s.Do(`update lecture set starts_at = $2, ends_at = $3 where id = $1`, s.Later, at(2000), at(2090))
	// The lecture to come has no register in the term.
	if all, err := d.Rolls(ctx, s.Course); err != nil || len(all) != 1 || all[0].Lecture != s.Lecture {
		t.Errorf("%d registers: %v", len(all), err)
	}
	if own, err := d.RollsOf(ctx, s.Course, s.Second); err != nil || len(own) != 1 || len(own[0].Entries) != 1 ||
		own[0].Entries[0].Person != s.Second {
		t.Errorf("their own: %+v %v", own, err)
	}
}

// TestWhatIsSaidByHand stands whatever was reckoned, settles what a student says, and can be taken back.
func TestWhatIsSaidByHand(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	d, at := held(s)
	stays(s, s.Second, at(0), at(60))
	s.Must(d.Object(ctx, s.Lecture, s.Student, "  I was  there. "))
	if e := entry(s, d, s.Student); e.Word == nil || e.Word.Text != "I was there." || e.Word.Settled {
		t.Fatalf("%+v", e.Word)
	}
	s.Must(d.SetMark(ctx, s.Lecture, s.Student, s.Lecturer, &presence.MarkForm{State: core.Late, Late: 7 * time.Minute,
		Early: 9 * time.Minute, Reason: "saw her"}))
	e := entry(s, d, s.Student)
	if e.Stands() != (core.Line{State: core.Late, Late: 7 * time.Minute}) || e.Reckoned.State != core.Absent ||
		e.Mark.By != "lecturer" || e.Mark.Reason != "saw her" || !e.Word.Settled {
		t.Errorf("%+v %+v %+v", e, e.Mark, e.Word)
	}
	s.Must(d.SetMark(ctx, s.Lecture, s.Student, s.Lecturer, &presence.MarkForm{State: core.Excused}))
	if e := entry(s, d, s.Student); e.Stands().State != core.Excused {
		t.Errorf("said anew: %+v", e.Mark)
	}
	s.Must(d.SetMark(ctx, s.Lecture, s.Student, s.Lecturer, nil), d.Settle(ctx, s.Lecture, s.Student, false))
	if e := entry(s, d, s.Student); e.Mark != nil || e.Stands().State != core.Absent || e.Word.Settled {
		t.Errorf("taken back: %+v %+v", e.Mark, e.Word)
	}
	if n := s.Count(`select count(*) from register_mark`); n != 2 {
		t.Errorf("of what was said %d are kept", n)
	}
	s.Must(d.Object(ctx, s.Lecture, s.Student, ""))
	if e := entry(s, d, s.Student); e.Word != nil {
		t.Errorf("what the student took back: %+v", e.Word)
	}
	for what, err := range map[string]error{
		"who is no student":    d.SetMark(ctx, s.Lecture, s.Lecturer, s.Lecturer, &presence.MarkForm{State: core.Late}),
		"an outsider":          d.Object(ctx, s.Lecture, s.Outsider, "I was there."),
		"what was never said":  d.Settle(ctx, s.Lecture, s.Second, true),
		"a lecture of another": d.Object(ctx, uuid.New(), s.Student, "I was there."),
	} {
		if !errors.Is(err, presence.ErrUnknown) {
			t.Errorf("%s: %v", what, err)
		}
	}
	err := d.SetMark(ctx, s.Lecture, s.Student, s.Lecturer, &presence.MarkForm{State: "ill", Late: -time.Minute,
		Reason: strings.Repeat("x", 500)})
	if all := fault.All(err); len(all) != 3 {
		t.Errorf("%v", err)
	}
}

func TestWhatACourseCallsLate(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	d, at := held(s)
	stays(s, s.Student, at(10), at(60))
	if r, err := d.Rules(ctx, s.Course); err != nil || r != core.Usual {
		t.Errorf("%+v %v", r, err)
	}
	if e := entry(s, d, s.Student); e.Reckoned.State != core.Late {
		t.Errorf("%+v", e.Reckoned)
	}
	want := core.Rules{Late: 15 * time.Minute, Early: 10 * time.Minute, Least: 80}
	s.Must(d.SetRules(ctx, s.Course, core.Rules{Late: time.Minute}), d.SetRules(ctx, s.Course, want))
	if r, err := d.Rules(ctx, s.Course); err != nil || r != want {
		t.Errorf("%+v %v", r, err)
	}
	if e := entry(s, d, s.Student); e.Reckoned.State != core.Present {
		t.Errorf("%+v", e.Reckoned)
	}
	s.Do(`update course_register set least = 90`)
	if e := entry(s, d, s.Student); e.Reckoned.State != core.Absent {
		t.Errorf("%+v", e.Reckoned)
	}
	if all := fault.All(d.SetRules(ctx, s.Course, core.Rules{Late: 3 * time.Hour, Early: -1e10 * 60, Least: 101})); len(
		all) != 3 {
		t.Errorf("%v", all)
	}
}

// TestTheCodeOfAHall holds while it is shown and a moment longer, in that lecture; who guesses is slowed.
func TestTheCodeOfAHall(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	d := *s.Presence
	begin := testhouse.Now.Truncate(20 * time.Second)
	at := func(sec int) { d.Clock = clock.Standing(begin.Add(time.Duration(sec) * time.Second)) }
	at(0)
	code, until := d.Code(s.Lecture)
	if len(code) != 4 || until.Sub(begin) != 20*time.Second {
		t.Fatalf("%q until %v", code, until)
	}
	at(19)
	if same, _ := d.Code(s.Lecture); same != code {
		t.Errorf("it changed early: %q", same)
	}
	at(20)
	if next, _ := d.Code(s.Lecture); next == code {
		t.Error("it does not change")
	}
	if other, _ := d.Code(s.Later); other == code {
		t.Error("another lecture has the same")
	}
	at(39)
	s.Must(d.SignIn(ctx, s.Lecture, s.Student, " "+strings.ToLower(code[:2])+" "+code[2:]))
	if in, err := d.InHall(ctx, s.Lecture, s.Student); err != nil || !in {
		t.Errorf("%v %v", in, err)
	}
	at(40)
	for range 5 {
		if err := d.SignIn(ctx, s.Lecture, s.Second, code); !errors.Is(err, presence.ErrCode) {
			t.Fatalf("a code of 40 s ago: %v", err)
		}
	}
	right, _ := d.Code(s.Lecture)
	if err := d.SignIn(ctx, s.Lecture, s.Second, right); !errors.Is(err, presence.ErrTries) {
		t.Errorf("after five that were none: %v", err)
	}
	at(101)
	right, _ = d.Code(s.Lecture)
	s.Must(d.SignIn(ctx, s.Lecture, s.Second, right))
}

// TestAClassThatEndsEarly is over for its register too, when nothing was captured that would tell.
func TestAClassThatEndsEarly(t *testing.T) {
	s := testhouse.New(t, true)
	at := func(min float64) time.Time { return testhouse.Now.Add(time.Duration(min * float64(time.Minute))) }
	s.Do(`update lecture set starts_at = $2, ends_at = $3 where id = $1`, s.Lecture, at(0), at(90))
	d := *s.Presence
	d.Clock = clock.Standing(at(100))
	stays(s, s.Student, at(0), at(45))
	if got := entry(s, d, s.Student).Reckoned; got.State != core.Early || got.Early != 45*time.Minute {
		t.Errorf("by the plan: %+v", got)
	}
	s.Do(`insert into class_end (lecture_id, made_at, due_at) values ($1, $2, $2)`, s.Lecture, at(45))
	if got := entry(s, d, s.Student).Reckoned; got.State != core.Present || got.There != 45*time.Minute {
		t.Errorf("ended after 45 minutes: %+v", got)
	}
	s.Do(`update class_end set due_at = $1`, at(200))
	if got := entry(s, d, s.Student).Reckoned; got.State != core.Early {
		t.Errorf("when its end is still to come: %+v", got)
	}
	s.Do(`update class_end set due_at = $1`, at(-20))
	if got := entry(s, d, s.Student).Reckoned; got.There < 0 || got.Early < 0 {
		t.Errorf("ended before it began: %+v", got)
	}
}
