package toall

import (
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/layout"
	"latelantern/internal/core/toall"
	"latelantern/internal/platform/postgres"
)

// Asked is a question that was put to all in a lecture.
type Asked struct {
	ID        uuid.UUID
	Lecture   uuid.UUID
	Question  toall.Question
	By        string // who asked it
	Opened    time.Time
	Closes    time.Time
	Timed     bool // its end was said when it was asked
	Shown     bool
	Withdrawn bool
	At        *time.Duration // on the clock of its capture; of those that Of gives on that of the recording
	Given     []Given        // in order of when they were given; those that its reader reads
	Result    *toall.Result  // of what was answered in the lecture and is not hidden; nil for who does not see it
	capture   uuid.UUID
}

// Open is until when it is open.
func (a Asked) Open() toall.Open { return toall.Open{Closes: a.Closes, Shown: a.Shown} }

// GivenBy is what a person answered; nil for nothing.
func (a Asked) GivenBy(person uuid.UUID) *Given {
	i := slices.IndexFunc(a.Given, func(g Given) bool { return g.Person == person })
	if i < 0 {
		return nil
	}
	return &a.Given[i]
}

// Given is what somebody answered.
type Given struct {
	Asked  uuid.UUID
	Person uuid.UUID
	Name   string
	Guest  bool
	Later  bool
	Hidden bool
	At     time.Time
	Answer toall.Answer
}

type askedRow struct {
	kept
	ID, LectureID    uuid.UUID
	By               string
	OpenedAt, EndsAt time.Time
	Timed, Shown     bool
	Withdrawn        bool
	CaptureID        *uuid.UUID
	AtMs             *int64
}

const askedSQL = `select q.id, q.lecture_id, q.kind, q.text, q.choices, q.right_choices, coalesce(p.name, '') as by,
		q.opened_at, q.ends_at, q.timed, q.shown, q.withdrawn_at is not null as withdrawn, q.capture_id, q.at_ms
	from open_question q left join person p on p.id = q.asked_by `

// Reader is somebody who reads what was asked: those who teach read all that was answered, others what they answered
// themselves, and what all come to where results are shown.
type Reader struct {
	Person  uuid.UUID
	Teaches bool // the course of the lecture, or coordinates the college
}

// In are the questions that were put to all in a lecture, in order, with what was answered.
func (s *Service) In(ctx context.Context, lecture uuid.UUID, r Reader) ([]Asked, error) {
	return s.read(ctx, r, askedSQL+`where q.lecture_id = $1 order by q.opened_at, q.id`, lecture)
}

// Of are those that were put while a recording was captured, in order on its clock. What was withdrawn is left out.
func (s *Service) Of(ctx context.Context, recording uuid.UUID, r Reader) ([]Asked, error) {
	pieces, err := s.Recordings.Layout(ctx, s.DB, recording)
	if err != nil {
		return nil, err
	}
	all, err := s.read(ctx, r, askedSQL+`where q.withdrawn_at is null and q.capture_id in
		(select capture_id from recording_capture where recording_id = $1) order by q.at_ms, q.id`, recording)
	if err != nil {
		return nil, err
	}
	out := []Asked{}
	for _, a := range all {
		if at, ok := layout.Place(pieces, a.capture, *a.At); ok {
			a.At = &at
			out = append(out, a)
		}
	}
	slices.SortStableFunc(out, func(a, b Asked) int { return int(*a.At - *b.At) })
	return out, nil
}

func (s *Service) read(ctx context.Context, r Reader, query string, of uuid.UUID) ([]Asked, error) {
	rows, err := postgres.All[askedRow](ctx, s.DB, query, of)
	if err != nil {
		return nil, fmt.Errorf("read questions to all: %w", err)
	}
	var ids, shown []uuid.UUID
	for _, x := range rows {
		ids = append(ids, x.ID)
		if x.Shown && !r.Teaches {
			shown = append(shown, x.ID)
		}
	}
	const whose = ` where g.asked_id = any($1) and ($2 or g.person_id = $3)`
	given, err := s.given(ctx, whose, ids, r.Teaches, r.Person)
	if err != nil {
		return nil, err
	}
	results, err := s.results.All(ctx, shown)
	if err != nil {
		return nil, err
	}
	out := make([]Asked, len(rows))
	for i, x := range rows {
		out[i] = x.asked(given[x.ID])
		if result, ok := results[x.ID]; ok {
			out[i].Result = &result
		} else if r.Teaches {
			result := tally(out[i].Question, out[i].Given)
			out[i].Result = &result
		}
	}
	return out, nil
}

