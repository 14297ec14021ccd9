package release

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"latelantern/internal/core/fault"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/postgres"
)

// MostAhead is how far ahead an hour can be set.
const MostAhead = 366 * 24 * time.Hour

var (
	errPast = fault.One("at", "release.past")
	errFar  = fault.One("at", "release.far")
	// errRights says that whoever asked for a step teaches it no more.
	errRights = fault.Code("release.rights")
	// errGone says that what it was for is in the bin.
	errGone = fault.Code("release.gone")
)

// Plan keeps a step that Change does at an hour that is set, and gives the step by which it is taken back, before and
// after. What was taken into the bin by then is left out. Its error is in words when the hour has passed or is further
// ahead than MostAhead.
func (s *Service) Plan(ctx context.Context, by uuid.UUID, m Many, at time.Time) (step uuid.UUID, err error) {
	now := s.Clock.Now()
	switch {
	case !at.After(now):
		return uuid.Nil, errPast
	case at.After(now.Add(MostAhead)):
		return uuid.Nil, errFar
	}
	m.Pairs = Once(m.Pairs)
	asked, err := json.Marshal(m)
	if err != nil {
		return uuid.Nil, fmt.Errorf("write down a step: %w", err)
	}
	step = uuid.Must(uuid.NewV7())
	const keep = `insert into light_change (id, lit, made_by, made_at, at, asked) values ($1, $2, $3, $4, $5, $6)`
	if _, err := s.DB.Exec(ctx, keep, step, m.Lit, by, now, at, asked); err != nil {
		return uuid.Nil, fmt.Errorf("keep a step for an hour: %w", err)
	}
	return step, nil
}

// Planned is a step for an hour that was set, and was not done yet.
type Planned struct {
	ID     uuid.UUID
	At     time.Time
	By     string     // who asked for it
	MadeBy *uuid.UUID // nil for who is there no more
	Asked  Many
	GaveUp string      // why it could not be done at its hour: a code of the catalogue; "" before that
	Theirs []uuid.UUID // its recordings that are of courses of which was asked
}

// Courses are those that it names, in no order.
func (p Planned) Courses() (out []uuid.UUID) {
	for _, x := range p.Asked.Pairs {
		if !slices.Contains(out, x.Course) {
			out = append(out, x.Course)
		}
	}
	return out
}

// Planned lists what is to be done at an hour, and what could not be done at its own, the next first, 200 at most: of
// all that names recordings of any of the courses.
func (s *Service) Planned(ctx context.Context, courses []uuid.UUID) ([]Planned, error) {
	const query = `select c.id, c.at, coalesce(p.name, '') as by, c.made_by, c.asked, c.gave_up, t.theirs
		from light_change c left join person p on p.id = c.made_by
		cross join lateral (select array_agg(distinct r.id order by r.id) as theirs
			from jsonb_array_elements(c.asked->'Pairs') x join recording r on r.id = (x->>'Recording')::uuid
			join lecture l on l.id = r.lecture_id where l.course_id = any($1)) t
		where c.at is not null and c.done_at is null and c.undone_at is null and t.theirs is not null
		order by c.at, c.id limit 200`
	out, err := postgres.All[Planned](ctx, s.DB, query, courses)
	if err != nil {
		return nil, fmt.Errorf("list what is planned: %w", err)
	}
	return out, nil
}

// LookPlanned does the steps whose hour has come, and says how many. One that fails keeps none of the others waiting.
func (s *Service) LookPlanned(ctx context.Context) (done int, err error) {
	const due = `select id from light_change where at <= $1 and done_at is null and undone_at is null and gave_up = ''
		order by at, id limit 50`
	steps, err := postgres.Values[uuid.UUID](ctx, s.DB, due, s.Clock.Now())
	if err != nil {
		return 0, fmt.Errorf("look for steps whose hour has come: %w", err)
	}
	var failed error
	for _, step := range steps {
		err := s.perform(ctx, step)
		if why := fault.All(err); len(why) > 0 {
			code := string(why[0].Code)
			slog.Warn("a step could not be done at its hour", "step", step, "why", code)
			_, err = s.DB.Exec(ctx, `update light_change set gave_up = $2 where id = $1`, step, code)
		}
		if err != nil {
			failed = errors.Join(failed, fmt.Errorf("do a step at its hour: %w", err))
			continue
		}
		done++
	}
	return done, failed
}

