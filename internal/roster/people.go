package roster

import (
	"context"
	"errors"
	"fmt"
	"net/mail"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/enrol"
	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// ErrLast says that the college would be left without a coordinator.
var ErrLast = fault.Code("last_coordinator")

// Listed is a person in the list of all people.
type Listed struct {
	ID          uuid.UUID
	Email       string
	Name        string
	Coordinator bool
	Active      bool
	Closed      bool
	InvitedAt   *time.Time
	Courses     int
}

// People lists people whose name or address has the given words in it, by name, and says how
// many there are. Guests are not among them. At most 200 are listed.
func (s *Service) People(ctx context.Context, words string, inactive bool) (list []Listed, all int, err error) {
	const where = ` from person_account p
		where not p.guest
		and ($1 = '' or position(lower($1) in lower(p.name)) > 0 or position(lower($1) in p.email) > 0)
		and (not $2 or not p.active)`
	words = strings.TrimSpace(words)
	if all, err = postgres.Value[int](ctx, s.DB, `select count(*)`+where, words, inactive); err != nil {
		return nil, 0, fmt.Errorf("count people: %w", err)
	}
	list, err = postgres.All[Listed](ctx, s.DB,
		`select p.id, p.email, p.name, p.coordinator, p.active, p.closed, p.invited_at,
		(select count(*) from membership m where m.person_id = p.id) as courses`+where+
			` order by p.name, p.email limit 200`, words, inactive)
	if err != nil {
		return nil, 0, fmt.Errorf("list people: %w", err)
	}
	return list, all, nil
}

// Named are people with an open account whose name has the given words in it, or whose address they are, by name; at
// most 20, and nobody for a single letter.
func (s *Service) Named(ctx context.Context, words string) ([]Listed, error) {
	const query = `select p.id, p.email, p.name, p.coordinator, p.active, p.closed, p.invited_at, 0 as courses
		from person_account p where not p.guest and not p.closed and char_length($1) > 1
		and (position(lower($1) in lower(p.name)) > 0 or lower($1) = p.email) order by p.name, p.email limit 20`
	list, err := postgres.All[Listed](ctx, s.DB, query, strings.TrimSpace(words))
	if err != nil {
		return nil, fmt.Errorf("find people to name: %w", err)
	}
	return list, nil
}

// SetCoordinator says whether a person coordinates the college. Its error is ErrLast when
// nobody would be left who does.
func (s *Service) SetCoordinator(ctx context.Context, person uuid.UUID, yes bool) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if err := s.HoldCoordinators(ctx, tx); err != nil {
			return err
		}
		tag, err := tx.Exec(ctx, `update person set coordinator = $2 where id = $1 and not guest`, person, yes)
		if err != nil {
			return fmt.Errorf("name a coordinator: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return ErrUnknown
		}
		return s.Coordinated(ctx, tx)
	})
}

// Found makes a person a coordinator, whoever else is: the first of a college in which nobody has an account.
func (s *Service) Found(ctx context.Context, person uuid.UUID) error {
	if _, err := s.DB.Exec(ctx, `update person set coordinator = true where id = $1`, person); err != nil {
		return fmt.Errorf("name a coordinator: %w", err)
	}
	return nil
}

// HoldCoordinators keeps those who coordinate the college from changing until tx ends.
func (s *Service) HoldCoordinators(ctx context.Context, tx pgx.Tx) error {
	if _, err := tx.Exec(ctx, `select 1 from person where coordinator for no key update`); err != nil {
		return fmt.Errorf("hold the coordinators: %w", err)
	}
	return nil
}

// Coordinated is ErrLast unless someone coordinates the college who can sign in.
func (s *Service) Coordinated(ctx context.Context, tx pgx.Tx) error {
	const query = `select exists (select 1 from person_account where coordinator and active and not closed)`
	left, err := postgres.Value[bool](ctx, tx, query)
	if err != nil {
		return fmt.Errorf("count the coordinators: %w", err)
	}
	if !left {
		return ErrLast
	}
	return nil
}

// Tell tells those who teach a person that something of the person changed.
func (s *Service) Tell(ctx context.Context, tx pgx.Tx, person uuid.UUID) error {
	return tell(ctx, tx, `select course_id from membership where person_id = $1`, person)
}

// tell tells those who teach the courses that a query gives that their roster changed.
func tell(ctx context.Context, tx pgx.Tx, courses string, args ...any) error {
	list, err := postgres.Values[uuid.UUID](ctx, tx, courses, args...)
	if err != nil {
		return fmt.Errorf("list courses whose roster changed: %w", err)
	}
	for _, c := range list {
		if err := postgres.Notify(ctx, tx, postgres.Event{About: event.Roster, Course: c}); err != nil {
			return err
		}
	}
	return nil
}

// PersonForm is a person as someone enters them.
type PersonForm struct {
	Email, Name string
}

