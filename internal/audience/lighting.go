package audience

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// Cell is a recording in a course, now and as it would be.
type Cell struct {
	Recording, Course uuid.UUID
	Code              string // of the course
	Lit               bool   // now
	Asked             bool   // it is one of those that are to be given
	Changes           bool   // its light or its rule would be another
	Now, Then, Of     int    // how many students of the course can watch it by that course, now and then, of all
	// Why is what most of those lack who could not watch it then; empty when there are none.
	Why   viewing.Reason
	Opens time.Time // when Why is NotYet
}

// Lighting is what giving recordings to courses would change.
type Lighting struct {
	Cells  []Cell   // of all courses that have any of the recordings or are to have them, by code
	Groups []string // that each of the courses has to which they are given, by name
	Change
}

// litSQL decides as decisionsSQL for the recordings $4 alone, as if they were lit ($6 true) or dark for the courses $5,
// pair by pair; as they are when $6 is null. What is to be lit will be published then.
const litSQL = rulesSQL + `, pair as (
	select * from unnest($4::uuid[], $5::uuid[]) as x(recording_id, course_id)
), asked as (
	select x.recording_id, x.course_id, coalesce($6, e.lit, false) as lit, coalesce($6, false) as made
	from pair x left join released e on e.recording_id = x.recording_id and e.course_id = x.course_id
	union all
	select e.recording_id, e.course_id, e.lit, false from released e
	where e.recording_id = any($4)
	and not exists (select 1 from pair x where x.recording_id = e.recording_id and x.course_id = e.course_id)
), shown as (select r.id as recording_id, e.course_id, (r.edition_id is not null or e.made) and e.lit as lit, ` +
	lectureEnd + ` as lecture_end, l.course_id as own_id from asked e` + shownFrom + `)` + decidedSQL

type litRow struct {
	decided
	CourseID uuid.UUID
	Name     string
	Opens    *time.Time
}

// PreviewGiving says what doing g to recordings in courses, pair by pair without a pair twice, would change: how it is
// now, and how it would be at a moment, with zero now as well. Its error is ErrInvalid for a rule under which nobody of
// a course could ever watch.
func (s *Service) PreviewGiving(ctx context.Context, recordings, courses []uuid.UUID,
	g viewing.Giving, at time.Time) (Lighting, error) {
	var out Lighting
	var err error
	if out.Cells, err = s.cells(ctx, recordings, courses); err != nil {
		return Lighting{}, err
	}
	var proposed []byte
	if g.Rule != nil {
		if err := s.willRule(ctx, out.Cells, g, recordings, courses); err != nil {
			return Lighting{}, err
		}
		if proposed, err = proposedFor(out.Cells, *g.Rule); err != nil {
			return Lighting{}, err
		}
	}
	of := make([]uuid.UUID, len(out.Cells))
	for i, c := range out.Cells {
		of[i] = c.Course
		out.Cells[i].Changes = c.Changes || c.Asked && g.Lit != nil && *g.Lit != c.Lit
	}
	const query = `select d.course_id, d.recording_id, d.person_id, p.name, d.reason, d.opens, d.uses
		from (` + litSQL + `) d join person p on p.id = d.person_id order by p.name, d.person_id`
	now := s.Clock.Now()
	if at.IsZero() {
		at = now
	}
	before, err := postgres.All[litRow](ctx, s.DB, query, of, nil, now, recordings, courses, nil)
	if err != nil {
		return Lighting{}, fmt.Errorf("decide as it is: %w", err)
	}
	after, err := postgres.All[litRow](ctx, s.DB, query, of, proposed, at, recordings, courses, g.Lit)
	if err != nil {
		return Lighting{}, fmt.Errorf("decide as it would be: %w", err)
	}
	count(out.Cells, before, after)
	var people []Name
	decisions := func(rows []litRow) (out []decided) {
		for _, x := range rows {
			out = append(out, x.decided)
			people = append(people, Name{x.PersonID, x.Name})
		}
		return out
	}
	was, is := decisions(before), decisions(after)
	out.Change = compare(people[len(before):], was, is)
	const groups = `select group_name from membership where course_id = any($1) and role = 'student'
		and group_name <> '' group by group_name
		having count(distinct course_id) = (select count(distinct id) from unnest($1::uuid[]) id) order by group_name`
	if out.Groups, err = postgres.Values[string](ctx, s.DB, groups, courses); err != nil {
		return Lighting{}, fmt.Errorf("list the groups of courses: %w", err)
	}
	return out, nil
}

