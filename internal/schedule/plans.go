package schedule

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/doorway"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/timetable"
	"latelantern/internal/platform/postgres"
)

// Choices is what goes with each lecture of a plan besides its time.
type Choices struct {
	Doorway     doorway.Way
	OpensMin    int // minutes before the start, 0 to 240
	CaptureAuto bool
	LeadMin     int // minutes before the start, 0 to 120
	TailMin     int // minutes after the planned end, 0 to 240
}

// Usual are the choices of someone who has made none.
var Usual = Choices{Doorway: doorway.WalkIn, OpensMin: 10, LeadMin: 5, TailMin: 10}

func (c Choices) check(f *fault.Faults) {
	f.When(!c.Doorway.Valid(), "doorway", "doorway.kind")
	f.When(c.OpensMin < 0 || c.OpensMin > 240, "opens_min", "doorway.opens")
	f.When(c.LeadMin < 0 || c.LeadMin > 120, "lead_min", "plan.lead")
	f.When(c.TailMin < 0 || c.TailMin > 240, "tail_min", "plan.tail")
}

// PlanForm is a plan as someone enters it.
type PlanForm struct {
	timetable.Plan
	Choices
	Hall  *uuid.UUID // nil for none
	Topic string     // of each of its lectures at first; "" for none
}

// With is what a lecture would clash with.
type With struct {
	Lecture  uuid.UUID // the zero value for one that is not kept yet
	Course   string    // code
	Hall     string
	Start    time.Time
	End      time.Time
	InHall   bool   // they are in the same hall
	OfCourse bool   // they are of the same course
	Lecturer string // who would have to be in both; "" for nobody
}

// Proposed is a lecture as it would be.
type Proposed struct {
	Lecture    uuid.UUID // the zero value for a new one
	Start, End time.Time
	Was        time.Time // where it is now; zero for a new one
	Week       int
	Break      string // the break it lies in; "" for none
	Stays      bool   // it is left where it is: it was captured, or moved by hand before
	Clashes    []With // the first of them; see ToldClashes
	Clashing   bool
}

// ToldClashes is how many pairs of lectures that clash are told of one change; of all others it is only said that they
// do.
const ToldClashes = 200

// PlanPreview is what a plan would do.
type PlanPreview struct {
	Lectures []Proposed
	Skipped  []timetable.Skipped
}

// booked is a lecture that stands, for finding clashes.
type booked struct {
	ID        uuid.UUID
	CourseID  uuid.UUID
	Code      string
	HallID    *uuid.UUID
	Hall      string
	Lecturers []uuid.UUID
	StartsAt  time.Time
	EndsAt    time.Time
}

func (b booked) booking() timetable.Booking {
	out := timetable.Booking{ID: b.ID.String(), Course: b.CourseID.String(), Start: b.StartsAt, End: b.EndsAt}
	if b.ID == uuid.Nil {
		out.ID = ""
	}
	if b.HallID != nil {
		out.Hall = b.HallID.String()
	}
	for _, l := range b.Lecturers {
		out.Lecturers = append(out.Lecturers, l.String())
	}
	return out
}

// bookedSQL finds what stands between $1 and $2 in one of the halls $3, of the course $4 or
// of a course with one of its lecturers.
const bookedSQL = `with who as (select person_id from membership where course_id = $4 and role = 'lecturer')
	select l.id, l.course_id, k.code, l.hall_id, coalesce(h.name, '') as hall, l.starts_at, l.ends_at,
		array(select m.person_id from membership m where m.course_id = l.course_id and m.role = 'lecturer') as lecturers
	from lecture l join course k on k.id = l.course_id left join hall h on h.id = l.hall_id
	where l.starts_at < $2 and l.ends_at > $1 and l.called_off_at is null and not l.unplanned
		and (l.hall_id = any($3) or l.course_id = $4
		or l.course_id in (select m.course_id from membership m join who on who.person_id = m.person_id
		where m.role = 'lecturer'))`

// lecturersOf are the lecturers of a course, and their names by their ids.
func lecturersOf(ctx context.Context, q postgres.Querier, course uuid.UUID) ([]uuid.UUID, map[string]string, error) {
	type lecturer struct {
		ID   uuid.UUID
		Name string
	}
	all, err := postgres.All[lecturer](ctx, q,
		`select p.id, p.name from membership m join person p on p.id = m.person_id
			where m.course_id = $1 and m.role = 'lecturer'`, course)
	if err != nil {
		return nil, nil, fmt.Errorf("list the lecturers of a course: %w", err)
	}
	var ids []uuid.UUID
	names := map[string]string{}
	for _, l := range all {
		names[l.ID.String()] = l.Name
		ids = append(ids, l.ID)
	}
	return ids, names, nil
}

