package schedule

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/doorway"
	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/timetable"
	"latelantern/internal/platform/postgres"
)

// ErrChanged says that a change can no longer be undone: something of it was changed again,
// or was captured.
var ErrChanged = fault.Code("changed")

// Edit is what someone changes of a lecture. What is nil stays as it is.
type Edit struct {
	Later     bool // of all later lectures of its plan too
	Day       *timetable.Day
	At        *time.Duration // time of day
	Lasts     *time.Duration
	Hall      *uuid.UUID // the zero value for none
	Topic     *string    // of this lecture alone
	CalledOff *bool
	Doorway   *doorway.Way
	OpensMin  *int
	Capture   *bool
	LeadMin   *int
	TailMin   *int
}

// moves reports whether e changes time or place.
func (e Edit) moves() bool { return e.Day != nil || e.At != nil || e.Lasts != nil || e.Hall != nil }

func set[T any](to *T, v *T) {
	if v != nil {
		*to = *v
	}
}

// choices is c with what e changes of it.
func (e Edit) choices(c Choices) Choices {
	set(&c.Doorway, e.Doorway)
	set(&c.OpensMin, e.OpensMin)
	set(&c.CaptureAuto, e.Capture)
	set(&c.LeadMin, e.LeadMin)
	set(&c.TailMin, e.TailMin)
	return c
}

// one is a lecture that an edit is about.
type one struct {
	ID           uuid.UUID
	CourseID     uuid.UUID
	PlanID       *uuid.UUID
	HallID       *uuid.UUID
	StartsAt     time.Time
	EndsAt       time.Time
	PlannedStart *time.Time
	Topic        string
	CalledOffAt  *time.Time
	Doorway      doorway.Way
	OpensMin     int
	CaptureAuto  bool
	LeadMin      int
	TailMin      int
	Captured     bool
}

const oneSQL = `select l.id, l.course_id, l.plan_id, l.hall_id, l.starts_at, l.ends_at, l.planned_start, l.topic,
	l.called_off_at, l.doorway, l.opens_min, l.capture_auto, l.lead_min, l.tail_min,
	exists (select 1 from capture c where c.lecture_id = l.id) as captured from lecture l`

// edited is an edit worked out.
type edited struct {
	term  Term
	first one
	list  []one
	after []Proposed
	halls []*uuid.UUID
}

// workOut finds what an edit would do. With lock the lectures are held until the transaction ends.
func workOut(ctx context.Context, q postgres.Querier, lecture uuid.UUID, e Edit, lock string) (edited, error) {
	var w edited
	var err error
	if w.first, err = postgres.One[one](ctx, q, oneSQL+` where l.id = $1 `+lock, lecture); errors.Is(err,
		pgx.ErrNoRows) {
		return w, ErrUnknown
	}
	if err != nil {
		return w, fmt.Errorf("read a lecture: %w", err)
	}
	if w.term, err = termOf(ctx, q, w.first.CourseID); err != nil {
		return w, err
	}
	w.list = []one{w.first}
	if e.Later && w.first.PlanID != nil {
		w.list, err = postgres.All[one](ctx, q,
			oneSQL+` where l.plan_id = $1 and l.starts_at >= $2 order by l.starts_at, l.id `+lock, w.first.PlanID,
			w.first.StartsAt)
		if err != nil {
			return w, fmt.Errorf("list the later lectures of a plan: %w", err)
		}
	}
	var shift timetable.Shift
	shift.At, shift.Lasts = e.At, e.Lasts
	if e.Day != nil {
		shift.Days = int(e.Day.Sub(timetable.DayOf(w.first.StartsAt, w.term.Zone)).Hours()) / 24
	}
	held := make([]timetable.Held, len(w.list))
	for i, l := range w.list {
		held[i] = timetable.Held{ID: l.ID.String(), Start: l.StartsAt, End: l.EndsAt, Captured: l.Captured,
			Moved: l.PlannedStart != nil && !l.PlannedStart.Equal(l.StartsAt)}
	}
	// Of two at the same time the one that was asked about comes first.
	at := slices.IndexFunc(held, func(h timetable.Held) bool { return h.ID == lecture.String() })
	held[0], held[at], w.list[0], w.list[at] = held[at], held[0], w.list[at], w.list[0]
	var f fault.Faults
	f.When(e.Lasts != nil && *e.Lasts <= 0, "ends", "plan.turned")
	f.When(e.Lasts != nil && *e.Lasts > 24*time.Hour, "ends", "plan.day_long")
	e.choices(Choices{w.first.Doorway, w.first.OpensMin, w.first.CaptureAuto, w.first.LeadMin,
		w.first.TailMin}).check(&f)
	f.When(e.Topic != nil && len([]rune(*e.Topic)) > 200, "topic", "lecture.topic")
	if err := f.Err(); err != nil {
		return w, err
	}
	moves := timetable.ShiftLater(held, lecture.String(), shift, w.term.Zone)
	for i, m := range moves {
		hall := w.list[i].HallID
		if e.Hall != nil && !m.Stays {
			hall = e.Hall
			if *e.Hall == uuid.Nil {
				hall = nil
			}
		}
		w.halls = append(w.halls, hall)
		w.after = append(w.after,
			Proposed{Lecture: w.list[i].ID, Start: m.Start, End: m.End, Was: w.list[i].StartsAt,
				Stays: m.Stays && e.moves()})
		day := timetable.DayOf(m.Start, w.term.Zone)
		f.When(!w.term.Plan.Contains(day) && !m.Start.Equal(w.list[i].StartsAt) && len(f) == 0, "day",
			"lecture.outside",
			"day", fault.Day{Time: day}, "first", fault.Day{Time: w.term.Plan.First}, "last",
			fault.Day{Time: w.term.Plan.Last})
	}
	return w, f.Err()
}

