package toall_test

import (
	"context"
	"errors"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/capture"
	"latelantern/internal/core/fault"
	core "latelantern/internal/core/toall"
	"latelantern/internal/door"
	"latelantern/internal/platform/clock"
	"latelantern/internal/testdb"
	"latelantern/internal/testhouse"
	"latelantern/internal/toall"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// hall is a lecture in which questions are put to all.
type hall struct {
	*testhouse.Stage
	q *toall.Service
}

func newHall(t *testing.T) *hall {
	t.Helper()
	s := testhouse.New(t, true)
	q := *s.ToAll
	h := &hall{s, &q}
	h.at(0)
	return h
}

// at moves the clock of the hall.
func (h *hall) at(d time.Duration) { h.q.Clock = clock.Standing(testhouse.Now.Add(d)) }

func ebb() core.Question {
	return core.Question{Kind: core.One, Text: "When is ebb?", Choices: []string{"at six", "at noon"}, Right: []int{1}}
}

// asks puts a question to all, for so long.
func (h *hall) asks(q core.Question, long time.Duration) uuid.UUID {
	h.T.Helper()
	id := uuid.Must(uuid.NewV7())
	h.Must(h.q.Ask(context.Background(), toall.Asking{ID: id, Lecture: h.Lecture, By: h.Lecturer,
		Question: q, For: long}))
	return id
}

func (h *hall) answers(asked, who uuid.UUID, choice int, more ...func(*toall.Giving)) error {
	x := toall.Giving{Lecture: h.Lecture, Asked: asked, Person: who, Answer: core.Answer{Choices: []int{choice}}}
	for _, m := range more {
		m(&x)
	}
	return h.q.Answer(context.Background(), x)
}

func (h *hall) in() []toall.Asked {
	h.T.Helper()
	all, err := h.q.In(context.Background(), h.Lecture, toall.Reader{Teaches: true})
	h.Must(err)
	return all
}

func later(x *toall.Giving) { x.Later = true }

func ago(d time.Duration) func(*toall.Giving) { return func(x *toall.Giving) { x.Ago = d } }

// refused checks which error something has.
func (h *hall) refused(what string, err, want error) {
	h.T.Helper()
	if !errors.Is(err, want) {
		h.T.Errorf("%s: %v, want %v", what, err, want)
	}
}

func TestAQuestionIsAskedOnce(t *testing.T) {
	h := newHall(t)
	ctx := t.Context()
	x := toall.Asking{ID: uuid.Must(uuid.NewV7()), Lecture: h.Lecture, By: h.Lecturer, Question: ebb(),
		For: time.Minute}
	for range 3 {
		h.Must(h.q.Ask(ctx, x))
	}
	all := h.in()
	if len(all) != 1 || all[0].By != "lecturer" || all[0].Question.Text != "When is ebb?" || !all[0].Timed ||
		!all[0].Closes.Equal(testhouse.Now.Add(time.Minute)) || all[0].At != nil {
		t.Errorf("%+v", all)
	}
	other := x
	other.Lecture = h.Later
	h.refused("the id of another lecture", h.q.Ask(ctx, other), toall.ErrTaken)
	other = x
	other.Question.Text = "When is flood?"
	h.refused("something else by the same id", h.q.Ask(ctx, other), toall.ErrTaken)
	for name, change := range map[string]func(*toall.Asking){
		"without a text":        func(x *toall.Asking) { x.Question.Text = "" },
		"for a second":          func(x *toall.Asking) { x.For = time.Second },
		"for longer than hours": func(x *toall.Asking) { x.For = 2 * time.Hour },
	} {
		bad := x
		bad.ID = uuid.Must(uuid.NewV7())
		change(&bad)
		if err := h.q.Ask(ctx, bad); len(fault.All(err)) != 1 {
			t.Errorf("%s: %v", name, err)
		}
	}
	if len(h.in()) != 1 {
		t.Error("what cannot be asked was asked")
	}
}

// TestOneIsOpenAtATime: the next closes the one before, as does one that is opened again; of many at once one is open.
func TestOneIsOpenAtATime(t *testing.T) {
	h := newHall(t)
	ctx := t.Context()
	first := h.asks(ebb(), time.Minute)
	h.at(10 * time.Second)
	h.asks(core.Question{Kind: core.Words, Text: "Why?"}, 0)
	h.refused("an answer to the one before", h.answers(first, h.Student, 1), toall.ErrClosed)
	h.at(20 * time.Second)
	h.Must(h.q.Change(ctx, h.Lecture, first, toall.Change{More: time.Minute}), h.answers(first, h.Student, 1))
	if all := h.in(); all[1].Open().Goes(testhouse.Now.Add(20*time.Second)) || all[1].Timed {
		t.Errorf("both are open: %+v", all)
	}
	var all sync.WaitGroup
	for range 12 {
		all.Go(func() { h.asks(ebb(), time.Minute) })
	}
	all.Wait()
	open := 0
	for _, a := range h.in() {
		if a.Open().Goes(testhouse.Now.Add(20 * time.Second)) {
			open++
		}
	}
	if open != 1 {
		t.Errorf("%d of %d are open", open, len(h.in()))
	}
}

// TestUntilWhenItIsOpen: for its time; without one until it is closed, at the latest with the lecture as planned; and
// the end of the class ends it.
func TestUntilWhenItIsOpen(t *testing.T) {
	h := newHall(t)
	ctx := t.Context()
	id := h.asks(ebb(), time.Minute)
	h.at(59 * time.Second)
	h.Must(h.answers(id, h.Student, 0), h.answers(id, h.Student, 1))
	h.at(time.Minute)
	h.refused("at its end", h.answers(id, h.Second, 1), toall.ErrClosed)
	h.Must(h.answers(id, h.Second, 1, ago(5*time.Second)))
	h.Must(h.q.Change(ctx, h.Lecture, id, toall.Change{Shown: new(true)}))
	h.refused("written before, with the results seen", h.answers(id, h.Third, 1, ago(5*time.Second)), toall.ErrClosed)
	a := h.in()[0]
	if got := a.GivenBy(h.Student); got == nil || !slices.Equal(got.Answer.Choices, []int{1}) || len(a.Given) != 2 {
		t.Errorf("%+v", a.Given)
	}
	if r := a.Result; r.Answers != 2 || r.Bars[0].N != 0 || r.Bars[1].N != 2 {
		t.Errorf("%+v", r)
	}

	id = h.asks(ebb(), 0)
	ends := h.in()[1].Closes
	if h.Count(`select count(*) from lecture where id = $1 and ends_at = $2`, h.Lecture, ends) != 1 {
		t.Errorf("open until %v", ends)
	}
	h.Must(h.q.Change(ctx, h.Lecture, id, toall.Change{Close: true}))
	h.refused("closed by hand", h.answers(id, h.Third, 1), toall.ErrClosed)

	id = h.asks(ebb(), time.Hour)
	d := *h.Door
	d.Clock = h.q.Clock
	h.Must(d.End(ctx, h.Lecture, h.Lecturer))
	h.at(time.Minute + door.Grace)
	h.refused("after the end of the class", h.answers(id, h.Third, 1), toall.ErrClosed)
	h.Must(d.TakeBackEnd(ctx, h.Lecture))
	h.Must(h.answers(id, h.Third, 1))
}

func TestWhatCannotBeAnswered(t *testing.T) {
	h := newHall(t)
	ctx := t.Context()
	id := h.asks(ebb(), time.Minute)
	if err := h.answers(id, h.Student, 7); len(fault.All(err)) != 1 {
		t.Errorf("a choice that is not there: %v", err)
	}
	h.refused("another lecture", h.answers(id, h.Student, 1, func(x *toall.Giving) { x.Lecture = h.Later }),
		toall.ErrUnknown)
	h.refused("none", h.answers(uuid.Must(uuid.NewV7()), h.Student, 1), toall.ErrUnknown)
	h.refused("later, while it is open", h.answers(id, h.Student, 1, later), toall.ErrClosed)
	h.Must(h.q.Change(ctx, h.Lecture, id, toall.Change{Withdrawn: new(true)}))
	h.refused("withdrawn", h.answers(id, h.Student, 1), toall.ErrUnknown)
	h.Must(h.q.Change(ctx, h.Lecture, id, toall.Change{Withdrawn: new(false)}))
	h.refused("withdrawn and put back, which it is closed", h.answers(id, h.Student, 1), toall.ErrClosed)
	h.Must(h.answers(id, h.Student, 1, later), h.answers(id, h.Student, 0, later))
	a := h.in()[0]
	if a.Result.Answers != 0 || len(a.Given) != 1 || !a.Given[0].Later {
		t.Errorf("what was answered later counts: %+v", a)
	}
	h.refused("a change of what is not there", h.q.Change(ctx, h.Later, id, toall.Change{Close: true}),
		toall.ErrUnknown)
	if err := h.q.Change(ctx, h.Lecture, id, toall.Change{More: time.Second}); len(fault.All(err)) != 1 {
		t.Errorf("a second more: %v", err)
	}
	// What was answered in the lecture stands.
	id = h.asks(ebb(), time.Minute)
	h.Must(h.answers(id, h.Student, 0))
	h.at(time.Hour)
	h.refused("changed later", h.answers(id, h.Student, 1, later), toall.ErrGiven)
}

// TestHiddenWordsDoNotCount, and other words in their place do again.
func TestHiddenWordsDoNotCount(t *testing.T) {
	h := newHall(t)
	ctx := t.Context()
	id := h.asks(core.Question{Kind: core.Words, Text: "One word?"}, time.Minute)
	say := func(who uuid.UUID, words string) {
		h.Must(h.q.Answer(ctx, toall.Giving{Lecture: h.Lecture, Asked: id, Person: who,
			Answer: core.Answer{Words: words}}))
	}
	say(h.Student, "rude")
	say(h.Second, "ebb")
	h.Must(h.q.Hide(ctx, h.Lecture, id, h.Student, true))
	if r := h.in()[0].Result; r.Answers != 1 || r.Bars[0].Label != "ebb" {
		t.Errorf("%+v", r)
	}
	say(h.Student, "rude")
	if r := h.in()[0].Result; r.Answers != 1 {
		t.Errorf("said again they are seen: %+v", r)
	}
	say(h.Student, "flood")
	if r := h.in()[0].Result; r.Answers != 2 {
		t.Errorf("other words are hidden too: %+v", r)
	}
	h.refused("the answer of nobody", h.q.Hide(ctx, h.Lecture, id, h.Third, true), toall.ErrUnknown)
	h.refused("in another lecture", h.q.Hide(ctx, h.Later, id, h.Second, true), toall.ErrUnknown)
}

// TestWhoReadsWhatWasAnswered: those who teach all of it, others what they answered, and what it comes to once that is
// shown, as it is at that moment.
func TestWhoReadsWhatWasAnswered(t *testing.T) {
	h := newHall(t)
	ctx := t.Context()
	id := h.asks(ebb(), time.Minute)
	h.Must(h.answers(id, h.Student, 0), h.answers(id, h.Second, 1))
	read := func(who uuid.UUID) toall.Asked {
		all, err := h.q.In(ctx, h.Lecture, toall.Reader{Person: who, Teaches: who == h.Lecturer})
		if h.Must(err); len(all) != 1 {
			t.Fatalf("%d questions are read", len(all))
		}
		return all[0]
	}
	for _, shown := range []bool{false, true} {
		h.Must(h.q.Change(ctx, h.Lecture, id, toall.Change{Shown: &shown}))
		for who, given := range map[uuid.UUID]int{h.Lecturer: 2, h.Student: 1, h.Third: 0} {
			x := read(who)
			if sees := shown || who == h.Lecturer; len(x.Given) != given || (x.Result != nil) != sees ||
				sees && x.Result.Answers != 2 {
				t.Errorf("shown %v: %d answers are read, want %d, and come to %+v", shown, len(x.Given), given,
					x.Result)
			}
		}
	}
	h.Must(h.answers(id, h.Third, 1))
	if r := read(h.Student).Result; r.Answers != 3 || r.Bars[1].N != 2 {
		t.Errorf("after one more they come to %+v", r)
	}
}

// TestWhoHasNotAnswered are those who were there while it was open; who answers counts as present.
func TestWhoHasNotAnswered(t *testing.T) {
	h := newHall(t)
	ctx := t.Context()
	there := func(who uuid.UUID, from, until time.Duration) {
		h.Do(`insert into presence (lecture_id, person_id, from_at, until_at) values ($1, $2, $3, $4)`, h.Lecture, who,
			testhouse.Now.Add(from), testhouse.Now.Add(until))
	}
	gone := h.Person("gone", h.Course, "student", "A")
	there(h.Student, -time.Minute, time.Minute)
	there(h.Second, -time.Minute, -10*time.Second) // heard of until just before
	there(gone, -5*time.Minute, -2*time.Minute)
	there(h.Lecturer, -time.Minute, time.Minute)
	id := h.asks(ebb(), time.Minute)
	missing := func() []string {
		names, err := h.q.Missing(ctx, h.in()[0])
		h.Must(err)
		return names
	}
	if got := missing(); !slices.Equal(got, []string{"second", "student"}) {
		t.Errorf("%q", got)
	}
	h.at(30 * time.Second)
	h.Must(h.answers(id, h.Student, 1), h.answers(id, h.Third, 1))
	if got := missing(); !slices.Equal(got, []string{"second"}) {
		t.Errorf("%q", got)
	}
	h.at(10 * time.Minute)
	there(gone, 9*time.Minute, 10*time.Minute) // came back when it was closed
	if got := missing(); !slices.Equal(got, []string{"second"}) {
		t.Errorf("%q", got)
	}
	if n := h.Count(`select count(*) from attendance where lecture_id = $1 and person_id = $2 and by = 'answered'`,
		h.Lecture, h.Third); n != 1 {
		t.Errorf("who answered was there %d times", n)
	}
	h.at(time.Hour)
	h.Must(h.answers(id, h.Second, 1, later))
	if n := h.Count(`select count(*) from attendance where person_id = $1 and by = 'answered'`, h.Second); n != 0 {
		t.Error("who answers later was there")
	}
}

// TestItsMomentInTheRecording is on the clock of the capture that ran, carried to the recording in which it lies.
func TestItsMomentInTheRecording(t *testing.T) {
	h := newHall(t)
	ctx := t.Context()
	before := h.asks(ebb(), time.Minute)
	begun, err := h.Capture.Begin(ctx, capture.Start{Lecture: h.Lecture, By: h.Lecturer, Source: capture.Desk})
	h.Must(err)
	h.Do(`update capture set started_at = $1`, testhouse.Now)
	h.Do(`update track set packed_ms = 600000`)
	h.at(100 * time.Second)
	id := h.asks(ebb(), time.Minute)
	h.at(200 * time.Second)
	withdrawn := h.asks(ebb(), time.Minute)
	h.Must(h.q.Change(ctx, h.Lecture, withdrawn, toall.Change{Withdrawn: new(true)}))
	h.Do(`update recording_capture set start_ms = 7000, from_ms = 50000`)
	of, err := h.q.Of(ctx, begun.Recording, toall.Reader{})
	h.Must(err)
	if len(of) != 1 || of[0].ID != id || *of[0].At != 107*time.Second {
		t.Errorf("%+v", of)
	}
	if all := h.in(); len(all) != 3 || all[0].ID != before || all[0].At != nil || !all[2].Withdrawn {
		t.Errorf("%+v", all)
	}
}

func TestWhatACourseKeeps(t *testing.T) {
	h := newHall(t)
	ctx := t.Context()
	texts := func(course uuid.UUID) (out []string) {
		list, err := h.q.Prepared(ctx, course)
		h.Must(err)
		for _, p := range list {
			out = append(out, p.Question.Text)
		}
		return out
	}
	first, second := uuid.Must(uuid.NewV7()), uuid.Must(uuid.NewV7())
	why := core.Question{Kind: core.Words, Text: "Why?"}
	h.Must(h.q.Prepare(ctx, h.Course, h.Lecturer, toall.Prepared{ID: first, Question: ebb()}),
		h.q.Prepare(ctx, h.Course, h.Lecturer, toall.Prepared{ID: second, Question: why}),
		h.q.Drop(ctx, h.Course, first, false), h.q.Drop(ctx, h.Course, first, false))
	if got := texts(h.Course); !slices.Equal(got, []string{"Why?"}) {
		t.Errorf("%q", got)
	}
	changed := ebb()
	changed.Text = "When is flood?"
	h.Must(h.q.Drop(ctx, h.Course, first, true),
		h.q.Prepare(ctx, h.Course, h.Lecturer, toall.Prepared{ID: first, Question: changed}))
	if got := texts(h.Course); !slices.Equal(got, []string{"When is flood?", "Why?"}) {
		t.Errorf("%q", got)
	}
	h.refused("the id of another course",
		h.q.Prepare(ctx, h.Other, h.Colleague, toall.Prepared{ID: first, Question: why}), toall.ErrTaken)
	h.refused("what is not there", h.q.Drop(ctx, h.Other, first, false), toall.ErrUnknown)
	// All of a file or nothing.
	err := h.q.Bring(ctx, h.Course, h.Lecturer, []core.Question{why, {Kind: core.One, Text: "Which?"}})
	if len(fault.All(err)) != 1 || len(texts(h.Course)) != 2 {
		t.Errorf("%v; %q", err, texts(h.Course))
	}
	h.refused("more than it can keep",
		h.q.Bring(ctx, h.Course, h.Lecturer, slices.Repeat([]core.Question{why}, toall.MostPrepared-1)), toall.ErrMany)
	tx, err := h.DB.Begin(ctx)
	h.Must(err)
	for range 2 { // what a course keeps already it keeps as it is
		h.Must(h.q.CarryCourse(ctx, tx, h.Course, h.Other))
	}
	h.Must(tx.Commit(ctx))
	if got := texts(h.Other); !slices.Equal(got, []string{"When is flood?", "Why?"}) {
		t.Errorf("carried: %q", got)
	}
}
