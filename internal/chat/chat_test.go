package chat_test

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/capture"
	"latelantern/internal/chat"
	core "latelantern/internal/core/chat"
	"latelantern/internal/core/fault"
	"latelantern/internal/platform/clock"
	"latelantern/internal/testdb"
	"latelantern/internal/testhouse"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// room is a lecture in which people say things.
type room struct {
	*testhouse.Stage
	c *chat.Service
}

func newRoom(t *testing.T) *room {
	t.Helper()
	s := testhouse.New(t, true)
	c := *s.Chat
	return &room{s, &c}
}

// at moves the clock of the room.
func (r *room) at(d time.Duration) { r.c.Clock = clock.Standing(testhouse.Now.Add(d)) }

// says has somebody say something, and gives its id.
func (r *room) says(who uuid.UUID, text string, more ...func(*chat.Saying)) uuid.UUID {
	r.T.Helper()
	x := chat.Saying{ID: uuid.Must(uuid.NewV7()), Lecture: r.Lecture, Person: who, Text: text,
		Teaches: who == r.Lecturer}
	for _, m := range more {
		m(&x)
	}
	r.Must(r.c.Say(context.Background(), x))
	return x.ID
}

// reads is what somebody reads of the chat, a text each; of what is gone its state.
func (r *room) reads(who uuid.UUID) []string {
	r.T.Helper()
	x, err := r.c.Since(context.Background(), r.Lecture, r.as(who), 0)
	r.Must(err)
	out := []string{}
	for _, l := range x.Lines {
		switch {
		case l.Gone() && l.Text == "":
			out = append(out, "(gone)")
		default:
			out = append(out, l.Text)
		}
	}
	return out
}

func (r *room) as(who uuid.UUID) chat.Reader {
	return chat.Reader{Person: who, Teaches: who == r.Lecturer, Of: true}
}

func question(x *chat.Saying) { x.Question = true }

func TestWhatIsSaidIsKeptOnce(t *testing.T) {
	r := newRoom(t)
	ctx := t.Context()
	x := chat.Saying{ID: uuid.Must(uuid.NewV7()), Lecture: r.Lecture, Person: r.Student, Text: " When is ebb?\u202e "}
	for range 3 {
		r.Must(r.c.Say(ctx, x))
	}
	if got := r.reads(r.Second); !slices.Equal(got, []string{"When is ebb?"}) {
		t.Errorf("%q", got)
	}
	x.Person = r.Second
	if err := r.c.Say(ctx, x); !errors.Is(err, chat.ErrTaken) {
		t.Errorf("another says something by the same id: %v", err)
	}
	x.ID, x.Text = uuid.Must(uuid.NewV7()), " "
	if err := r.c.Say(ctx, x); len(fault.All(err)) != 1 {
		t.Errorf("nothing is said: %v", err)
	}
}

// TestOnlyWhatIsNewIsRead: who reads after a number of changes is given what changed since, and nothing twice.
func TestOnlyWhatIsNewIsRead(t *testing.T) {
	r := newRoom(t)
	ctx := t.Context()
	first := r.says(r.Student, "one")
	one, err := r.c.Since(ctx, r.Lecture, r.as(r.Second), 0)
	r.Must(err)
	r.says(r.Second, "two")
	r.Must(r.c.Withdraw(ctx, r.Lecture, first, r.Student, false))
	two, err := r.c.Since(ctx, r.Lecture, r.as(r.Second), one.Changes)
	r.Must(err)
	if len(two.Lines) != 2 || !two.Lines[0].Withdrawn || two.Lines[0].Text != "" || two.Lines[1].Text != "two" {
		t.Fatalf("%+v", two.Lines)
	}
	none, err := r.c.Since(ctx, r.Lecture, r.as(r.Second), two.Changes)
	r.Must(err)
	if len(none.Lines) != 0 || none.Changes != two.Changes {
		t.Errorf("%+v", none)
	}
}