// PreviewEdit says what an edit would do, and what would clash. Its error is of type
// fault.Faults when something is wrong with it.
func (s *Service) PreviewEdit(ctx context.Context, lecture uuid.UUID, e Edit) ([]Proposed, error) {
	w, err := workOut(ctx, s.DB, lecture, e, "")
	if err != nil {
		return nil, err
	}
	return w.after, clashes(ctx, s.DB, w.first.CourseID, w.term, w.after, func(i int) *uuid.UUID { return w.halls[i] })
}

// Edit changes a lecture, or it and all later ones of its plan, and gives the change by which
// that can be undone. Their addresses stay. Its error is of type fault.Faults when something
// is wrong.
func (s *Service) Edit(ctx context.Context, lecture, by uuid.UUID, e Edit) (change uuid.UUID, err error) {
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		w, err := workOut(ctx, tx, lecture, e, "for no key update of l")
		if err != nil {
			return err
		}
		if change, err = s.begin(ctx, tx, w.first.CourseID, by); err != nil {
			return err
		}
		ids := make([]uuid.UUID, len(w.list))
		for i, l := range w.list {
			ids[i] = l.ID
		}
		if _, err := tx.Exec(ctx,
			`insert into lecture_was (change_id, lecture_id, was) select $1, l.id, to_jsonb(l) from lecture l
				where l.id = any($2)`, change, ids); err != nil {
			return fmt.Errorf("remember lectures before a change: %w", err)
		}
		plan := w.first.PlanID
		if e.Later && plan != nil {
			if plan, err = s.split(ctx, tx, *plan, by, w, e); err != nil {
				return err
			}
		}
		return s.apply(ctx, tx, w, e, plan)
	})
	return change, err
}

// apply writes an edit that was worked out.
func (s *Service) apply(ctx context.Context, tx pgx.Tx, w edited, e Edit, plan *uuid.UUID) error {
	now := s.Clock.Now()
	batch := &pgx.Batch{}
	for i, p := range w.after {
		l := w.list[i]
		if e.Topic != nil && l.ID == w.first.ID {
			l.Topic = strings.Join(strings.Fields(*e.Topic), " ")
		}
		if e.CalledOff != nil && !l.Captured {
			switch {
			case !*e.CalledOff:
				l.CalledOffAt = nil
			case l.CalledOffAt == nil:
				l.CalledOffAt = &now
			}
		}
		c := e.choices(Choices{l.Doorway, l.OpensMin, l.CaptureAuto, l.LeadMin, l.TailMin})
		batch.Queue(`update lecture
			set starts_at = $2, ends_at = $3, hall_id = $4, topic = $5, called_off_at = $6, doorway = $7,
			opens_min = $8, capture_auto = $9, lead_min = $10, tail_min = $11,
				plan_id = $12, planned_start = case when $13 then $2 else planned_start end, planned_end = case
				when $13 then $3 else planned_end end, sequence = sequence + 1, changed_at = $14
			where id = $1`, l.ID, p.Start, p.End, w.halls[i], l.Topic, l.CalledOffAt, c.Doorway, c.OpensMin,
			c.CaptureAuto, c.LeadMin, c.TailMin, plan, e.Later && !p.Stays && e.moves(), now)
	}
	if err := tx.SendBatch(ctx, batch).Close(); err != nil {
		return fmt.Errorf("change lectures: %w", err)
	}
	return nil
}

// split makes a plan of its own for the later lectures of one, so that the sentences of both stay true.
func (s *Service) split(ctx context.Context, tx pgx.Tx, plan, by uuid.UUID, w edited, e Edit) (*uuid.UUID, error) {
	id := uuid.Must(uuid.NewV7())
	const copied = `insert into plan (id, course_id, hall_id, weekdays, every, at_min, lasts_min, over_breaks, by_dates,
		capture_auto, lead_min, tail_min, doorway, opens_min, made_by, made_at)
		select $2, course_id, case when $3 then $4
		else hall_id end, $5, every, coalesce($6, at_min), coalesce($7, lasts_min), over_breaks, by_dates,
			coalesce($8, capture_auto), coalesce($9, lead_min), coalesce($10, tail_min), coalesce($11, doorway),
			coalesce($12, opens_min), $13, $14 from plan where id = $1`
	weekdays := map[int]bool{}
	for _, p := range w.after {
		if !p.Stays {
			weekdays[int(timetable.DayOf(p.Start, w.term.Zone).Weekday())] = true
		}
	}
	var days []int
	for d := 1; d <= 7; d++ {
		if weekdays[d%7] {
			days = append(days, d%7)
		}
	}
	minutes := func(d *time.Duration) *int {
		if d == nil {
			return nil
		}
		m := int(d.Minutes())
		return &m
	}
	_, err := tx.Exec(ctx, copied, plan, id, e.Hall != nil, w.halls[0], days, minutes(e.At), minutes(e.Lasts),
		e.Capture, e.LeadMin, e.TailMin, e.Doorway, e.OpensMin, by, s.Clock.Now())
	if err != nil {
		return nil, fmt.Errorf("split a plan: %w", err)
	}
	return &id, nil
}

