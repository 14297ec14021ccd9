package schedule

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/doorway"
	"latelantern/internal/core/event"
	"latelantern/internal/core/timetable"
	"latelantern/internal/platform/postgres"
)

// NewCourse makes a course, as a part of tx. Its error is that of KeepCourse.
func (s *Service) NewCourse(ctx context.Context, tx pgx.Tx, term uuid.UUID, code, title string) (uuid.UUID, error) {
	return s.keepCourse(ctx, tx, uuid.Nil, CourseForm{Term: term, Code: code, Title: title})
}

// DatesOf is the term of a course with its zone. Its error is ErrUnknown.
func (s *Service) DatesOf(ctx context.Context, tx pgx.Tx, course uuid.UUID) (timetable.Dated, error) {
	term, err := termOf(ctx, tx, course)
	return timetable.Dated{Term: term.Plan, Zone: term.Zone}, err
}

// carriedLecture is a lecture of a plan as it was planned.
type carriedLecture struct {
	PlanID       uuid.UUID
	HallID       *uuid.UUID
	PlannedStart time.Time
	PlannedEnd   time.Time
	Topic        string

	Weekdays    []int
	Every       int
	OverBreaks  bool
	ByDates     bool
	CaptureAuto bool
	LeadMin     int
	TailMin     int
	Doorway     doorway.Way
	OpensMin    int
}

const carriedSQL = `select l.plan_id, p.hall_id, l.planned_start, l.planned_end, l.topic, p.weekdays, p.every,
		p.over_breaks, p.by_dates, p.capture_auto, p.lead_min, p.tail_min, p.doorway, p.opens_min
	from lecture l join plan p on p.id = l.plan_id
	where p.course_id = $1 order by l.plan_id, l.planned_start, l.id`

// CarryPlan gives a course the pattern of titles of another, and its plans: each lecture as it was planned, with its
// topic, on the day of the course's own term that is the same there. What was moved by hand or called off is carried as
// it was planned.
func (s *Service) CarryPlan(ctx context.Context, tx pgx.Tx, from, to, by uuid.UUID) (timetable.Carried, error) {
	var out timetable.Carried
	const naming = `update course set title_pattern = (select title_pattern from course where id = $1) where id = $2`
	if _, err := tx.Exec(ctx, naming, from, to); err != nil {
		return out, fmt.Errorf("carry how titles are made: %w", err)
	}
	old, err := termOf(ctx, tx, from)
	if err != nil {
		return out, err
	}
	term, err := termOf(ctx, tx, to)
	if err != nil {
		return out, err
	}
	lectures, err := postgres.All[carriedLecture](ctx, tx, carriedSQL, from)
	if err != nil {
		return out, fmt.Errorf("read the plans of a course: %w", err)
	}
	if len(lectures) == 0 {
		return out, nil
	}
	change, err := s.begin(ctx, tx, to, by)
	if err != nil {
		return out, err
	}
	out.Change = change
	for len(lectures) > 0 {
		n := 1
		for n < len(lectures) && lectures[n].PlanID == lectures[0].PlanID {
			n++
		}
		if err := s.carryPlan(ctx, tx, change, to, by, old, term, lectures[:n], &out); err != nil {
			return out, err
		}
		lectures = lectures[n:]
	}
	return out, nil
}