// TestNothingIsPassedOver: of what many say at once, who reads on from where they were misses nothing.
func TestNothingIsPassedOver(t *testing.T) {
	r := newRoom(t)
	people := []uuid.UUID{r.Student, r.Second, r.Lecturer}
	for len(people) < 12 {
		people = append(people, r.Person(fmt.Sprintf("more%d", len(people)), r.Course, "student", ""))
	}
	var saying sync.WaitGroup
	for _, p := range people {
		saying.Go(func() {
			for i := range core.Burst {
				r.says(p, fmt.Sprint(p, i))
			}
		})
	}
	done := make(chan struct{})
	go func() { saying.Wait(); close(done) }()
	heard, after := map[uuid.UUID]int{}, int64(0)
	for last := false; ; {
		x, err := r.c.Since(t.Context(), r.Lecture, r.as(r.Student), after)
		r.Must(err)
		after = x.Changes
		for _, l := range x.Lines {
			heard[l.ID]++
		}
		if last {
			break
		}
		select {
		case <-done:
			last = true
		default:
		}
	}
	if want := core.Burst * len(people); len(heard) != want {
		t.Errorf("of %d lines %d were read", want, len(heard))
	}
}

func TestForWhomAChatIs(t *testing.T) {
	r := newRoom(t)
	ctx := t.Context()
	r.says(r.Student, "to all")
	r.Must(r.c.SetWay(ctx, r.Lecture, core.Teachers))
	r.says(r.Student, "to you")
	r.says(r.Lecturer, "to all from me")
	for who, want := range map[uuid.UUID][]string{
		r.Student: {"to all", "to you", "to all from me"}, r.Second: {"to all", "to all from me"},
		r.Lecturer: {"to all", "to you", "to all from me"},
	} {
		if got := r.reads(who); !slices.Equal(got, want) {
			t.Errorf("%q, want %q", got, want)
		}
	}
	r.Must(r.c.SetWay(ctx, r.Lecture, core.Off))
	x := chat.Saying{ID: uuid.Must(uuid.NewV7()), Lecture: r.Lecture, Person: r.Second, Text: "still"}
	if err := r.c.Say(ctx, x); !errors.Is(err, chat.ErrOff) {
		t.Errorf("said where it is off: %v", err)
	}
	if way, err := r.c.Way(ctx, r.Lecture); err != nil || way != core.Off {
		t.Errorf("%q %v", way, err)
	}
	if err := r.c.SetWay(ctx, r.Lecture, "some"); len(fault.All(err)) != 1 {
		t.Errorf("a way that is none: %v", err)
	}
}

// TestWhoSaysMuchWaits, alone, and what they say once they may is kept.
func TestWhoSaysMuchWaits(t *testing.T) {
	r := newRoom(t)
	r.at(0)
	for i := range core.Burst {
		r.says(r.Student, fmt.Sprint(i))
	}
	x := chat.Saying{ID: uuid.Must(uuid.NewV7()), Lecture: r.Lecture, Person: r.Student, Text: "more", Ago: time.Hour}
	r.at(4 * time.Second)
	var slow chat.Slow
	if err := r.c.Say(t.Context(), x); !errors.As(err, &slow) || slow.Wait != 6*time.Second {
		t.Fatalf("%v", err)
	}
	r.says(r.Second, "another")
	r.at(4*time.Second + slow.After())
	r.Must(r.c.Say(t.Context(), x))
}

