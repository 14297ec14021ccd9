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
	Given     []Given        // in order of when they were given
	capture   uuid.UUID
}

// Open is until when it is open.
func (a Asked) Open() toall.Open { return toall.Open{Closes: a.Closes, Shown: a.Shown} }

// Tally is what was answered in the lecture comes to; hidden words do not count.
func (a Asked) Tally() toall.Result {
	var all []toall.Answer
	for _, g := range a.Given {
		if !g.Later && !g.Hidden {
			all = append(all, g.Answer)
		}
	}
	return a.Question.Tally(all)
}

// By is what a person answered; nil for nothing.
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
// themselves, and the rest where results are shown.
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
	ids := make([]uuid.UUID, len(rows))
	for i, r := range rows {
		ids[i] = r.ID
	}
	given, err := s.given(ctx, r, ids)
	if err != nil {
		return nil, err
	}
	out := make([]Asked, len(rows))
	for i, r := range rows {
		out[i] = Asked{ID: r.ID, Lecture: r.LectureID, Question: r.question(), By: r.By, Opened: r.OpenedAt,
			Closes: r.EndsAt, Timed: r.Timed, Shown: r.Shown, Withdrawn: r.Withdrawn, Given: given[r.ID],
			capture: postgres.OrZero(r.CaptureID)}
		if r.AtMs != nil {
			at := time.Duration(*r.AtMs) * time.Millisecond
			out[i].At = &at
		}
	}
	return out, nil
}

// given is what was answered, as far as somebody reads it, by question.
func (s *Service) given(ctx context.Context, reader Reader, asked []uuid.UUID) (map[uuid.UUID][]Given, error) {
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
		from given_answer g join person p on p.id = g.person_id join asked_question q on q.id = g.asked_id
		where g.asked_id = any($1) and ($2 or q.shown or g.person_id = $3)
		order by g.given_at, g.person_id`, asked, reader.Teaches, reader.Person)
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