// clashes fills in what each of the proposed lectures of a course would clash with; at says in which hall each is.
func clashes(ctx context.Context, q postgres.Querier, course uuid.UUID, term Term, list []Proposed,
	hall func(i int) *uuid.UUID) error {
	if len(list) == 0 {
		return nil
	}
	from, to := list[0].Start, list[0].End
	halls := []uuid.UUID{}
	for i, p := range list {
		if p.Start.Before(from) {
			from = p.Start
		}
		if p.End.After(to) {
			to = p.End
		}
		if h := hall(i); h != nil {
			halls = append(halls, *h)
		}
	}
	standing, err := postgres.All[booked](ctx, q, bookedSQL, from, to, halls, course)
	if err != nil {
		return fmt.Errorf("look for clashes: %w", err)
	}
	ids, names, err := lecturersOf(ctx, q, course)
	if err != nil {
		return err
	}
	own, err := postgres.Value[string](ctx, q, `select code from course where id = $1`, course)
	if err != nil {
		return fmt.Errorf("read a course: %w", err)
	}
	byID := map[string]booked{}
	others := make([]timetable.Booking, len(standing))
	for i, b := range standing {
		others[i] = b.booking()
		byID[others[i].ID] = b
	}
	added := make([]timetable.Booking, len(list))
	for i, p := range list {
		added[i] = booked{ID: p.Lecture, CourseID: course, HallID: hall(i), Lecturers: ids, StartsAt: p.Start,
			EndsAt: p.End}.booking()
	}
	told, clashing := timetable.Clashes(added, others, ToldClashes)
	for i, found := range told {
		list[i].Clashing = clashing[i]
		list[i].Week = term.Week(list[i].Start).Number
		list[i].Break, _ = term.Plan.InBreak(timetable.DayOf(list[i].Start, term.Zone))
		for _, c := range found {
			b, stands := byID[c.With.ID]
			if !stands {
				b = booked{Code: own}
				b.ID, _ = uuid.Parse(c.With.ID)
			}
			list[i].Clashes = append(list[i].Clashes,
				With{b.ID, b.Code, b.Hall, c.With.Start, c.With.End, c.Hall, c.Course, names[c.Lecturer]})
		}
	}
	return nil
}

// checkPlan says what is wrong with a plan, and in which term it would be.
func checkPlan(ctx context.Context, q postgres.Querier, course uuid.UUID, f PlanForm) (Term, error) {
	term, err := termOf(ctx, q, course)
	if err != nil {
		return term, err
	}
	var faults, more fault.Faults
	if err := f.Check(term.Plan); errors.As(err, &more) {
		faults = more
	} else if err != nil {
		return term, err
	}
	f.Choices.check(&faults)
	faults.When(len([]rune(f.Topic)) > 200, "topic", "plan.topic")
	if f.Hall != nil {
		known, err := postgres.Value[bool](ctx, q, `select exists (select 1 from hall where id = $1)`, *f.Hall)
		if err != nil {
			return term, fmt.Errorf("look for a hall: %w", err)
		}
		faults.When(!known, "hall", "hall.gone")
	}
	return term, faults.Err()
}

// PreviewPlan says which lectures a plan would make and what they clash with. Its error is of
// type fault.Faults when something is wrong with the plan.
func (s *Service) PreviewPlan(ctx context.Context, course uuid.UUID, f PlanForm) (PlanPreview, error) {
	return previewPlan(ctx, s.DB, course, f)
}

func previewPlan(ctx context.Context, q postgres.Querier, course uuid.UUID, f PlanForm) (PlanPreview, error) {
	term, err := checkPlan(ctx, q, course, f)
	if err != nil {
		return PlanPreview{}, err
	}
	var out PlanPreview
	days, skipped := f.Days(term.Plan)
	out.Skipped = skipped
	for _, d := range days {
		start, end := f.Slot(d, term.Zone)
		out.Lectures = append(out.Lectures, Proposed{Start: start, End: end})
	}
	return out, clashes(ctx, q, course, term, out.Lectures, func(int) *uuid.UUID { return f.Hall })
}

// AddPlan makes a plan and its lectures, clashes or not, and gives the change by which it
// can be undone. Its error is of type fault.Faults when something is wrong with the plan.
func (s *Service) AddPlan(ctx context.Context, course, by uuid.UUID, f PlanForm) (change uuid.UUID, err error) {
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		p, err := previewPlan(ctx, tx, course, f)
		if err != nil {
			return err
		}
		if change, err = s.begin(ctx, tx, course, by); err != nil {
			return err
		}
		plan, err := s.insertPlan(ctx, tx, course, by, f, false)
		if err != nil {
			return err
		}
		added := make([]added, len(p.Lectures))
		for i, l := range p.Lectures {
			added[i].start, added[i].end, added[i].hall, added[i].topic = l.Start, l.End, f.Hall, f.Topic
		}
		return s.insertLectures(ctx, tx, change, course, plan, f.Choices, added)
	})
	return change, err
}

