// Package audience keeps viewing rules, who is shut out, and openings beside any course, and says who may watch what.
package audience

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
)

// Service decides who can watch what. DB and Clock are needed for that, Decided to remember it, the others for
// openings. It may be used by many at once. A call whose context ends gives its error and has changed nothing.
type Service struct {
	DB       *pgxpool.Pool
	Often    *pgxpool.Pool // for what is asked again and again; nil: DB
	Clock    clock.Clock
	Decided  *Memory
	Editions Editions
	People   People
	Secret   []byte // signs links
	Public   string // address under which people reach the application, without a slash at its end
}

// Editions is what an opening needs of what is published.
type Editions interface {
	// Want names the edition of a recording that is wanted, that of its current cut list. Shown says whether what
	// was published before is shown to anyone.
	Want(ctx context.Context, tx pgx.Tx, recording, by uuid.UUID, shown bool) error
}

// People is what an opening needs of the roster.
type People interface {
	// AddGuest adds a person who has no account.
	AddGuest(ctx context.Context, tx pgx.Tx, name string) (uuid.UUID, error)
}

// ErrUnknown says that there is no such course or recording.
var ErrUnknown = fault.Code("audience.unknown")

// ErrInvalid says that a rule cannot be; the error it wraps can be shown.
var ErrInvalid = fault.Code("rule.invalid")

// windowRow is a window as it is kept.
type windowRow struct {
	FromKind         string
	FromAt           *time.Time
	DaysAfterLecture int
	UntilKind        string
	UntilAt          *time.Time
	DaysAfterTerm    int
}

func (r windowRow) window() viewing.Window {
	at := func(t *time.Time) time.Time {
		if t == nil {
			return time.Time{}
		}
		return t.UTC()
	}
	return viewing.Window{From: viewing.From(r.FromKind), FromAt: at(r.FromAt), DaysAfterLecture: r.DaysAfterLecture,
		Until: viewing.Until(r.UntilKind), UntilAt: at(r.UntilAt), DaysAfterTerm: r.DaysAfterTerm}
}

// rowOf is a window as it is kept.
func rowOf(w viewing.Window) windowRow {
	w = w.Kept()
	at := func(t time.Time) *time.Time {
		if t.IsZero() {
			return nil
		}
		return &t
	}
	return windowRow{FromKind: string(w.From), FromAt: at(w.FromAt), DaysAfterLecture: w.DaysAfterLecture,
		UntilKind: string(w.Until), UntilAt: at(w.UntilAt), DaysAfterTerm: w.DaysAfterTerm}
}

type ruleRow struct {
	Audience string // empty for no rule at all
	Groups   []string
	Uses     []string
	windowRow
}

func (r ruleRow) rule() *viewing.Rule {
	if r.Audience == "" {
		return nil
	}
	uses, _ := viewing.UsesOf(r.Uses...) // what is none lets nobody in
	return &viewing.Rule{Audience: viewing.Audience(r.Audience), Groups: r.Groups, Uses: uses, Window: r.window()}
}

const (
	windowColumns = `from_kind, from_at, days_after_lecture, until_kind, until_at, days_after_term`
	ruleColumns   = `audience, groups, uses, ` + windowColumns
)

// Scope is what a rule speaks of: all recordings of a course or, with a recording, that one alone as the course has it.
// Its zero value is the college: all courses without a rule.
type Scope struct {
	Course    uuid.UUID
	Recording uuid.UUID // uuid.Nil for all
}

// Rule is the viewing rule of exactly a scope; nil when it has none.
func (s *Service) Rule(ctx context.Context, of Scope) (*viewing.Rule, error) {
	return ruleIn(ctx, s.DB, of)
}

func ruleIn(ctx context.Context, db postgres.Querier, of Scope) (*viewing.Rule, error) {
	const query = `select ` + ruleColumns +
		` from viewing_rule where course_id is not distinct from $1 and recording_id is not distinct from $2 and ended_at is null`
	row, err := postgres.One[ruleRow](ctx, db, query, postgres.OrNil(of.Course), postgres.OrNil(of.Recording))
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("read a viewing rule: %w", err)
	}
	return row.rule(), nil
}

// Title is that of the recording of a scope. Its error is ErrUnknown for one that the course does not have.
func (s *Service) Title(ctx context.Context, of Scope) (string, error) { return titleOf(ctx, s.DB, of) }

func titleOf(ctx context.Context, db postgres.Querier, of Scope) (string, error) {
	const query = `select r.title from release e join recording r on r.id = e.recording_id
		where e.course_id = $1 and e.recording_id = $2 and r.deleted_at is null`
	title, err := postgres.Value[string](ctx, db, query, of.Course, of.Recording)
	if errors.Is(err, pgx.ErrNoRows) {
		return "", ErrUnknown
	}
	if err != nil {
		return "", fmt.Errorf("look up a recording of a course: %w", err)
	}
	return title, nil
}