// cells are recordings in all courses that have any of them or are to have them, by code.
func (s *Service) cells(ctx context.Context, recordings, courses []uuid.UUID) ([]Cell, error) {
	const all = `with pair as materialized (
			select * from unnest($1::uuid[], $2::uuid[]) with ordinality as x(recording_id, course_id, n)
		), r as (select recording_id as id, min(n) as n from pair group by 1
		), c as (select course_id as id from pair union select course_id from release where recording_id = any($1))
		select r.id as recording, k.id as course, k.code, coalesce(e.lit, false) as lit,
			exists (select 1 from pair where pair.recording_id = r.id and pair.course_id = k.id) as asked
		from r cross join c join course k on k.id = c.id
		left join released e on e.recording_id = r.id and e.course_id = k.id
		order by k.code, k.id, r.n`
	rows, err := postgres.All[struct {
		Recording, Course uuid.UUID
		Code              string
		Lit, Asked        bool
	}](ctx, s.DB, all, recordings, courses)
	if err != nil {
		return nil, fmt.Errorf("list who has recordings: %w", err)
	}
	out := make([]Cell, 0, len(rows))
	for _, x := range rows {
		out = append(out, Cell{Recording: x.Recording, Course: x.Course, Code: x.Code, Lit: x.Lit, Asked: x.Asked})
	}
	return out, nil
}

// proposedFor are the rules that cells would have under a ruling, as rulesSQL takes them.
func proposedFor(cells []Cell, g viewing.Ruling) ([]byte, error) {
	var list []proposal
	for _, c := range cells {
		if c.Asked {
			list = append(list, proposal{Scope{Course: c.Course, Recording: c.Recording}, g.Own})
		}
	}
	return proposals(list...)
}

// willRule marks the cells whose rule g would change: of recordings that their course has, or is to have. Its error is
// ErrInvalid for a rule under which nobody of such a course could ever watch.
func (s *Service) willRule(ctx context.Context, cells []Cell, g viewing.Giving, recordings, courses []uuid.UUID) error {
	own, err := ownRules(ctx, s.DB, recordings, courses)
	if err != nil {
		return err
	}
	const query = `select e.recording_id, e.course_id from release e
		join unnest($1::uuid[], $2::uuid[]) as x(recording_id, course_id) using (recording_id, course_id)`
	have, err := postgres.All[struct{ RecordingID, CourseID uuid.UUID }](ctx, s.DB, query, recordings, courses)
	if err != nil {
		return fmt.Errorf("list who has recordings: %w", err)
	}
	has, possible := map[Scope]bool{}, map[uuid.UUID]bool{}
	for _, x := range have {
		has[Scope{Course: x.CourseID, Recording: x.RecordingID}] = true
	}
	for i, c := range cells {
		of := Scope{Course: c.Course, Recording: c.Recording}
		if !c.Asked || !has[of] && (g.Lit == nil || !*g.Lit) {
			continue
		}
		cells[i].Changes = !sameRule(own[of].rule, g.Rule.Own)
		if g.Rule.Own == nil || possible[c.Course] {
			continue
		}
		if err := s.possible(ctx, s.DB, Scope{Course: c.Course}, *g.Rule.Own); err != nil {
			return err
		}
		possible[c.Course] = true
	}
	return nil
}

// count fills in how many can watch before and after, and what most of the others lack.
func count(cells []Cell, before, after []litRow) {
	type at struct{ course, recording uuid.UUID }
	cell := map[at]*Cell{}
	for i := range cells {
		cell[at{cells[i].Course, cells[i].Recording}] = &cells[i]
	}
	for _, x := range before {
		if x.Reason == viewing.ByRule {
			cell[at{x.CourseID, x.RecordingID}].Now++
		}
	}
	lack := map[at]map[viewing.Reason]int{}
	for _, x := range after {
		where := at{x.CourseID, x.RecordingID}
		c := cell[where]
		c.Of++
		if x.Reason == viewing.ByRule {
			c.Then++
			continue
		}
		if lack[where] == nil {
			lack[where] = map[viewing.Reason]int{}
		}
		lack[where][x.Reason]++
		if n := lack[where]; c.Why == "" || n[x.Reason] > n[c.Why] {
			c.Why = x.Reason
		}
		if x.Reason == viewing.NotYet && x.Opens != nil {
			c.Opens = *x.Opens
		}
	}
	for i := range cells {
		if cells[i].Why != viewing.NotYet {
			cells[i].Opens = time.Time{}
		}
	}
}
