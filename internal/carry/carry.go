// Package carry brings a course to another term: its plan, its playlists, its viewing rule and what it has set. What
// belongs to whom is carried by its owner; here it becomes one step, looked at before and taken back as one.
package carry

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/playlist"
	"latelantern/internal/core/timetable"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
)

// Timetable is what is needed of terms, courses and their plans.
type Timetable interface {
	// NewCourse makes a course. Its error is in words when there is one of that code in the term already.
	NewCourse(ctx context.Context, tx pgx.Tx, term uuid.UUID, code, title string) (uuid.UUID, error)
	// DatesOf is the term of a course.
	DatesOf(ctx context.Context, tx pgx.Tx, course uuid.UUID) (timetable.Dated, error)
	// CarryPlan gives a course the plans of another and its pattern of titles.
	CarryPlan(ctx context.Context, tx pgx.Tx, from, to, by uuid.UUID) (timetable.Carried, error)
	// Bare says whether nothing is planned in a course.
	Bare(ctx context.Context, tx pgx.Tx, course uuid.UUID) (bool, error)
	// Unused says whether nothing was captured of a course, and keeps that from beginning.
	Unused(ctx context.Context, tx pgx.Tx, course uuid.UUID) (bool, error)
	// Uncarry removes the lectures that a change planned.
	Uncarry(ctx context.Context, tx pgx.Tx, course, change uuid.UUID) error
	// Unmake removes a course with all that it has.
	Unmake(ctx context.Context, tx pgx.Tx, course uuid.UUID) error
}

// People is what is needed of who is in a course.
type People interface {
	// CarryStaff has those who teach a course teach another too.
	CarryStaff(ctx context.Context, tx pgx.Tx, from, to uuid.UUID) (int, error)
	// Students says how many are enrolled.
	Students(ctx context.Context, tx pgx.Tx, course uuid.UUID) (int, error)
}

// Rules is what is needed of viewing rules.
type Rules interface {
	// CarryRule gives a course that has none the rule of another, with its dates as near makes them; nil for none.
	CarryRule(ctx context.Context, tx pgx.Tx, from, to, by uuid.UUID,
		near func(time.Time) time.Time) (*viewing.Rule, uuid.UUID, error)
	// Uncarry takes a rule of a course away.
	Uncarry(ctx context.Context, tx pgx.Tx, course, rule uuid.UUID) error
}

// Playlists is what is needed of playlists.
type Playlists interface {
	// Carry makes the playlists of a course for another; with again with their recordings, with foreign also of others.
	Carry(ctx context.Context, tx pgx.Tx, from, to, by uuid.UUID,
		again, foreign bool) (playlist.Carried[uuid.UUID], error)
	// Bare says whether a course has nothing in a playlist.
	Bare(ctx context.Context, tx pgx.Tx, course uuid.UUID) (bool, error)
	// Uncarry removes playlists of a course, and entries of its others.
	Uncarry(ctx context.Context, tx pgx.Tx, course uuid.UUID, lists, entries []uuid.UUID) error
}

// Releases is what is needed of light.
type Releases interface {
	// Again lights for a course those of some recordings that another lights, and says how many and by which step.
	// With foreign also those of other courses than that one.
	Again(ctx context.Context, tx pgx.Tx, from, to, by uuid.UUID, of []uuid.UUID, foreign bool) (int, uuid.UUID, error)
	// TakeBackIn takes a step back.
	TakeBackIn(ctx context.Context, tx pgx.Tx, step, by uuid.UUID, anyones bool) error
}

// Setting is something that a course has set for itself. What a course has set already stays as it is.
type Setting interface {
	CarryCourse(ctx context.Context, tx pgx.Tx, from, to uuid.UUID) error
}

// Service carries courses. All its fields are needed. It may be used by many at once. A call whose context ends gives
// its error and has changed nothing.
type Service struct {
	DB        *pgxpool.Pool
	Clock     clock.Clock
	Timetable Timetable
	People    People
	Rules     Rules
	Playlists Playlists
	Releases  Releases
	Settings  []Setting
}