func TestAQuestionIsNotLost(t *testing.T) {
	r := newRoom(t)
	ctx := t.Context()
	id := r.says(r.Student, "When is ebb?", question)
	line := r.says(r.Second, "And at night?")
	r.says(r.Second, "good morning")
	r.Must(r.c.Mark(ctx, r.Lecture, line, r.Lecturer, chat.Word{State: core.Open}),
		r.c.Mark(ctx, r.Lecture, id, r.Lecturer, chat.Word{State: core.PutOff}))
	waits, err := r.c.Waiting(ctx, r.Course)
	r.Must(err)
	if len(waits) != 2 || waits[0].ID != id || waits[0].State != core.PutOff || waits[1].ID != line {
		t.Fatalf("%+v", waits)
	}
	r.Must(r.c.Mark(ctx, r.Lecture, id, r.Lecturer, chat.Word{State: core.Open, Answer: "At six."}))
	x, err := r.c.Since(ctx, r.Lecture, r.as(r.Second), 0)
	r.Must(err)
	if l := x.Lines[0]; l.State != core.Answered || l.Answer != "At six." || l.AnsweredBy != "lecturer" ||
		l.AnsweredAt == nil {
		t.Errorf("%+v", l)
	}
	// Taken back, it is open again, and nothing of the answer is left.
	r.Must(r.c.Mark(ctx, r.Lecture, id, r.Lecturer, chat.Word{State: core.Open}))
	if waits, err = r.c.Waiting(ctx, r.Course); err != nil || len(waits) != 2 || waits[0].Answer != "" {
		t.Errorf("%+v %v", waits, err)
	}
	if err := r.c.Mark(ctx, r.Later, id, r.Lecturer, chat.Word{State: core.Taken}); !errors.Is(err, chat.ErrUnknown) {
		t.Errorf("a line of another lecture: %v", err)
	}
	if err := r.c.Mark(ctx, r.Lecture, id, r.Lecturer, chat.Word{State: "done"}); len(fault.All(err)) != 1 {
		t.Errorf("a state that is none: %v", err)
	}
}

func TestOneTurnsAndWithdrawsOnesOwn(t *testing.T) {
	r := newRoom(t)
	ctx := t.Context()
	id := r.says(r.Student, "When is ebb?")
	r.Must(r.c.Turn(ctx, r.Lecture, id, r.Student, true), r.c.Withdraw(ctx, r.Lecture, id, r.Student, false))
	if waits, err := r.c.Waiting(ctx, r.Course); err != nil || len(waits) != 0 {
		t.Errorf("what is withdrawn waits: %+v %v", waits, err)
	}
	if got := r.reads(r.Lecturer); !slices.Equal(got, []string{"When is ebb?"}) {
		t.Errorf("who teaches reads %q", got)
	}
	r.Must(r.c.Withdraw(ctx, r.Lecture, id, r.Student, true))
	if got := r.reads(r.Second); !slices.Equal(got, []string{"When is ebb?"}) {
		t.Errorf("said again it is %q", got)
	}
	for what, err := range map[string]error{
		"withdraws": r.c.Withdraw(ctx, r.Lecture, id, r.Second, false),
		"turns":     r.c.Turn(ctx, r.Lecture, id, r.Second, false),
	} {
		if !errors.Is(err, chat.ErrUnknown) {
			t.Errorf("another %s it: %v", what, err)
		}
	}
	r.Must(r.c.Mark(ctx, r.Lecture, id, r.Lecturer, chat.Word{State: core.Taken}))
	if err := r.c.Turn(ctx, r.Lecture, id, r.Student, false); !errors.Is(err, chat.ErrUnknown) {
		t.Errorf("a question that was taken up is turned: %v", err)
	}
}

// TestWhatIsTakenDown is kept for those who teach, with who and why, and stands again when they say so.
func TestWhatIsTakenDown(t *testing.T) {
	r := newRoom(t)
	ctx := t.Context()
	id := r.says(r.Student, "rude")
	r.Must(r.c.TakeDown(ctx, r.Lecture, id, r.Lecturer, "  not  kind ", false))
	for _, who := range []uuid.UUID{r.Student, r.Second} {
		if got := r.reads(who); !slices.Equal(got, []string{"(gone)"}) {
			t.Errorf("%q", got)
		}
	}
	x, err := r.c.Since(ctx, r.Lecture, r.as(r.Lecturer), 0)
	r.Must(err)
	if l := x.Lines[0]; l.Text != "rude" || l.TakenDownBy != "lecturer" || l.TakenDownWhy != "not kind" {
		t.Errorf("%+v", l)
	}
	if err := r.c.TakeDown(ctx, r.Lecture, id, r.Lecturer, strings.Repeat("x", core.MaxWhy+1), false); len(
		fault.All(err)) != 1 {
		t.Errorf("a long reason: %v", err)
	}
	r.Must(r.c.TakeDown(ctx, r.Lecture, id, r.Lecturer, "", true))
	if got := r.reads(r.Second); !slices.Equal(got, []string{"rude"}) {
		t.Errorf("%q", got)
	}
}

