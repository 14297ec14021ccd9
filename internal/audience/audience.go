// Package audience keeps the viewing rules of courses and says who may watch what.
package audience

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
)

// Service decides who can watch what. All its fields are needed. It may be used by many at once. A call whose context
// ends gives its error and has changed nothing.
type Service struct {
	DB    *pgxpool.Pool
	Clock clock.Clock
}

// ErrUnknown says that there is no such course or recording.
var ErrUnknown = fault.Code("audience.unknown")

// ErrInvalid says that a rule cannot be; the error it wraps can be shown.
var ErrInvalid = fault.Code("rule.invalid")

type ruleRow struct {
	Audience      string
	Groups        []string
	Download      bool
	FromKind      string
	FromAt        *time.Time
	UntilKind     string
	UntilAt       *time.Time
	DaysAfterTerm int
}

func (r ruleRow) rule() *viewing.Rule {
	at := func(t *time.Time) time.Time {
		if t == nil {
			return time.Time{}
		}
		return t.UTC()
	}
	return &viewing.Rule{
		Audience: viewing.Audience(r.Audience), Groups: r.Groups, Download: r.Download,
		From: viewing.From(r.FromKind), FromAt: at(r.FromAt), Until: viewing.Until(r.UntilKind), UntilAt: at(r.UntilAt),
		DaysAfterTerm: r.DaysAfterTerm,
	}
}

const ruleColumns = `audience, groups, download, from_kind, from_at, until_kind, until_at, days_after_term`

// Scope is what a rule speaks of: all recordings of a course or, with a recording, that one alone as the course has it.
type Scope struct {
	Course    uuid.UUID
	Recording uuid.UUID // uuid.Nil for all
}

// Rule is the viewing rule of exactly a scope; nil when it has none.
func (s *Service) Rule(ctx context.Context, of Scope) (*viewing.Rule, error) {
	const query = `select ` + ruleColumns +
		` from viewing_rule where course_id = $1 and recording_id is not distinct from $2 and ended_at is null`
	row, err := postgres.One[ruleRow](ctx, s.DB, query, of.Course, postgres.OrNil(of.Recording))
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("read a viewing rule: %w", err)
	}
	return row.rule(), nil
}