func (r askedRow) asked(given []Given) Asked {
	out := Asked{ID: r.ID, Lecture: r.LectureID, Question: r.question(), By: r.By, Opened: r.OpenedAt,
		Closes: r.EndsAt, Timed: r.Timed, Shown: r.Shown, Withdrawn: r.Withdrawn, Given: given,
		capture: postgres.OrZero(r.CaptureID)}
	if r.AtMs != nil {
		at := time.Duration(*r.AtMs) * time.Millisecond
		out.At = &at
	}
	return out
}

// reckon is what was answered to questions comes to: asked for by all who follow a lecture at the moment it is shown.
func (s *Service) reckon(ctx context.Context, asked []uuid.UUID) (map[uuid.UUID]toall.Result, error) {
	rows, err := postgres.All[askedRow](ctx, s.DB, askedSQL+`where q.id = any($1)`, asked)
	if err != nil {
		return nil, fmt.Errorf("read questions to all: %w", err)
	}
	given, err := s.given(ctx, ` where g.asked_id = any($1) and not g.later and not g.hidden`, asked)
	if err != nil {
		return nil, err
	}
	out := make(map[uuid.UUID]toall.Result, len(rows))
	for _, x := range rows {
		out[x.ID] = tally(x.question(), given[x.ID])
	}
	return out, nil
}

// tally is what was answered in the lecture comes to; hidden words do not count.
func tally(q toall.Question, given []Given) toall.Result {
	var all []toall.Answer
	for _, g := range given {
		if !g.Later && !g.Hidden {
			all = append(all, g.Answer)
		}
	}
	return q.Tally(all)
}

// given is what was answered, by question.
func (s *Service) given(ctx context.Context, where string, args ...any) (map[uuid.UUID][]Given, error) {
	type row struct {
		AskedID, PersonID    uuid.UUID
		Name                 string
		Guest, Later, Hidden bool
		GivenAt              time.Time
		Choices              []int
		Number               *float64
		Words                string
	}
	rows, err := postgres.All[row](ctx, s.DB, `select g.asked_id, g.person_id, p.name, p.guest, g.later, g.hidden,
			g.given_at, g.choices, g.number, g.words
		from given_answer g join person p on p.id = g.person_id`+where+` order by g.given_at, g.person_id`, args...)
	if err != nil {
		return nil, fmt.Errorf("read answers: %w", err)
	}
	out := map[uuid.UUID][]Given{}
	for _, r := range rows {
		out[r.AskedID] = append(out[r.AskedID], Given{Asked: r.AskedID, Person: r.PersonID, Name: r.Name,
			Guest: r.Guest, Later: r.Later, Hidden: r.Hidden, At: r.GivenAt,
			Answer: toall.Answer{Choices: r.Choices, Number: r.Number, Words: r.Words}})
	}
	return out, nil
}

// Missing are those who were in a lecture while a question was open, up to now, and have not answered it: students of
// its course and guests, by name.
func (s *Service) Missing(ctx context.Context, a Asked) ([]string, error) {
	const query = `select p.name from person p where p.id in (select t.person_id from attendance t
			where t.lecture_id = $1 and t.by <> 'hand' and t.from_at <= $4
			and t.until_at >= $3::timestamptz - interval '45 seconds')
		and (p.guest or exists (select 1 from lecture l join membership m on m.course_id = l.course_id
			where l.id = $1 and m.person_id = p.id and m.role = 'student'))
		and not exists (select 1 from given_answer g where g.asked_id = $2 and g.person_id = p.id)
		order by p.name, p.id`
	until := s.Clock.Now()
	if a.Closes.Before(until) {
		until = a.Closes
	}
	names, err := postgres.Values[string](ctx, s.DB, query, a.Lecture, a.ID, a.Opened, until)
	if err != nil {
		return nil, fmt.Errorf("list who has not answered: %w", err)
	}
	return names, nil
}
