package demo

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/chat"
	core "latelantern/internal/core/chat"
	"latelantern/internal/core/presence"
	"latelantern/internal/platform/clock"
	marks "latelantern/internal/presence"
)

// remark is something that was said in a lecture, so long after its beginning: by a student with a number, or by who
// teaches.
type remark struct {
	after    time.Duration
	by       int
	text     string
	question bool
	state    core.State // of a question, as it was left
	answer   string
}

// teacher is who says what no student says.
const teacher = -1

// said is what was said in the captured lectures, by their talk.
var said = map[string][]remark{
	"tid-1": {
		{14 * time.Second, 3, "Good morning from the ferry, the sound is fine here.", false, core.None, ""},
		{21 * time.Second, 7, "Why is there a bulge on the far side as well? The Moon pulls the other way there.", true,
			core.Answered,
			"It is left behind: the Moon pulls the near side most and the far side least. See the drawing in the handout."},
		{34 * time.Second, 11, "Is it the same on a lake?", true, core.PutOff, ""},
		{40 * time.Second, 5, "High water was at 8:40 at our place this morning.", false, core.None, ""},
		{45 * time.Second, teacher, "Thank you. Write it down with the place, for next week.", false, core.None, ""},
		{83 * time.Second, 2, "How many readings do we take in a minute?", true, core.Answered, ""},
	},
	"tid-2": {
		{20 * time.Second, 4, "Does the age of the tide change with the season?", true, core.Open, ""},
		{40 * time.Second, 8, "1 2 3 3 2 1, got it.", false, core.None, ""},
		{80 * time.Second, 6, "When is the current in the narrows strongest, once more?", true, core.Answered, ""},
	},
}

// current is what is said in the lecture that is on while the demonstration begins, the last a minute ago.
var current = []remark{
	{0, 1, "Good morning. Will the exercise from last week be collected today?", true, core.Taken, ""},
	{70 * time.Second, teacher, "Yes, at the end, on the table by the door.", false, core.None, ""},
	{200 * time.Second, 4, "The second row of the table is hard to read from the back.", false, core.None, ""},
	{260 * time.Second, 9, "Is that height above the harbour datum or above mean sea level?", true, core.Open, ""},
	{300 * time.Second, 6, "Same question here.", false, core.None, ""},
}

// lostMinutes is how many of those who follow that lecture are lost in each of its first minutes.
var lostMinutes = []int{0, 0, 1, 0, 2, 5, 3, 1}

// lostIn is how many were lost in the first minutes of the captured lectures, by their talk.
var lostIn = map[string][]int{"tid-1": {2, 6}, "tid-2": {1, 4}}

// chats leaves what was said in lectures, and what was asked of a recording since.
func (l *loader) chats(ctx context.Context, of map[string]uuid.UUID) error {
	for _, t := range Talks {
		where := l.lectures[t.Course][t.Week]
		for _, r := range said[t.File] {
			if err := l.says(ctx, courseOf(t), where.id, r, where.starts.Add(r.after), nil); err != nil {
				return err
			}
		}
	}
	for _, t := range Talks {
		where := l.lectures[t.Course][t.Week]
		for minute, people := range lostIn[t.File] {
			if err := l.lose(ctx, courseOf(t), where.id, where.starts.Add(time.Duration(minute)*time.Minute),
				people); err != nil {
				return err
			}
		}
	}
	tides := courses[0]
	where := l.lectures[tides.code][1]
	heard := &chat.Heard{Recording: of["tid-1"], At: 74 * time.Second}
	for _, r := range []remark{
		{50 * time.Hour, 10, "You say four metres, and the table on the wall says 4.3. Which one holds?", true,
			core.Open, ""},
		{70 * time.Hour, 1, "What is a mooring that dries out called?", true, core.Answered, "A half-tide mooring."},
	} {
		if err := l.says(ctx, tides, where.id, r, where.ends.Add(r.after), heard); err != nil {
			return err
		}
	}
	if err := l.register(ctx); err != nil {
		return fmt.Errorf("load a register: %w", err)
	}
	return l.now(ctx)
}

// register has TID 210, whose talks are short, call late who comes after a minute; one student was excused, and one
// says that a line is not right.
func (l *loader) register(ctx context.Context) error {
	tides := courses[0]
	course, second := l.courses[tides.code], l.lectures[tides.code][2]
	then := l.h.At(clock.Standing(second.ends.Add(3 * time.Hour)))
	return errors.Join(
		then.Presence.SetRules(ctx, course, presence.Rules{Late: time.Minute, Early: time.Minute, Least: 10}),
		then.Presence.SetMark(ctx, second.id, l.people[student(tides.students[0])], l.people[tides.lecturer],
			&marks.MarkForm{State: presence.Excused, Reason: "Doctor's note of the 9th."}),
		then.Presence.Object(ctx, l.lectures[tides.code][1].id, l.people[student(tides.students[0]+4)],
			"I was in the hall from the beginning, my phone was empty."))
}

// now lets something be said in the lecture that is on now, if there is one.
func (l *loader) now(ctx context.Context) error {
	at := l.h.Clock.Now()
	for _, c := range courses {
		where := l.lectures[c.code][thisWeek]
		if at.Before(where.starts.Add(time.Minute)) || at.After(where.ends) {
			continue
		}
		from := at.Add(-current[len(current)-1].after - time.Minute)
		for _, r := range current {
			if err := l.says(ctx, c, where.id, r, from.Add(r.after), nil); err != nil {
				return err
			}
		}
		for minute, people := range lostMinutes {
			ago := time.Duration(len(lostMinutes)-minute) * time.Minute
			if err := l.lose(ctx, c, where.id, at.Add(-ago), people); err != nil {
				return err
			}
		}
	}
	return nil
}

// lose has so many students say at a time that they are lost.
func (l *loader) lose(ctx context.Context, c course, lecture uuid.UUID, at time.Time, people int) error {
	then := l.h.At(clock.Standing(at))
	for n := range people {
		if err := then.Chat.Lose(ctx, lecture, l.people[student(c.students[0]+n)]); err != nil {
			return fmt.Errorf("say that someone is lost: %w", err)
		}
	}
	return nil
}

// says has something be said at a time, and be answered as it was: of a recording, where it was heard.
func (l *loader) says(ctx context.Context, c course, lecture uuid.UUID, r remark, at time.Time,
	heard *chat.Heard) error {
	then := l.h.At(clock.Standing(at))
	by := c.lecturer
	if r.by != teacher {
		by = student(c.students[0] + r.by)
	}
	x := chat.Saying{ID: uuid.Must(uuid.NewV7()), Lecture: lecture, Person: l.people[by], Teaches: r.by == teacher,
		Text: r.text, Question: r.question, Heard: heard, Later: heard != nil}
	if err := then.Chat.Say(ctx, x); err != nil {
		return fmt.Errorf("say something in a lecture: %w", err)
	}
	if r.state == core.None || r.state == core.Open {
		return nil
	}
	return l.h.At(clock.Standing(at.Add(time.Minute))).Chat.Mark(ctx, lecture, x.ID, l.people[c.lecturer],
		chat.Word{State: r.state, Answer: r.answer, Shown: heard != nil})
}