// perform does a step whose hour has come, unless it was taken back or is done elsewhere.
func (s *Service) perform(ctx context.Context, step uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const hold = `select made_by, asked from light_change
			where id = $1 and done_at is null and undone_at is null and gave_up = '' for update skip locked`
		x, err := postgres.One[struct {
			MadeBy *uuid.UUID
			Asked  Many
		}](ctx, tx, hold, step)
		if errors.Is(err, pgx.ErrNoRows) {
			return nil
		}
		if err != nil {
			return fmt.Errorf("hold a step: %w", err)
		}
		m, by := x.Asked, postgres.OrZero(x.MadeBy)
		if m.Pairs, err = s.still(ctx, tx, by, m); err != nil {
			return err
		}
		if err := s.change(ctx, tx, step, by, m); err != nil && !errors.Is(err, ErrNothing) {
			return err
		}
		const done = `update light_change set done_at = $2 where id = $1`
		if _, err := tx.Exec(ctx, done, step, s.Clock.Now()); err != nil {
			return fmt.Errorf("keep that a step is done: %w", err)
		}
		return nil
	})
}

// still are the pairs whose recordings are there. Its error is errGone when none is, and errRights when whoever asked
// for it may not do it now. To give light they teach the course of the recording and the one that it is given to, to
// take it away either, to give a rule the one where it holds.
func (s *Service) still(ctx context.Context, tx pgx.Tx, by uuid.UUID, m Many) ([]Pair, error) {
	const query = `with staff as (select course_id from membership where person_id = $3
			and role in ('lecturer', 'assistant'))
		select x.recording, x.course, (select coordinator from person where id = $3) as all,
			l.course_id in (select course_id from staff) as own, x.course in (select course_id from staff) as there
		from unnest($1::uuid[], $2::uuid[]) as x(recording, course)
		join recording r on r.id = x.recording and r.deleted_at is null join lecture l on l.id = r.lecture_id
		order by x.recording, x.course`
	var recordings, courses []uuid.UUID
	for _, x := range m.Pairs {
		recordings, courses = append(recordings, x.Recording), append(courses, x.Course)
	}
	rows, err := postgres.All[struct {
		Recording, Course uuid.UUID
		All               *bool
		Own, There        bool
	}](ctx, tx, query, recordings, courses, by)
	if err != nil {
		return nil, fmt.Errorf("look what of a step is there: %w", err)
	}
	if len(rows) == 0 {
		return nil, errGone
	}
	var out []Pair
	for _, x := range rows {
		may := x.There
		if m.Lit != nil && *m.Lit {
			may = x.Own && x.There
		} else if m.Lit != nil && m.Rule == nil {
			may = x.Own || x.There
		}
		if !may && (x.All == nil || !*x.All) {
			return nil, errRights
		}
		out = append(out, Pair{x.Recording, x.Course})
	}
	return out, nil
}

// LookPlan is the job of doing steps whose hour has come.
type LookPlan struct{}

// Kind implements river.JobArgs.
func (LookPlan) Kind() string { return "look_for_planned_steps" }

// InsertOpts implements river.JobArgsWithInsertOpts.
func (LookPlan) InsertOpts() river.InsertOpts { return jobs.Looking }

// Register adds the jobs of this package to kinds.
func (s *Service) Register(kinds *river.Workers) {
	look := func(ctx context.Context, _ LookPlan, _ bool) error {
		_, err := s.LookPlanned(ctx)
		return err
	}
	jobs.Register(kinds, jobs.Kind[LookPlan]{Limit: time.Minute, Do: look})
}
