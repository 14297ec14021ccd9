package demo

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	core "latelantern/internal/core/toall"
	"latelantern/internal/platform/clock"
	"latelantern/internal/toall"
)

// prepared are the questions that TID 210 keeps.
var prepared = []core.Question{
	{Kind: core.One, Text: "Why is there a second bulge, on the side away from the Moon?", Choices: []string{
		"The Sun pulls it up", "That water is pulled least and is left behind", "The Earth's own spin throws it out"},
		Right: []int{1}},
	{Kind: core.Number, Text: "High water was at 8:40. About how many hours until the next one?"},
	{Kind: core.Several, Text: "Which of these make a spring tide?", Choices: []string{"New moon", "Half moon",
		"Full moon", "A strong wind from the shore"}, Right: []int{0, 2}},
	{Kind: core.Words, Text: "One word for what you would like to go through again?"},
}

// asked is a question of those, put so long after the beginning of a lecture, with what was answered.
type asked struct {
	after   time.Duration
	which   int
	answers []core.Answer
}

func choice(i ...int) core.Answer { return core.Answer{Choices: i} }

func numbered(x float64) core.Answer { return core.Answer{Number: &x} }

func worded(s string) core.Answer { return core.Answer{Words: s} }

// askedIn are those that were put in the captured lectures, by their talk.
var askedIn = map[string][]asked{
	"tid-1": {
		{30 * time.Second, 0, []core.Answer{choice(1), choice(1), choice(2), choice(1), choice(0), choice(1), choice(2),
			choice(1), choice(1), choice(2), choice(1)}},
		{80 * time.Second, 1, []core.Answer{numbered(12), numbered(12.5), numbered(12.4), numbered(6), numbered(12),
			numbered(24), numbered(12.5), numbered(12.4), numbered(12)}},
	},
	"tid-2": {
		{42 * time.Second, 2, []core.Answer{choice(0, 2), choice(0, 2), choice(0), choice(2), choice(0, 1, 2),
			choice(0, 2), choice(0, 2, 3)}},
	},
}

// askedNow are those of the lecture that is on: the last is open.
var askedNow = []asked{
	{0, 3, []core.Answer{worded("datum"), worded("Datum"), worded("neaps"), worded("the table"), worded("datum."),
		worded("springs"), worded("Neaps")}},
	{240 * time.Second, 1, []core.Answer{numbered(12.4), numbered(12), numbered(6), numbered(12.5), numbered(12.4)}},
}

// toAll leaves the questions of TID 210, and those that were put in lectures.
func (l *loader) toAll(ctx context.Context) error {
	tides := courses[0]
	then := l.h.At(clock.Standing(l.lectures[tides.code][1].starts.Add(-time.Hour)))
	if err := then.ToAll.Bring(ctx, l.courses[tides.code], l.people[tides.lecturer], prepared); err != nil {
		return fmt.Errorf("prepare questions: %w", err)
	}
	for _, t := range Talks {
		where := l.lectures[t.Course][t.Week]
		for _, a := range askedIn[t.File] {
			if err := l.asks(ctx, courseOf(t), where.id, a, where.starts.Add(a.after), time.Minute); err != nil {
				return err
			}
		}
	}
	at := l.h.Clock.Now()
	for _, c := range courses {
		where := l.lectures[c.code][thisWeek]
		if at.Before(where.starts.Add(time.Minute)) || at.After(where.ends) {
			continue
		}
		from := at.Add(-askedNow[len(askedNow)-1].after - time.Minute)
		for i, a := range askedNow {
			long := time.Minute
			if i == len(askedNow)-1 {
				long = 0
			}
			if err := l.asks(ctx, c, where.id, a, from.Add(a.after), long); err != nil {
				return err
			}
		}
	}
	return nil
}

// asks has a question be put to all at a time, answered, and shown; open for so long, or until it is closed.
func (l *loader) asks(ctx context.Context, c course, lecture uuid.UUID, a asked, at time.Time,
	long time.Duration) error {
	then := l.h.At(clock.Standing(at))
	id := uuid.Must(uuid.NewV7())
	if err := then.ToAll.Ask(ctx, toall.Asking{ID: id, Lecture: lecture, By: l.people[c.lecturer],
		Question: prepared[a.which], For: long}); err != nil {
		return fmt.Errorf("put a question to all: %w", err)
	}
	for i, answer := range a.answers {
		soon := l.h.At(clock.Standing(at.Add(time.Duration(10+i) * time.Second)))
		if err := soon.ToAll.Answer(ctx, toall.Giving{Lecture: lecture, Asked: id,
			Person: l.people[student(c.students[0]+i+1)], Answer: answer}); err != nil {
			return fmt.Errorf("answer a question to all: %w", err)
		}
	}
	if long == 0 {
		return nil
	}
	shown := true
	return then.ToAll.Change(ctx, lecture, id, toall.Change{Shown: &shown})
}