var (
	// ErrNotBare says that something is planned in a course already, or stands in a playlist of it.
	ErrNotBare = fault.Code("carry.not_bare")
	// ErrSame says that a course cannot be carried to itself, or within its own term.
	ErrSame = fault.Code("carry.same")
	// ErrUsed says that something was captured of a course, or students are enrolled in one that was made for it.
	ErrUsed = fault.Code("carry.used")
	// ErrUnknown says that a course was not carried.
	ErrUnknown = fault.Code("carry.unknown")
	// errTakenBack says that somebody took the light back before.
	errTakenBack = fault.Code("release.unknown")
)

// Form is what is carried, and where to.
type Form struct {
	From        uuid.UUID
	To          uuid.UUID // a course of another term in which nothing is yet; uuid.Nil for one that is made
	Term        uuid.UUID // in which it is made
	Code, Title string    // of the one that is made
	Plan        bool      // its plans and the pattern of its titles
	Lists       bool      // its playlists with their headings
	Again       bool      // with their recordings, which are lit there if they are lit here
	Foreign     bool      // also recordings of other courses
	Rule        bool
	Staff       bool // who teaches it
	Settings    bool // its words, how its ends are trimmed, for how long originals are kept, what it writes to students
}

// Said is what was carried, or would be.
type Said struct {
	Course uuid.UUID // that it came to; of one that is not made yet no more than a name
	Plan   timetable.Carried
	Lists  playlist.Carried[uuid.UUID]
	Lit    int // of its recordings
	Rule   *viewing.Rule
	Staff  int

	rule, step uuid.UUID
}

// errLook ends a transaction in which only was looked.
var errLook = errors.New("only looked")

// Preview says what carrying a course would do: by doing it and taking it back. Its errors are those of Carry.
func (s *Service) Preview(ctx context.Context, by uuid.UUID, f Form) (Said, error) {
	var out Said
	err := postgres.InTx(ctx, s.DB, func(tx pgx.Tx) (err error) {
		if out, err = s.carry(ctx, tx, by, f); err != nil {
			return err
		}
		return errLook
	})
	if errors.Is(err, errLook) {
		err = nil
	}
	return out, err
}

// Carry carries a course. Its error is ErrSame, ErrNotBare, or in words for a course that cannot be made.
func (s *Service) Carry(ctx context.Context, by uuid.UUID, f Form) (Said, error) {
	var out Said
	err := postgres.InTx(ctx, s.DB, func(tx pgx.Tx) (err error) {
		out, err = s.carry(ctx, tx, by, f)
		return err
	})
	return out, err
}

func (s *Service) carry(ctx context.Context, tx pgx.Tx, by uuid.UUID, f Form) (out Said, err error) {
	from, err := s.Timetable.DatesOf(ctx, tx, f.From)
	if err != nil {
		return out, err
	}
	made := f.To == uuid.Nil
	if made {
		f.To, err = s.Timetable.NewCourse(ctx, tx, f.Term, f.Code, f.Title)
	} else {
		err = s.bare(ctx, tx, f.To)
	}
	if err != nil {
		return out, err
	}
	to, err := s.Timetable.DatesOf(ctx, tx, f.To)
	if err != nil {
		return out, err
	}
	const same = `select (select term_id from course where id = $1) = (select term_id from course where id = $2)`
	if is, err := postgres.Value[bool](ctx, tx, same, f.From, f.To); err != nil || is {
		return out, errors.Join(err, ErrSame)
	}
	out.Course = f.To
	if err := s.parts(ctx, tx, by, f, func(at time.Time) time.Time { return from.Near(at, to) }, &out); err != nil {
		return out, err
	}
	const keep = `insert into course_carried (to_course, from_course, made, change_id, lists, entries, rule_id, step_id,
			made_by, made_at) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)
		on conflict (to_course) do update set from_course = $2, made = course_carried.made, change_id = $4, lists = $5,
			entries = $6, rule_id = $7, step_id = $8, made_by = $9, made_at = $10`
	_, err = tx.Exec(ctx, keep, f.To, f.From, made, postgres.OrNil(uuid.UUID(out.Plan.Change)),
		append([]uuid.UUID{}, out.Lists.Lists...), append([]uuid.UUID{}, out.Lists.Entries...),
		postgres.OrNil(out.rule), postgres.OrNil(out.step), by, s.Clock.Now())
	if err != nil {
		return out, fmt.Errorf("keep that a course was carried: %w", err)
	}
	return out, nil
}

