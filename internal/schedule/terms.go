package schedule

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/timetable"
	"latelantern/internal/platform/postgres"
)

// ErrInUse says that something cannot be removed because other things stand on it.
var ErrInUse = fault.Code("in_use")

// Term is a term with its weeks.
type Term struct {
	ID    uuid.UUID
	Name  string
	Zone  *time.Location
	Plan  timetable.Term
	Weeks []timetable.Week

	Courses int
}

// Week is the week of the term in which a time lies; its number is 0 outside the term or in a break.
func (t Term) Week(at time.Time) timetable.Week {
	monday := timetable.Monday(timetable.DayOf(at, t.Zone))
	if len(t.Weeks) > 0 {
		if n := int(monday.Sub(t.Weeks[0].Monday).Hours()+12) / (7 * 24); !monday.Before(t.Weeks[0].Monday) &&
			n < len(t.Weeks) {
			return t.Weeks[n]
		}
	}
	return timetable.Week{Monday: monday}
}

// CurrentTerm is the term under way, or else the next, or else the last.
func (s *Service) CurrentTerm(ctx context.Context) (Term, error) {
	const query = `select id from term
		order by case when $1::date between first_day and last_day then 0 when first_day > $1::date then 1 else 2 end,
		case when first_day > $1::date then first_day - $1::date else $1::date - last_day end limit 1`
	id, err := postgres.Value[uuid.UUID](ctx, s.DB, query, s.Clock.Now())
	if errors.Is(err, pgx.ErrNoRows) {
		return Term{}, ErrUnknown
	}
	if err != nil {
		return Term{}, fmt.Errorf("find the current term: %w", err)
	}
	return s.Term(ctx, id)
}

// Term is the term with this id.
func (s *Service) Term(ctx context.Context, id uuid.UUID) (Term, error) {
	return termIn(ctx, s.DB, id)
}

// TermOf is the term of a course.
func (s *Service) TermOf(ctx context.Context, course uuid.UUID) (Term, error) {
	return termOf(ctx, s.DB, course)
}

func termOf(ctx context.Context, q postgres.Querier, course uuid.UUID) (Term, error) {
	id, err := postgres.Value[uuid.UUID](ctx, q, `select term_id from course where id = $1`, course)
	if errors.Is(err, pgx.ErrNoRows) {
		return Term{}, ErrUnknown
	}
	if err != nil {
		return Term{}, fmt.Errorf("find the term of a course: %w", err)
	}
	return termIn(ctx, q, id)
}

func termIn(ctx context.Context, q postgres.Querier, id uuid.UUID) (Term, error) {
	type rowOf struct {
		Name              string
		FirstDay, LastDay time.Time
		Zone              string
		Courses           int
	}
	row, err := postgres.One[rowOf](ctx, q,
		`select name, first_day, last_day, zone, (select count(*) from course c where c.term_id = t.id) as courses
			from term t where id = $1`, id)
	if errors.Is(err, pgx.ErrNoRows) {
		return Term{}, ErrUnknown
	}
	if err != nil {
		return Term{}, fmt.Errorf("read a term: %w", err)
	}
	breaks, err := postgres.All[rowOf](ctx, q,
		`select first_day, last_day, name, '' as zone, 0 as courses from term_break where term_id = $1
			order by first_day`, id)
	if err != nil {
		return Term{}, fmt.Errorf("read the breaks of a term: %w", err)
	}
	zone, err := time.LoadLocation(row.Zone)
	if err != nil {
		return Term{}, fmt.Errorf("read the zone of a term: %w", err)
	}
	t := Term{ID: id, Name: row.Name, Zone: zone, Courses: row.Courses,
		Plan: timetable.Term{First: row.FirstDay, Last: row.LastDay}}
	for _, b := range breaks {
		t.Plan.Breaks = append(t.Plan.Breaks, timetable.Break{First: b.FirstDay, Last: b.LastDay, Name: b.Name})
	}
	t.Weeks = t.Plan.Weeks()
	return t, nil
}