// captured begins the capture of the lecture, at testhouse.Now.
func (r *room) captured() capture.Started {
	r.T.Helper()
	begun, err := r.Capture.Begin(context.Background(),
		capture.Start{Lecture: r.Lecture, By: r.Lecturer, Source: capture.Desk})
	r.Must(err)
	return begun
}

// TestTheMomentOfALine is that of the player of who said it, as far as it can be believed, else what was captured when
// it was written; a pause is no time.
func TestTheMomentOfALine(t *testing.T) {
	r := newRoom(t)
	r.at(-time.Minute)
	early := r.says(r.Student, "before")
	begun := r.captured()
	r.Do(`update capture set started_at = $1`, testhouse.Now)
	r.Do(`update track set packed_ms = 600000`)
	follows := func(at time.Duration) func(*chat.Saying) {
		return func(x *chat.Saying) { x.Heard = &chat.Heard{Recording: begun.Recording, At: at} }
	}
	r.at(100 * time.Second)
	want := map[uuid.UUID]int64{
		r.says(r.Lecturer, "by the clock"):                                               100_000,
		r.says(r.Student, "some seconds behind", follows(92*time.Second)):                92_000,
		r.says(r.Second, "further than anyone is", follows(time.Hour)):                   100_000,
		r.says(r.Student, "late", func(x *chat.Saying) { x.Ago = 30 * time.Second }):     70_000,
		r.says(r.Second, "of another", func(x *chat.Saying) { x.Heard = &chat.Heard{} }): 100_000,
	}
	r.Do(`insert into marker (id, capture_id, at_ms, pause_ms, word, made_by, made_at)
		select $1, id, 110000, 60000, '', $2, now() from capture`, uuid.Must(uuid.NewV7()), r.Lecturer)
	r.at(200 * time.Second)
	want[r.says(r.Lecturer, "after a pause of a minute")] = 140_000
	r.Do(`update capture set paused_at = $1`, testhouse.Now.Add(210*time.Second))
	r.at(300 * time.Second)
	want[r.says(r.Lecturer, "while it is paused")] = 150_000
	x, err := r.c.Since(t.Context(), r.Lecture, r.as(r.Lecturer), 0)
	r.Must(err)
	for _, l := range x.Lines {
		switch {
		case l.ID == early && l.AtMs != nil:
			t.Errorf("what was said before has a moment: %d", *l.AtMs)
		case l.ID != early && (l.AtMs == nil || *l.AtMs != want[l.ID]):
			t.Errorf("%s: %s, want %d", l.Text, told(l.AtMs), want[l.ID])
		}
	}
	if len(x.Lines) != 8 {
		t.Errorf("%d lines", len(x.Lines))
	}
}

// told is a moment to be read.
func told(ms *int64) string {
	if ms == nil {
		return "none"
	}
	return fmt.Sprint(*ms)
}