// bare is ErrNotBare for a course in which something is planned, or stands in a playlist.
func (s *Service) bare(ctx context.Context, tx pgx.Tx, course uuid.UUID) error {
	// Of two who carry to the same course the second finds what the first did.
	if _, err := tx.Exec(ctx, `select 1 from course where id = $1 for update`, course); err != nil {
		return fmt.Errorf("hold a course: %w", err)
	}
	planned, err := s.Timetable.Bare(ctx, tx, course)
	if err != nil {
		return err
	}
	listed, err := s.Playlists.Bare(ctx, tx, course)
	if err != nil {
		return err
	}
	if !planned || !listed {
		return ErrNotBare
	}
	return nil
}

// parts carries each part that is asked for. Who teaches comes first, so that what clashes for them is seen.
func (s *Service) parts(ctx context.Context, tx pgx.Tx, by uuid.UUID, f Form, near func(time.Time) time.Time,
	out *Said) (err error) {
	if f.Staff {
		if out.Staff, err = s.People.CarryStaff(ctx, tx, f.From, f.To); err != nil {
			return err
		}
	}
	if f.Plan {
		if out.Plan, err = s.Timetable.CarryPlan(ctx, tx, f.From, f.To, by); err != nil {
			return err
		}
	}
	if f.Rule {
		if out.Rule, out.rule, err = s.Rules.CarryRule(ctx, tx, f.From, f.To, by, near); err != nil {
			return err
		}
	}
	if f.Settings {
		for _, x := range s.Settings {
			if err := x.CarryCourse(ctx, tx, f.From, f.To); err != nil {
				return err
			}
		}
	}
	if !f.Lists {
		return nil
	}
	if out.Lists, err = s.Playlists.Carry(ctx, tx, f.From, f.To, by, f.Again, f.Foreign); err != nil || !f.Again {
		return err
	}
	out.Lit, out.step, err = s.Releases.Again(ctx, tx, f.From, f.To, by, out.Lists.Recordings, f.Foreign)
	return err
}

// kept is what was carried to a course.
type kept struct {
	Made           bool
	ChangeID       *uuid.UUID
	Lists, Entries []uuid.UUID
	RuleID, StepID *uuid.UUID
}

// TakeBack takes back that a course was carried: the course goes if it was made for it, else what was carried goes, but
// for who teaches it and what it has set. Its error is ErrUsed when something was captured there or students are
// enrolled in a course that would go, and ErrUnknown, also for a course that would go without whole.
func (s *Service) TakeBack(ctx context.Context, course, by uuid.UUID, whole bool) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const forget = `delete from course_carried where to_course = $1
			returning made, change_id, lists, entries, rule_id, step_id`
		is, err := postgres.One[kept](ctx, tx, forget, course)
		if errors.Is(err, pgx.ErrNoRows) || err == nil && is.Made && !whole {
			return ErrUnknown
		}
		if err != nil {
			return fmt.Errorf("forget that a course was carried: %w", err)
		}
		unused, err := s.Timetable.Unused(ctx, tx, course)
		if err != nil {
			return err
		}
		students, err := s.People.Students(ctx, tx, course)
		if err != nil {
			return err
		}
		if !unused || is.Made && students > 0 {
			return ErrUsed
		}
		if is.Made {
			return s.Timetable.Unmake(ctx, tx, course)
		}
		if is.StepID != nil {
			if err := s.Releases.TakeBackIn(ctx, tx, *is.StepID, by, true); err != nil &&
				!errors.Is(err, errTakenBack) {
				return err
			}
		}
		return errors.Join(s.Playlists.Uncarry(ctx, tx, course, is.Lists, is.Entries),
			s.Rules.Uncarry(ctx, tx, course, postgres.OrZero(is.RuleID)),
			s.Timetable.Uncarry(ctx, tx, course, postgres.OrZero(is.ChangeID)))
	})
}

// Carried says to which courses one was carried, the last first.
func (s *Service) Carried(ctx context.Context, from uuid.UUID) ([]uuid.UUID, error) {
	const query = `select to_course from course_carried where from_course = $1 order by made_at desc`
	out, err := postgres.Values[uuid.UUID](ctx, s.DB, query, from)
	if err != nil {
		return nil, fmt.Errorf("list where a course was carried: %w", err)
	}
	return out, nil
}