// begin notes that the timetable of a course changes.
func (s *Service) begin(ctx context.Context, tx pgx.Tx, course, by uuid.UUID) (uuid.UUID, error) {
	id := uuid.Must(uuid.NewV7())
	if _, err := tx.Exec(ctx, `insert into timetable_change (id, course_id, made_by, made_at) values ($1, $2, $3, $4)`,
		id, course, by, s.Clock.Now()); err != nil {
		return id, fmt.Errorf("note a change of the timetable: %w", err)
	}
	return id, postgres.Notify(ctx, tx, postgres.Event{About: event.Timetable, Course: course})
}

// RemovePlan takes away those lectures of a plan that nobody has captured, and gives the
// change by which that can be undone.
func (s *Service) RemovePlan(ctx context.Context, course, plan, by uuid.UUID) (change uuid.UUID, err error) {
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const gone = `select l.id from lecture l
			where l.plan_id = $1 and l.course_id = $2
			and not exists (select 1 from capture c where c.lecture_id = l.id) for no key update`
		rows, err := tx.Query(ctx, gone, plan, course)
		if err != nil {
			return fmt.Errorf("list the lectures of a plan: %w", err)
		}
		ids, err := pgx.CollectRows(rows, pgx.RowTo[uuid.UUID])
		if err != nil {
			return fmt.Errorf("list the lectures of a plan: %w", err)
		}
		if len(ids) == 0 {
			return ErrUnknown
		}
		if change, err = s.begin(ctx, tx, course, by); err != nil {
			return err
		}
		if _, err := tx.Exec(ctx,
			`insert into lecture_was (change_id, lecture_id, was) select $1, l.id, to_jsonb(l) from lecture l
				where l.id = any($2)`, change, ids); err != nil {
			return fmt.Errorf("remember lectures before a change: %w", err)
		}
		if _, err := tx.Exec(ctx, `delete from lecture where id = any($1)`, ids); err != nil {
			return fmt.Errorf("remove a plan: %w", err)
		}
		return nil
	})
	return change, err
}

// columns of a lecture that an undo puts back: all that people can change.
var columns = []string{"hall_id", "starts_at", "ends_at", "topic", "called_off_at", "plan_id", "planned_start",
	"planned_end", "capture_auto", "lead_min", "tail_min", "doorway", "opens_min"}

// Undo puts the lectures of a change back to where they were. Its error is ErrChanged when
// that is no longer possible.
func (s *Service) Undo(ctx context.Context, course, change, by uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		now := s.Clock.Now()
		tag, err := tx.Exec(ctx,
			`update timetable_change set undone_at = $3 where id = $1 and course_id = $2 and undone_at is null`, change,
			course, now)
		if err != nil {
			return fmt.Errorf("undo a change: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return ErrUnknown
		}
		const again = `select exists (select 1 from lecture_was w
			join lecture_was o on o.lecture_id = w.lecture_id and o.change_id > w.change_id
				join timetable_change c on c.id = o.change_id and c.undone_at is null where w.change_id = $1)
			or exists (select 1 from lecture_was w join capture c on c.lecture_id = w.lecture_id
			where w.change_id = $1 and w.was is null)`
		if changed, err := postgres.Value[bool](ctx, tx, again, change); err != nil || changed {
			return errors.Join(err, ErrChanged)
		}
		var same, from []string
		for _, c := range columns {
			same = append(same, c+" = o."+c)
			from = append(from, "o."+c)
		}
		const was = ` from lecture_was w cross join lateral jsonb_populate_record(null::lecture, w.was) o
			where w.change_id = $1 and w.was is not null`
		for _, sql := range []string{
			`delete from lecture l using lecture_was w
				where w.change_id = $1 and w.was is null and l.id = w.lecture_id and $2::timestamptz is not null`,
			`update lecture l set ` + strings.Join(same, ", ") + `, sequence = l.sequence + 1, changed_at = $2` + was +
				` and l.id = w.lecture_id`,
			`insert into lecture (id, course_id, sequence, changed_at, ` + strings.Join(columns, ", ") +
				`) select o.id, o.course_id, o.sequence + 1, $2::timestamptz, ` + strings.Join(from, ", ") + was +
				` and not exists (select 1 from lecture l where l.id = o.id)`,
		} {
			if _, err := tx.Exec(ctx, sql, change, now); err != nil {
				return fmt.Errorf("undo a change: %w", err)
			}
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Timetable, Course: course})
	})
}