// SetRule makes r the rule of a scope from now on; nil takes the rule away. Earlier rules are kept with who made them.
// Its error is ErrUnknown for a recording that the course does not have, and ErrInvalid.
func (s *Service) SetRule(ctx context.Context, of Scope, by uuid.UUID, r *viewing.Rule) error {
	return s.set(ctx, of, by, r, nil)
}

// ErrChanged is the code of an error that says who has changed a rule since it was seen.
const ErrChanged fault.Code = "rule.changed"

// ErrGone says that the rule that was seen is none any more.
var ErrGone = fault.Code("rule.gone")

// ReplaceRule is SetRule for someone who saw the rule of a version, "" for none, and is Possible. When it is another by
// now nothing is changed, and the error is of code ErrChanged, or ErrGone.
func (s *Service) ReplaceRule(ctx context.Context, of Scope, by uuid.UUID, r *viewing.Rule, seen string) error {
	if r != nil {
		if err := s.Possible(ctx, of, *r); err != nil {
			return err
		}
	}
	return s.set(ctx, of, by, r, &seen)
}

// Held is which rule a scope has.
type Held struct {
	Version string     // tells it apart from every other that it had or will have; "" for none
	By      string     // name of who made it
	At      *time.Time // when
}

// Held says which rule exactly a scope has.
func (s *Service) Held(ctx context.Context, of Scope) (Held, error) { return held(ctx, s.DB, of) }

func held(ctx context.Context, db postgres.Querier, of Scope) (Held, error) {
	const query = `select v.id::text as version, coalesce(p.name, '') as by, v.made_at as at
		from viewing_rule v left join person p on p.id = v.made_by
		where v.course_id is not distinct from $1 and v.recording_id is not distinct from $2 and v.ended_at is null`
	h, err := postgres.One[Held](ctx, db, query, postgres.OrNil(of.Course), postgres.OrNil(of.Recording))
	if err != nil && !errors.Is(err, pgx.ErrNoRows) {
		return h, fmt.Errorf("read which rule holds: %w", err)
	}
	return h, nil
}

func (s *Service) set(ctx context.Context, of Scope, by uuid.UUID, r *viewing.Rule, seen *string) error {
	if r != nil {
		if err := r.Check(); err != nil {
			return fmt.Errorf("%w: %w", ErrInvalid, err)
		}
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if err := holdScope(ctx, tx, of); err != nil {
			return err
		}
		if seen != nil {
			if err := unchanged(ctx, tx, of, *seen); err != nil {
				return err
			}
		}
		_, err := s.replace(ctx, tx, of, by, r)
		return err
	})
}

// holdScope keeps others from changing the rule of a scope meanwhile. Its error is ErrUnknown for a recording that the
// course does not have.
func holdScope(ctx context.Context, tx pgx.Tx, of Scope) error {
	const college, course = `select pg_advisory_xact_lock(hashtext('the viewing rule of the college'))`,
		`select 1 from course where id = $1 for no key update`
	var err error
	if of.Course == uuid.Nil {
		_, err = tx.Exec(ctx, college)
	} else {
		_, err = tx.Exec(ctx, course, of.Course)
	}
	if err != nil {
		return fmt.Errorf("hold what a rule is about: %w", err)
	}
	if of.Recording == uuid.Nil {
		return nil
	}
	if ok, err := has(ctx, tx, of); err != nil || !ok {
		return errors.Join(err, ErrUnknown)
	}
	return nil
}

// has tells whether the course of a scope has its recording.
func has(ctx context.Context, db postgres.Querier, of Scope) (bool, error) {
	const query = `select exists (select 1 from release where course_id = $1 and recording_id = $2)`
	return postgres.Value[bool](ctx, db, query, of.Course, of.Recording)
}

// unchanged says who has changed the rule of a scope since it was seen; nil for nobody.
func unchanged(ctx context.Context, tx pgx.Tx, of Scope, seen string) error {
	is, err := held(ctx, tx, of)
	switch {
	case err != nil || is.Version == seen:
		return err
	case is.Version == "":
		return ErrGone
	}
	return fault.Say(ErrChanged, "name", is.By)
}

func keepRule(ctx context.Context, tx pgx.Tx, of Scope, by uuid.UUID, now time.Time,
	r viewing.Rule) (uuid.UUID, error) {
	groups, w := r.Groups, rowOf(r.Window)
	if groups == nil || r.Audience == viewing.Everyone {
		groups = []string{}
	}
	const insert = `insert into viewing_rule (id, course_id, recording_id, ` + ruleColumns + `, made_by, made_at)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14)`
	id := uuid.Must(uuid.NewV7())
	_, err := tx.Exec(ctx, insert, id, postgres.OrNil(of.Course), postgres.OrNil(of.Recording),
		r.Audience, groups, r.Uses.Names(), w.FromKind, w.FromAt, w.DaysAfterLecture, w.UntilKind, w.UntilAt,
		w.DaysAfterTerm, postgres.OrNil(by), now)
	if err != nil {
		return uuid.Nil, fmt.Errorf("keep a viewing rule: %w", err)
	}
	return id, nil
}