// carryPlan carries the lectures of one plan.
func (s *Service) carryPlan(ctx context.Context, tx pgx.Tx, change, to, by uuid.UUID, old, term Term,
	lectures []carriedLecture, out *timetable.Carried) error {
	var list []added
	var days []timetable.Day
	var would []Proposed
	for _, l := range lectures {
		day, ok := old.Plan.Carry(timetable.DayOf(l.PlannedStart, old.Zone), term.Plan)
		if !ok {
			out.Left++
			continue
		}
		start := timetable.On(day, timetable.ClockOf(l.PlannedStart, old.Zone), term.Zone)
		end := start.Add(l.PlannedEnd.Sub(l.PlannedStart))
		days = append(days, day)
		list = append(list, added{start: start, end: end, hall: l.HallID, topic: l.Topic})
		would = append(would, Proposed{Start: start, End: end})
		if out.Lectures == 0 || start.Before(out.First) {
			out.First = start
		}
		if start.After(out.Last) {
			out.Last = start
		}
		out.Lectures++
	}
	if len(list) == 0 {
		return nil
	}
	x := lectures[0]
	if err := clashes(ctx, tx, to, term, would, func(int) *uuid.UUID { return x.HallID }); err != nil {
		return err
	}
	for _, w := range would {
		if w.Clashing {
			out.Clashing++
		}
	}
	out.Plans++
	_, weekly := timetable.Recognise(days, term.Plan)
	f := PlanForm{Hall: x.HallID, Choices: Choices{Doorway: x.Doorway, OpensMin: x.OpensMin, CaptureAuto: x.CaptureAuto,
		LeadMin: x.LeadMin, TailMin: x.TailMin}, Plan: timetable.Plan{Every: x.Every, OverBreaks: x.OverBreaks,
		At: timetable.ClockOf(list[0].start, term.Zone), Lasts: list[0].end.Sub(list[0].start)}}
	for _, w := range x.Weekdays {
		f.Weekdays = append(f.Weekdays, time.Weekday(w))
	}
	plan, err := s.insertPlan(ctx, tx, to, by, f, x.ByDates || !weekly)
	if err != nil {
		return err
	}
	return s.insertLectures(ctx, tx, change, to, plan, f.Choices, list)
}

// Bare says whether nothing is planned in a course and nothing was captured in it.
func (s *Service) Bare(ctx context.Context, tx pgx.Tx, course uuid.UUID) (bool, error) {
	const query = `select not exists (select 1 from lecture where course_id = $1)`
	bare, err := postgres.Value[bool](ctx, tx, query, course)
	if err != nil {
		return false, fmt.Errorf("look what is planned in a course: %w", err)
	}
	return bare, nil
}

// Unused says whether nothing was captured of a course, whose lectures are held meanwhile.
func (s *Service) Unused(ctx context.Context, tx pgx.Tx, course uuid.UUID) (bool, error) {
	const hold = `select id from lecture where course_id = $1 order by id for update`
	lectures, err := postgres.Values[uuid.UUID](ctx, tx, hold, course)
	if err != nil {
		return false, fmt.Errorf("hold the lectures of a course: %w", err)
	}
	const query = `select not exists (select 1 from capture where lecture_id = any($1))
		and not exists (select 1 from recording where lecture_id = any($1))`
	unused, err := postgres.Value[bool](ctx, tx, query, lectures)
	if err != nil {
		return false, fmt.Errorf("look what was captured of a course: %w", err)
	}
	return unused, nil
}

// Uncarry removes the lectures that a change planned in a course, and the plans that have none any more.
func (s *Service) Uncarry(ctx context.Context, tx pgx.Tx, course, change uuid.UUID) error {
	for _, sql := range []string{
		`delete from lecture where course_id = $1 and id in (select lecture_id from lecture_was where change_id = $2)`,
		`delete from plan p where p.course_id = $1 and not exists (select 1 from lecture l where l.plan_id = p.id)
			and exists (select 1 from timetable_change c where c.id = $2)`,
		`delete from timetable_change where course_id = $1 and id = $2`,
	} {
		if _, err := tx.Exec(ctx, sql, course, change); err != nil {
			return fmt.Errorf("remove what was carried to a course: %w", err)
		}
	}
	return postgres.Notify(ctx, tx, postgres.Event{About: event.Timetable, Course: course})
}

// Unmake removes a course with all that it has.
func (s *Service) Unmake(ctx context.Context, tx pgx.Tx, course uuid.UUID) error {
	for _, sql := range []string{`delete from lecture where course_id = $1`, `delete from plan where course_id = $1`,
		`delete from course where id = $1`} {
		if _, err := tx.Exec(ctx, sql, course); err != nil {
			return fmt.Errorf("remove a course that was carried: %w", err)
		}
	}
	return nil
}