// Title is that of the recording of a scope. Its error is ErrUnknown for one that the course does not have.
func (s *Service) Title(ctx context.Context, of Scope) (string, error) {
	const query = `select r.title from release e join recording r on r.id = e.recording_id
		where e.course_id = $1 and e.recording_id = $2 and r.deleted_at is null`
	title, err := postgres.Value[string](ctx, s.DB, query, of.Course, of.Recording)
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

// ReplaceRule is SetRule for someone who saw the rule of a version, "" for none. When it is another by now nothing is
// changed, and the error is of code ErrChanged, or ErrGone.
func (s *Service) ReplaceRule(ctx context.Context, of Scope, by uuid.UUID, r *viewing.Rule, seen string) error {
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
		where v.course_id = $1 and v.recording_id is not distinct from $2 and v.ended_at is null`
	h, err := postgres.One[Held](ctx, db, query, of.Course, postgres.OrNil(of.Recording))
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
	now := s.Clock.Now()
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `select 1 from course where id = $1 for no key update`, of.Course); err != nil {
			return fmt.Errorf("hold a course: %w", err)
		}
		const has = `select $2::uuid is null
			or exists (select 1 from release where course_id = $1 and recording_id = $2)`
		if ok, err := postgres.Value[bool](ctx, tx, has, of.Course, postgres.OrNil(of.Recording)); err != nil || !ok {
			return errors.Join(err, ErrUnknown)
		}
		if seen != nil {
			if err := unchanged(ctx, tx, of, *seen); err != nil {
				return err
			}
		}
		const end = `update viewing_rule set ended_at = $3 where course_id = $1 and recording_id is not distinct
			from $2 and ended_at is null`
		if _, err := tx.Exec(ctx, end, of.Course, postgres.OrNil(of.Recording), now); err != nil {
			return fmt.Errorf("end a viewing rule: %w", err)
		}
		if r != nil {
			if err := keepRule(ctx, tx, of, by, now, *r); err != nil {
				return err
			}
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Rule, Course: of.Course, Recording: of.Recording})
	})
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

func keepRule(ctx context.Context, tx pgx.Tx, of Scope, by uuid.UUID, now time.Time, r viewing.Rule) error {
	when := func(t time.Time, holds bool) *time.Time {
		if !holds {
			return nil
		}
		return &t
	}
	groups := r.Groups
	if groups == nil || r.Audience == viewing.Everyone {
		groups = []string{}
	}
	const insert = `insert into viewing_rule (id, course_id, recording_id, ` + ruleColumns + `, made_by, made_at)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13)`
	_, err := tx.Exec(ctx, insert, uuid.Must(uuid.NewV7()), of.Course, postgres.OrNil(of.Recording),
		r.Audience, groups, r.Download, r.From, when(r.FromAt, r.From == viewing.FromDate),
		r.Until, when(r.UntilAt, r.Until == viewing.UntilDate), r.DaysAfterTerm, by, now)
	if err != nil {
		return fmt.Errorf("keep a viewing rule: %w", err)
	}
	return nil
}

// rulesSQL are the rules of the courses $1, and of single recordings in them. The rule of course $2 is taken to be the
// one in $3, when that is not null.
const rulesSQL = `
with set as (
	select v.course_id, v.recording_id, v.audience, v.groups, v.from_kind, v.from_at, v.until_kind, v.until_at,
	v.days_after_term
	from viewing_rule v
	where v.ended_at is null and v.course_id = any($1)
	and ($3::jsonb is null or v.course_id <> $2 or v.recording_id is distinct from ($3::jsonb->>'recording_id')::uuid)
	union all
	select $2, x.recording_id, x.audience, x.groups, x.from_kind, x.from_at, x.until_kind, x.until_at, x.days_after_term
	from jsonb_to_record($3::jsonb) as x(recording_id uuid, audience text, groups text[], from_kind text, from_at timestamptz,
		until_kind text, until_at timestamptz, days_after_term int)
	where $3::jsonb is not null
), rule as (
	select x.course_id, x.recording_id, x.audience, x.groups, case x.from_kind when 'date' then x.from_at end as opens,
		case x.until_kind when 'date' then x.until_at
			when 'term' then (t.last_day + 1 + x.days_after_term)::timestamp at time zone t.zone end as closes
	from set x join course k on k.id = x.course_id join term t on t.id = k.term_id
)`

// lectureEnd says in SQL what viewing.LectureEnd says in Go.
const lectureEnd = `greatest(l.starts_at, least(l.ends_at, coalesce(x.stopped_at, l.ends_at)))`

// shownSQL are the recordings that the courses $1 have.
const shownSQL = `select r.id as recording_id, e.course_id, r.edition_id is not null and e.lit as lit, ` + lectureEnd +
	` as lecture_end, l.course_id as own_id from released e` + shownFrom

const shownFrom = `
	join recorded r on r.id = e.recording_id
	join lecture l on l.id = r.lecture_id
	join recording_source x on x.recording_id = r.id
	where e.course_id = any($1) and r.deleted_at is null`

// covers tells whether the rule v speaks of the member m.
const covers = `(v.audience = 'everyone' or m.group_name = any(v.groups))`

// decisionsSQL decides for every enrolled student of the courses $1, for every recording that they have, at the time
// $4: whether one may watch by that course. It says in SQL what viewing.Way.Decide says in Go.
const decisionsSQL = rulesSQL + `, shown as (` + shownSQL + `)` + decidedSQL

// shutHolds tells whether z shuts the member m out of what is shown as s, at the time $4.
const shutHolds = `z.person_id = m.person_id and z.ended_at is null and (z.until_at is null or $4 < z.until_at)
	and z.course_id in (s.course_id, s.own_id) and (z.recording_id is null or z.recording_id = s.recording_id)`

// decidedSQL decides for what is shown, under the rules.
const decidedSQL = `
select s.course_id, s.recording_id, m.person_id,
	case when exists (select 1 from shut_out z where ` + shutHolds + `) then 'shut_out'
	when not s.lit then 'not_lit' when v.course_id is null then 'no_rule' when not ` + covers +
	` then 'other_group'
	when $4 < coalesce(v.opens, s.lecture_end) then 'not_yet'
		when $4 >= v.closes then 'no_longer' else 'rule' end as reason,
	coalesce(v.opens, s.lecture_end) as opens, v.recording_id is not null as single
from shown s
join membership m on m.course_id = s.course_id and m.role = 'student'
left join lateral (select * from rule v where v.course_id = s.course_id
and (v.recording_id is null or v.recording_id = s.recording_id)
	order by v.recording_id nulls last limit 1) v on true`

// Seat is one student of a course and why they can or cannot watch a recording.
type Seat struct {
	PersonID uuid.UUID
	Name     string
	Group    string
	Reason   viewing.Reason
}

// Seats lists the students of a course by name, with the decision for one recording. Its error is ErrUnknown for one
// that the course does not have.
func (s *Service) Seats(ctx context.Context, course, recording uuid.UUID) ([]Seat, error) {
	const query = `select d.person_id, p.name, m.group_name as "group", d.reason from (` + decisionsSQL + `) d
		join person p on p.id = d.person_id join membership m on m.person_id = d.person_id and m.course_id = d.course_id
		where d.recording_id = $5 order by p.name`
	const has = `select exists (select 1 from released e join recording r on r.id = e.recording_id
		where e.course_id = $1 and e.recording_id = $2 and r.deleted_at is null)`
	if ok, err := postgres.Value[bool](ctx, s.DB, has, course, recording); err != nil || !ok {
		return nil, errors.Join(err, ErrUnknown)
	}
	out, err := postgres.All[Seat](ctx, s.DB, query, []uuid.UUID{course}, nil, nil, s.Clock.Now(), recording)
	if err != nil {
		return nil, fmt.Errorf("list who can watch: %w", err)
	}
	return out, nil
}