// TestTheChatOfARecording is what was said while it was captured, and asked of it since, by who may read it.
func TestTheChatOfARecording(t *testing.T) {
	r := newRoom(t)
	ctx := t.Context()
	id := r.Bare(r.Lecture, false, new(testhouse.Now))
	r.Do(`update track set packed_ms = 600000`)
	later := func(at time.Duration) func(*chat.Saying) {
		return func(x *chat.Saying) { x.Later, x.Heard = true, &chat.Heard{Recording: id, At: at} }
	}
	asked := r.says(r.Student, "what was that?", later(2*time.Second))
	r.says(r.Second, "and this?", later(time.Second))
	texts := func(who chat.Reader) []string {
		lines, err := r.c.Of(ctx, id, who)
		r.Must(err)
		out := []string{}
		for _, l := range lines {
			out = append(out, fmt.Sprint(l.Text, *l.AtMs))
		}
		return out
	}
	if got := texts(r.as(r.Lecturer)); !slices.Equal(got, []string{"and this?1000", "what was that?2000"}) {
		t.Errorf("who teaches reads %q", got)
	}
	if got := texts(r.as(r.Second)); !slices.Equal(got, []string{"and this?1000"}) {
		t.Errorf("another reads %q", got)
	}
	r.Must(r.c.Mark(ctx, r.Lecture, asked, r.Lecturer, chat.Word{Answer: "The tide.", Shown: true}))
	if got := texts(chat.Reader{Person: r.Outsider}); !slices.Equal(got, []string{"what was that?2000"}) {
		t.Errorf("who may watch reads %q", got)
	}
	waits, err := r.c.Waiting(ctx, r.Course)
	r.Must(err)
	if len(waits) != 1 || waits[0].RecordingID == nil || *waits[0].RecordingID != id {
		t.Errorf("%+v", waits)
	}
	if x, err := r.c.Since(ctx, r.Lecture, r.as(r.Lecturer), 0); err != nil || len(x.Lines) != 0 {
		t.Errorf("what was asked afterwards stands in the lecture: %+v %v", x.Lines, err)
	}
}

// TestWhoIsLostHasNoName, and counts once a minute.
func TestWhoIsLostHasNoName(t *testing.T) {
	r := newRoom(t)
	ctx := t.Context()
	for _, at := range []time.Duration{0, 20 * time.Second, 70 * time.Second} {
		r.at(at)
		r.Must(r.c.Lose(ctx, r.Lecture, r.Student))
	}
	r.Must(r.c.Lose(ctx, r.Lecture, r.Second))
	got, err := r.c.LostIn(ctx, r.Lecture)
	r.Must(err)
	if len(got) != 2 || got[0].People != 1 || got[1].People != 2 || got[1].Minute.Sub(got[0].Minute) != time.Minute {
		t.Errorf("%+v", got)
	}
	other := *r.c
	other.Secret = []byte("another house")
	r.Must(other.Lose(ctx, r.Lecture, r.Student))
	if got, err = r.c.LostIn(ctx, r.Lecture); err != nil || got[1].People != 3 {
		t.Errorf("the marks are no work of the secret: %+v %v", got, err)
	}
}

// TestWhereInARecordingPeopleWereLost: on its clock, where it was captured then; before and after it nowhere.
func TestWhereInARecordingPeopleWereLost(t *testing.T) {
	r := newRoom(t)
	ctx := t.Context()
	begun := r.captured()
	r.Do(`update capture set started_at = $1, stopped_at = $2`, testhouse.Now.Add(50*time.Second),
		testhouse.Now.Add(10*time.Minute))
	r.Do(`update track set packed_ms = 550000`)
	r.Do(`update recording_capture set start_ms = 5000`)
	for _, at := range []time.Duration{-2 * time.Minute, 0, 3 * time.Minute, 20 * time.Minute} {
		r.at(at)
		r.Must(r.c.Lose(ctx, r.Lecture, r.Student))
	}
	r.at(3 * time.Minute)
	r.Must(r.c.Lose(ctx, r.Lecture, r.Second))
	got, err := r.c.LostOf(ctx, r.Lecture, begun.Recording)
	r.Must(err)
	want := []chat.LostAt{{At: 14 * time.Second, People: 1}, {At: 165 * time.Second, People: 2}}
	if !slices.Equal(got, want) {
		t.Errorf("%+v, want %+v", got, want)
	}
}