func (f *PersonForm) check(out *fault.Faults) {
	f.Email, f.Name = strings.ToLower(strings.TrimSpace(f.Email)), strings.Join(strings.Fields(f.Name), " ")
	a, err := mail.ParseAddress(f.Email)
	out.When(err != nil || a.Address != f.Email || len(f.Email) > 254, "email", "person.email")
	out.When(f.Name == "" || len([]rune(f.Name)) > 200, "name", "person.name")
}

// ensure gives the person with an address, made if need be. One who is there keeps their name.
func ensure(ctx context.Context, tx pgx.Tx, f PersonForm) (uuid.UUID, error) {
	const keep = `insert into person (id, email, name) values ($1, $2, $3) on conflict (email)
		do update set email = excluded.email returning id`
	id, err := postgres.Value[uuid.UUID](ctx, tx, keep, uuid.Must(uuid.NewV7()), f.Email, f.Name)
	if err != nil {
		return id, fmt.Errorf("add a person: %w", err)
	}
	return id, nil
}

// AddPerson adds a person to the college. One who is there already keeps their name.
func (s *Service) AddPerson(ctx context.Context, f PersonForm) (id uuid.UUID, err error) {
	var faults fault.Faults
	f.check(&faults)
	if err := faults.Err(); err != nil {
		return id, err
	}
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		id, err = ensure(ctx, tx, f)
		return err
	})
	return id, err
}

// ErrRoles says that someone who assists cannot say who teaches a course.
var ErrRoles = fault.Code("roles")

// mayGive refuses by who may not give or take these roles in a course.
func mayGive(ctx context.Context, tx pgx.Tx, by Person, course uuid.UUID, roles ...viewing.Role) error {
	if by.Coordinator {
		return nil
	}
	own, err := roleIn(ctx, tx, course, by.ID)
	if err != nil {
		return err
	}
	for _, role := range roles {
		if !enrol.May(own, role) {
			return ErrRoles
		}
	}
	return nil
}

// roleIn is the role of a person in a course; viewing.Nobody for none. The row is held.
func roleIn(ctx context.Context, tx pgx.Tx, course, person uuid.UUID) (viewing.Role, error) {
	const query = `select role from membership where course_id = $1 and person_id = $2 for no key update`
	role, err := postgres.Value[viewing.Role](ctx, tx, query, course, person)
	if errors.Is(err, pgx.ErrNoRows) {
		return viewing.Nobody, nil
	}
	if err != nil {
		return role, fmt.Errorf("look up a role in a course: %w", err)
	}
	return role, nil
}

// Enrol gives a person a role in a course. Its error is of type fault.Faults when something
// is wrong with what was entered, and ErrRoles when that is not for by to say.
func (s *Service) Enrol(ctx context.Context, by Person, course uuid.UUID, f PersonForm, role viewing.Role,
	group string) (id uuid.UUID, err error) {
	var faults fault.Faults
	f.check(&faults)
	faults.When(role != viewing.Lecturer && role != viewing.Assistant && role != viewing.Student, "role", "person.role")
	group = strings.Join(strings.Fields(group), " ")
	faults.When(len([]rune(group)) > 100, "group", "group.long")
	if err := faults.Err(); err != nil {
		return id, err
	}
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if id, err = ensure(ctx, tx, f); err != nil {
			return err
		}
		was, err := roleIn(ctx, tx, course, id)
		if err == nil {
			err = mayGive(ctx, tx, by, course, was, role)
		}
		if err != nil {
			return err
		}
		const keep = `insert into membership (course_id, person_id, role, group_name) values ($1, $2, $3, $4)
			on conflict (course_id, person_id) do update set role = $3, group_name = $4`
		if _, err := tx.Exec(ctx, keep, course, id, role, group); err != nil {
			return fmt.Errorf("enrol a person: %w", err)
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Roster, Course: course})
	})
	return id, err
}

// TakeOff takes a person off the roster of a course. From then on they see nothing of it. Its error is ErrRoles when
// that is not for by to say.
func (s *Service) TakeOff(ctx context.Context, by Person, course, person uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		was, err := roleIn(ctx, tx, course, person)
		if err == nil {
			err = mayGive(ctx, tx, by, course, was)
		}
		if err != nil {
			return err
		}
		tag, err := tx.Exec(ctx, `delete from membership where course_id = $1 and person_id = $2`, course, person)
		if err != nil {
			return fmt.Errorf("take a person off a roster: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return ErrUnknown
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Roster, Course: course})
	})
}

// AddGuest adds a person who has no account: who is invited to a lecture by a link.
func (s *Service) AddGuest(ctx context.Context, tx pgx.Tx, name string) (uuid.UUID, error) {
	id := uuid.Must(uuid.NewV7())
	if _, err := tx.Exec(ctx, `insert into person (id, name, guest) values ($1, $2, true)`, id, name); err != nil {
		return id, fmt.Errorf("add a guest: %w", err)
	}
	return id, nil
}