// Terms lists all terms, the newest first.
func (s *Service) Terms(ctx context.Context) ([]Term, error) {
	rows, err := s.DB.Query(ctx, `select id from term order by first_day desc`)
	if err != nil {
		return nil, fmt.Errorf("list terms: %w", err)
	}
	ids, err := pgx.CollectRows(rows, pgx.RowTo[uuid.UUID])
	if err != nil {
		return nil, fmt.Errorf("list terms: %w", err)
	}
	out := make([]Term, len(ids))
	for i, id := range ids {
		if out[i], err = s.Term(ctx, id); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// TermForm is a term as someone enters it.
type TermForm struct {
	Name string
	Zone string // of the IANA database
	timetable.Term
}

func (f *TermForm) check() (fault.Faults, error) {
	var out fault.Faults
	f.Name = strings.Join(strings.Fields(f.Name), " ")
	out.When(f.Name == "" || len([]rune(f.Name)) > 80, "name", "term.name")
	if _, err := time.LoadLocation(f.Zone); err != nil || f.Zone == "" || f.Zone == "Local" {
		out.Add("zone", "term.zone", "zone", f.Zone)
	}
	var more fault.Faults
	if err := f.Check(); errors.As(err, &more) {
		out = append(out, more...)
	} else if err != nil {
		return out, err
	}
	return out, nil
}

// KeepTerm makes a term, or changes the one with this id when it is not the zero value. Its
// error is of type fault.Faults when something is wrong with what was entered: the term overlaps
// another, or planned lectures would lie outside it.
func (s *Service) KeepTerm(ctx context.Context, id uuid.UUID, f TermForm) (uuid.UUID, error) {
	faults, err := f.check()
	if err := errors.Join(err, faults.Err()); err != nil {
		return id, err
	}
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `lock table term in share row exclusive mode`); err != nil {
			return fmt.Errorf("hold the terms: %w", err)
		}
		other, err := postgres.Value[string](ctx, tx,
			`select coalesce(min(name), '') from term where id <> $1 and first_day <= $3 and last_day >= $2`, id,
			f.First, f.Last)
		if err != nil {
			return fmt.Errorf("look for terms at the same time: %w", err)
		}
		faults.When(other != "", "first_day", "term.overlaps", "term", other)
		if id != uuid.Nil {
			if err := s.changeTerm(ctx, tx, id, f, &faults); err != nil {
				return err
			}
		}
		if len(faults) > 0 {
			return faults
		}
		if id == uuid.Nil {
			id = uuid.Must(uuid.NewV7())
		}
		const keep = `insert into term (id, name, first_day, last_day, zone) values ($1, $2, $3, $4, $5)
			on conflict (id) do update set name = $2, first_day = $3, last_day = $4, zone = $5`
		if _, err := tx.Exec(ctx, keep, id, f.Name, f.First, f.Last, f.Zone); err != nil {
			return fmt.Errorf("keep a term: %w", err)
		}
		if _, err := tx.Exec(ctx, `delete from term_break where term_id = $1`, id); err != nil {
			return fmt.Errorf("keep the breaks of a term: %w", err)
		}
		for _, b := range f.Breaks {
			if _, err := tx.Exec(ctx,
				`insert into term_break (term_id, first_day, last_day, name) values ($1, $2, $3, $4)`, id, b.First,
				b.Last, b.Name); err != nil {
				return fmt.Errorf("keep the breaks of a term: %w", err)
			}
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Term})
	})
	return id, err
}

// changeTerm says what speaks against changing a term that is there.
func (s *Service) changeTerm(ctx context.Context, tx pgx.Tx, id uuid.UUID, f TermForm, faults *fault.Faults) error {
	old, err := termIn(ctx, tx, id)
	if err != nil {
		return err
	}
	const outside = `select count(*) filter (where (l.starts_at at time zone $2)::date < $3) as early,
		count(*) filter (where (l.starts_at at time zone $2)::date > $4) as late, count(*) as all_of
		from lecture l join course k on k.id = l.course_id where k.term_id = $1`
	n, err := postgres.One[struct{ Early, Late, AllOf int }](ctx, tx, outside, id, old.Zone.String(), f.First, f.Last)
	if err != nil {
		return fmt.Errorf("look for lectures outside a term: %w", err)
	}
	faults.When(n.Early > 0, "first_day", "term.early", "n", n.Early)
	faults.When(n.Late > 0, "last_day", "term.late", "n", n.Late)
	faults.When(n.AllOf > 0 && f.Zone != old.Zone.String(), "zone", "term.zone_kept", "n", n.AllOf, "zone", old.Zone)
	return nil
}

// RemoveTerm removes a term without courses. Its error is ErrInUse when it has some.
func (s *Service) RemoveTerm(ctx context.Context, id uuid.UUID) error {
	return s.remove(ctx, `delete from term where id = $1`, id, "term")
}

// remove deletes what nothing else stands on.
func (s *Service) remove(ctx context.Context, sql string, id uuid.UUID, about string) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, sql, id)
		var refused *pgconn.PgError
		if errors.As(err, &refused) && refused.Code == "23503" { // foreign_key_violation
			return ErrInUse
		}
		if err != nil {
			return fmt.Errorf("remove a %s: %w", about, err)
		}
		if tag.RowsAffected() == 0 {
			return ErrUnknown
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Term})
	})
}

// Hall is a place where lectures are held.
type Hall struct {
	ID       uuid.UUID
	Name     string
	Lectures int // planned there, in all terms
}

// Halls lists the halls by name.
func (s *Service) Halls(ctx context.Context) ([]Hall, error) {
	out, err := postgres.All[Hall](ctx, s.DB,
		`select h.id, h.name, (select count(*) from lecture l where l.hall_id = h.id) as lectures from hall h
			order by h.name`)
	if err != nil {
		return nil, fmt.Errorf("list halls: %w", err)
	}
	return out, nil
}

// KeepHall makes a hall, or renames the one with this id when it is not the zero value. Its
// error is of type fault.Faults when the name cannot be.
func (s *Service) KeepHall(ctx context.Context, id uuid.UUID, name string) (uuid.UUID, error) {
	var f fault.Faults
	name = strings.Join(strings.Fields(name), " ")
	f.When(name == "" || len([]rune(name)) > 80, "name", "hall.name")
	if err := f.Err(); err != nil {
		return id, err
	}
	return id, postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		taken, err := postgres.Value[bool](ctx, tx,
			`select exists (select 1 from hall where lower(name) = lower($2) and id <> $1)`, id, name)
		if err != nil {
			return fmt.Errorf("look for a hall: %w", err)
		}
		f.When(taken, "name", "hall.taken")
		if err := f.Err(); err != nil {
			return err
		}
		if id == uuid.Nil {
			id = uuid.Must(uuid.NewV7())
		}
		if _, err := tx.Exec(ctx,
			`insert into hall (id, name) values ($1, $2) on conflict (id) do update set name = $2`, id,
			name); err != nil {
			return fmt.Errorf("keep a hall: %w", err)
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Term})
	})
}

// RemoveHall removes a hall in which nothing was ever planned. Its error is ErrInUse otherwise.
func (s *Service) RemoveHall(ctx context.Context, id uuid.UUID) error {
	return s.remove(ctx, `delete from hall where id = $1`, id, "hall")
}
