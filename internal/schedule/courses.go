package schedule

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/enrol"
	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/naming"
	"latelantern/internal/platform/postgres"
)

// Course is a course of a term.
type Course struct {
	ID        uuid.UUID
	TermID    uuid.UUID
	Code      string
	Title     string
	Lecturers []string
	Halls     []string
	Students  int
	Ruled     bool
}

// courseSQL gathers what belongs to the courses $1 in one pass over each table.
const courseSQL = `select c.id, c.term_id, c.code, c.title, coalesce(m.names, '{}') as lecturers,
	coalesce(h.names, '{}') as halls,
		coalesce(n.students, 0) as students,
		exists (select 1 from viewing_rule v where v.ended_at is null and v.recording_id is null
			and (v.course_id = c.id or v.course_id is null)) as ruled
	from course c
	left join (select course_id, count(*) as students from membership where course_id = any($1) and role = 'student'
	group by 1) n on n.course_id = c.id
	left join (select m.course_id, array_agg(p.name order by p.name) as names from membership m
	join person p on p.id = m.person_id
		where m.course_id = any($1) and m.role = 'lecturer' group by 1) m on m.course_id = c.id
	left join (select x.course_id, array_agg(h.name order by h.name) as names
	from (select distinct course_id, hall_id from lecture where course_id = any($1)) x
		join hall h on h.id = x.hall_id group by 1) h on h.course_id = c.id
	where c.id = any($1) order by c.code`

// Course is the course with this id.
func (s *Service) Course(ctx context.Context, id uuid.UUID) (Course, error) {
	all, err := postgres.All[Course](ctx, s.DB, courseSQL, []uuid.UUID{id})
	if err != nil {
		return Course{}, fmt.Errorf("read a course: %w", err)
	}
	if len(all) == 0 {
		return Course{}, ErrUnknown
	}
	return all[0], nil
}

// CoursesOf lists the courses with these ids by code.
func (s *Service) CoursesOf(ctx context.Context, ids []uuid.UUID) ([]Course, error) {
	out, err := postgres.All[Course](ctx, s.DB, courseSQL, ids)
	if err != nil {
		return nil, fmt.Errorf("list courses: %w", err)
	}
	return out, nil
}

// CourseIDs lists the courses of a term, in no order: all of them, or those a person teaches.
func (s *Service) CourseIDs(ctx context.Context, term uuid.UUID, taughtBy *uuid.UUID) ([]uuid.UUID, error) {
	const query = `select c.id from course c where c.term_id = $1 and ($2::uuid is null or exists (
		select 1 from membership m
		where m.course_id = c.id and m.person_id = $2 and m.role in ('lecturer', 'assistant')))`
	rows, err := s.DB.Query(ctx, query, term, taughtBy)
	if err != nil {
		return nil, fmt.Errorf("list courses: %w", err)
	}
	ids, err := pgx.CollectRows(rows, pgx.RowTo[uuid.UUID])
	if err != nil {
		return nil, fmt.Errorf("list courses: %w", err)
	}
	return ids, nil
}

// Courses lists the courses of a term by code: all of them, or those a person teaches.
func (s *Service) Courses(ctx context.Context, term uuid.UUID, taughtBy *uuid.UUID) ([]Course, error) {
	ids, err := s.CourseIDs(ctx, term, taughtBy)
	if err != nil {
		return nil, err
	}
	return s.CoursesOf(ctx, ids)
}

// CourseForm is a course as someone enters it.
type CourseForm struct {
	Term        uuid.UUID
	Code, Title string
}

// KeepCourse makes a course, or changes the one with this id when it is not the zero value;
// then its term stays. Its error is of type fault.Faults when something is wrong with it.
func (s *Service) KeepCourse(ctx context.Context, id uuid.UUID, in CourseForm) (uuid.UUID, error) {
	err := postgres.InTx(ctx, s.DB, func(tx pgx.Tx) (err error) {
		id, err = s.keepCourse(ctx, tx, id, in)
		return err
	})
	return id, err
}