func (s *Service) insertPlan(ctx context.Context, tx pgx.Tx, course, by uuid.UUID, f PlanForm,
	byDates bool) (uuid.UUID, error) {
	id := uuid.Must(uuid.NewV7())
	weekdays := make([]int, len(f.Weekdays))
	for i, w := range f.Weekdays {
		weekdays[i] = int(w)
	}
	const insert = `insert into plan (id, course_id, hall_id, weekdays, every, at_min, lasts_min, over_breaks, by_dates,
		capture_auto, lead_min, tail_min, doorway, opens_min, made_by, made_at)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16)`
	_, err := tx.Exec(ctx, insert, id, course, f.Hall, weekdays, max(1, f.Every), int(f.At.Minutes()),
		int(f.Lasts.Minutes()), f.OverBreaks, byDates,
		f.CaptureAuto, f.LeadMin, f.TailMin, f.Doorway, f.OpensMin, by, s.Clock.Now())
	if err != nil {
		return id, fmt.Errorf("keep a plan: %w", err)
	}
	return id, nil
}

type added struct {
	start, end time.Time
	hall       *uuid.UUID
	topic      string
	off        bool
}

func (s *Service) insertLectures(ctx context.Context, tx pgx.Tx, change, course, plan uuid.UUID, c Choices,
	list []added) error {
	now := s.Clock.Now()
	batch := &pgx.Batch{}
	for _, l := range list {
		id := uuid.Must(uuid.NewV7())
		var off *time.Time
		if l.off {
			off = &now
		}
		batch.Queue(`insert into lecture (id, course_id, hall_id, starts_at, ends_at, topic, called_off_at, plan_id,
			planned_start, planned_end, capture_auto, lead_min, tail_min, doorway, opens_min, changed_at)
			values ($1, $2, $3, $4, $5, $6, $7, $8, $4, $5, $9, $10, $11, $12, $13, $14)`,
			id, course, l.hall, l.start, l.end, l.topic, off, plan, c.CaptureAuto, c.LeadMin, c.TailMin, c.Doorway,
			c.OpensMin, now)
		batch.Queue(`insert into lecture_was (change_id, lecture_id) values ($1, $2)`, change, id)
	}
	if err := tx.SendBatch(ctx, batch).Close(); err != nil {
		return fmt.Errorf("plan lectures: %w", err)
	}
	return nil
}

// Plan is a plan as it stands: what its sentence says of the lectures that are in it.
type Plan struct {
	ID          uuid.UUID
	HallID      *uuid.UUID
	Hall        string
	Weekdays    []int // time.Weekday
	Every       int
	AtMin       int
	LastsMin    int
	OverBreaks  bool
	ByDates     bool
	CaptureAuto bool
	LeadMin     int
	TailMin     int
	Doorway     doorway.Way
	OpensMin    int
	FirstAt     time.Time // of its lectures, as planned
	LastAt      time.Time
	Lectures    int
	Moved       int
	CalledOff   int
}

// Plans lists the plans of a course that hold lectures, in the order of their beginning.
func (s *Service) Plans(ctx context.Context, course uuid.UUID) ([]Plan, error) {
	const query = `select p.id, p.hall_id, coalesce(h.name, '') as hall, p.weekdays, p.every, p.at_min, p.lasts_min,
		p.over_breaks, p.by_dates, p.capture_auto, p.lead_min, p.tail_min, p.doorway, p.opens_min,
			min(l.planned_start) as first_at, max(l.planned_start) as last_at, count(*) as lectures,
			count(*) filter (where l.planned_start <> l.starts_at) as moved,
			count(*) filter (where l.called_off_at is not null) as called_off
		from plan p join lecture l on l.plan_id = p.id left join hall h on h.id = p.hall_id where p.course_id = $1
		group by p.id, h.name order by first_at, p.id`
	out, err := postgres.All[Plan](ctx, s.DB, query, course)
	if err != nil {
		return nil, fmt.Errorf("list the plans of a course: %w", err)
	}
	return out, nil
}

// Nearest is the lecture that someone means who asks for "the lecture" of a course now; nil
// when none is left.
func Nearest(list []Lecture, now time.Time, zone *time.Location) *Lecture {
	var held []Lecture
	var bookings []timetable.Booking
	for _, l := range list {
		if !l.CalledOff && !l.Unplanned {
			held = append(held, l)
			bookings = append(bookings, timetable.Booking{Start: l.StartsAt, End: l.EndsAt})
		}
	}
	if i := timetable.Nearest(bookings, now, zone); i >= 0 {
		return &held[i]
	}
	return nil
}

// Name is how a lecture is called where its course is known: its topic, or else the title of the course.
func (l Lecture) Name() string { return cmp.Or(l.Topic, l.CourseTitle) }
