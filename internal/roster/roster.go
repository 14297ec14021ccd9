// Package roster knows people: who they are, how they sign in, and what role they have in which course.
package roster

import (
	"context"
	"errors"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/enrol"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
)

// Courses is what the roster needs of the schedule.
type Courses interface {
	// AddCourses adds courses that an import names and that a term does not have yet.
	AddCourses(ctx context.Context, tx pgx.Tx, term uuid.UUID, list []enrol.Course) error
}

// Service keeps people and their roles in courses. All its fields are needed. It may be used by many at once. A call
// whose context ends gives its error and has changed nothing.
type Service struct {
	DB      *pgxpool.Pool
	Courses Courses
	Clock   clock.Clock
	Watch   Watch
}

// Person is one person of the college.
type Person struct {
	ID          uuid.UUID
	Email       string // "" for a guest
	Name        string
	Coordinator bool
	Guest       bool
	SessionEra  int    // sessions of an earlier one are void
	Closed      bool   // nobody signs in to the account
	Language    string // in which they read; "" for who has chosen none
}

// Teaches is whose courses the person sees as one who teaches: their own, or with nil, for coordinators, all.
func (p Person) Teaches() *uuid.UUID {
	if p.Coordinator {
		return nil
	}
	return &p.ID
}

const personSQL = `select id, email, name, coordinator, guest, session_era, closed, language from person_account `

// Membership is the role a person has in a course.
type Membership struct {
	CourseID uuid.UUID
	Code     string
	Title    string
	Role     viewing.Role
	Group    string
}

// ErrUnknown says that there is no such person.
var ErrUnknown = fault.Code("person.unknown")

// Person is the person with this id. Its error is ErrUnknown for none.
func (s *Service) Person(ctx context.Context, id uuid.UUID) (Person, error) {
	p, err := postgres.One[Person](ctx, s.DB, personSQL+`where id = $1`, id)
	if errors.Is(err, pgx.ErrNoRows) {
		return p, ErrUnknown
	}
	if err != nil {
		return p, fmt.Errorf("look up a person: %w", err)
	}
	return p, nil
}

// Memberships lists the courses of a person by code.
func (s *Service) Memberships(ctx context.Context, person uuid.UUID) ([]Membership, error) {
	const query = `select m.course_id, c.code, c.title, m.role, m.group_name as group
		from membership m join course c on c.id = m.course_id where m.person_id = $1 order by c.code`
	out, err := postgres.All[Membership](ctx, s.DB, query, person)
	if err != nil {
		return nil, fmt.Errorf("list the courses of a person: %w", err)
	}
	return out, nil
}

// Viewer is how a course knows a person. It is asked anew at each request, so that someone
// taken off a roster is out at once.
func (s *Service) Viewer(ctx context.Context, person, course uuid.UUID) (viewing.Viewer, error) {
	const query = `select p.coordinator, coalesce(m.role, '') as role, coalesce(m.group_name, '') as "group"
		from person p left join membership m on m.person_id = p.id and m.course_id = $2 where p.id = $1`
	v, err := postgres.One[viewing.Viewer](ctx, s.DB, query, person, course)
	if errors.Is(err, pgx.ErrNoRows) {
		return v, ErrUnknown
	}
	if err != nil {
		return v, fmt.Errorf("look up a part in a course: %w", err)
	}
	return v, nil
}

// Groups lists the groups of a course that have students.
func (s *Service) Groups(ctx context.Context, course uuid.UUID) ([]string, error) {
	rows, err := s.DB.Query(ctx,
		`select distinct group_name from membership where course_id = $1 and role = 'student' and group_name <> ''
			order by 1`, course)
	if err != nil {
		return nil, fmt.Errorf("list the groups of a course: %w", err)
	}
	out, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil {
		return nil, fmt.Errorf("list the groups of a course: %w", err)
	}
	return out, nil
}