func (s *Service) keepCourse(ctx context.Context, tx pgx.Tx, id uuid.UUID, in CourseForm) (uuid.UUID, error) {
	var f fault.Faults
	in.Code, in.Title = strings.Join(strings.Fields(in.Code), " "), strings.Join(strings.Fields(in.Title), " ")
	f.When(in.Code == "" || len([]rune(in.Code)) > 60, "code", "course.code")
	f.When(in.Title == "" || len([]rune(in.Title)) > 200, "title", "course.title")
	if err := f.Err(); err != nil {
		return id, err
	}
	if id != uuid.Nil {
		old, err := postgres.Value[uuid.UUID](ctx, tx, `select term_id from course where id = $1 for no key update`, id)
		if errors.Is(err, pgx.ErrNoRows) {
			return id, ErrUnknown
		}
		if err != nil {
			return id, fmt.Errorf("read a course: %w", err)
		}
		in.Term = old
	}
	if _, err := termIn(ctx, tx, in.Term); err != nil {
		return id, err
	}
	taken, err := postgres.Value[bool](ctx, tx,
		`select exists (select 1 from course where term_id = $2 and lower(code) = lower($3) and id <> $1)`, id,
		in.Term, in.Code)
	if err != nil {
		return id, fmt.Errorf("look for a course: %w", err)
	}
	f.When(taken, "code", "course.taken", "code", in.Code)
	if err := f.Err(); err != nil {
		return id, err
	}
	if id == uuid.Nil {
		id = uuid.Must(uuid.NewV7())
	}
	const keep = `insert into course (id, term_id, code, title) values ($1, $2, $3, $4) on conflict (id)
		do update set code = $3, title = $4`
	if _, err := tx.Exec(ctx, keep, id, in.Term, in.Code, in.Title); err != nil {
		return id, fmt.Errorf("keep a course: %w", err)
	}
	return id, postgres.Notify(ctx, tx, postgres.Event{About: event.Timetable, Course: id})
}

// AddCourses adds courses that an import names and that a term does not have yet. One without a title has its code.
func (s *Service) AddCourses(ctx context.Context, tx pgx.Tx, term uuid.UUID, list []enrol.Course) error {
	for _, c := range list {
		const add = `insert into course (id, term_id, code, title) values ($1, $2, $3, $4)`
		if _, err := tx.Exec(ctx, add, uuid.Must(uuid.NewV7()), term, c.Code, cmp.Or(c.Title, c.Code)); err != nil {
			return fmt.Errorf("add a course: %w", err)
		}
	}
	return nil
}

// RemoveCourse removes a course in which nothing is planned and nobody is enrolled. Its error
// is ErrInUse otherwise.
func (s *Service) RemoveCourse(ctx context.Context, id uuid.UUID) error {
	const empty = `select not exists (select 1 from lecture where course_id = $1)
		and not exists (select 1 from membership where course_id = $1)`
	if ok, err := postgres.Value[bool](ctx, s.DB, empty, id); err != nil || !ok {
		return errors.Join(err, ErrInUse)
	}
	return s.remove(ctx, `delete from course where id = $1`, id, "course")
}

// SetNaming keeps the pattern by which titles of a course are made; "" for as usual. Its error is a
// fault.Faults of the field pattern.
func (s *Service) SetNaming(ctx context.Context, course uuid.UUID, pattern string) error {
	p, err := naming.Parse(pattern)
	if err != nil {
		return err
	}
	text := p.String()
	if text == naming.Default {
		text = ""
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, `update course set title_pattern = $2 where id = $1`, course, text)
		if err != nil {
			return fmt.Errorf("keep how titles are made: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return ErrUnknown
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Timetable, Course: course})
	})
}

// Namings are the patterns by which titles of courses are made, as people write them.
func (s *Service) Namings(ctx context.Context, courses []uuid.UUID) (map[uuid.UUID]string, error) {
	type row struct {
		ID      uuid.UUID
		Pattern string
	}
	rows, err := postgres.All[row](ctx, s.DB, `select id, title_pattern as pattern from course where id = any($1)`,
		courses)
	if err != nil {
		return nil, fmt.Errorf("read how titles are made: %w", err)
	}
	out := map[uuid.UUID]string{}
	for _, r := range rows {
		out[r.ID] = cmp.Or(r.Pattern, naming.Default)
	}
	return out, nil
}

// Recorded lists the lectures of courses of which there is a recording, in order, each recording
// in a row of its own, also one that holds nothing.
func (s *Service) Recorded(ctx context.Context, courses []uuid.UUID) ([]Lecture, error) {
	all, err := s.lectures(ctx, len(courses) <= fewCourses, "l.course_id = any($1)", courses)
	if err != nil {
		return nil, fmt.Errorf("list what was recorded: %w", err)
	}
	return slices.DeleteFunc(all, func(l Lecture) bool { return l.RecordingID == nil }), nil
}
