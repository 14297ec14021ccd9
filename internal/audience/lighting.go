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
	Now, Then, Of     int    // how many students of the course can watch it by that course, now and then, of all
	// Why is what most of those lack who could not watch it then; empty when there are none.
	Why   viewing.Reason
	Opens time.Time // when Why is NotYet
}

// Lighting is what lighting or darkening would change.
type Lighting struct {
	Cells []Cell // of all courses that have any of the recordings or are to have them, by code
	Gain  []Name // who could watch some of the recordings afterwards, by whichever course, and cannot now
	Lose  []Name // the other way round
}

// litSQL decides as decisionsSQL for the recordings $5 alone, as if they were lit ($7 true) or dark for the courses $6;
// as they are when $7 is null. What is to be lit will be published then.
const litSQL = rulesSQL + `, asked as (
	select x.recording_id, x.course_id, coalesce($7, e.lit, false) as lit, coalesce($7, false) as made
	from unnest($5::uuid[]) as x0(recording_id) cross join lateral (
		select x0.recording_id, c as course_id from unnest($6::uuid[]) c) x
	left join released e on e.recording_id = x.recording_id and e.course_id = x.course_id
	union all
	select recording_id, course_id, lit, false from released
	where recording_id = any($5) and not (course_id = any($6))
), shown as (select r.id as recording_id, e.course_id, (r.edition_id is not null or e.made) and e.lit as lit, ` +
	lectureEnd + ` as lecture_end, l.course_id as own_id from asked e` + shownFrom + `)` + decidedSQL

type litRow struct {
	CourseID, RecordingID, PersonID uuid.UUID
	Name                            string
	Reason                          viewing.Reason
	Opens                           *time.Time
}

// PreviewLight says what lighting recordings for courses would change, or with lit false darkening them.
func (s *Service) PreviewLight(ctx context.Context, recordings, courses []uuid.UUID, lit bool) (Lighting, error) {
	type have struct {
		RecordingID, CourseID uuid.UUID
		Code                  string
		Lit                   bool
	}
	const all = `select r as recording_id, k.id as course_id, k.code, coalesce(e.lit, false) as lit
		from unnest($1::uuid[]) r cross join course k
		left join released e on e.recording_id = r and e.course_id = k.id
		where k.id = any($2) or exists (select 1 from released x where x.recording_id = any($1) and x.course_id = k.id)
		order by k.code, k.id, array_position($1, r)`
	cells, err := postgres.All[have](ctx, s.DB, all, recordings, courses)
	if err != nil {
		return Lighting{}, fmt.Errorf("list who has recordings: %w", err)
	}
	of := make([]uuid.UUID, len(cells))
	for i, c := range cells {
		of[i] = c.CourseID
	}
	const query = `select d.course_id, d.recording_id, d.person_id, p.name, d.reason, d.opens
		from (` + litSQL + `) d join person p on p.id = d.person_id order by p.name, d.person_id`
	now := s.Clock.Now()
	before, err := postgres.All[litRow](ctx, s.DB, query, of, nil, nil, now, recordings, courses, nil)
	if err != nil {
		return Lighting{}, fmt.Errorf("decide as it is lit: %w", err)
	}
	after, err := postgres.All[litRow](ctx, s.DB, query, of, nil, nil, now, recordings, courses, lit)
	if err != nil {
		return Lighting{}, fmt.Errorf("decide as it would be lit: %w", err)
	}
	var out Lighting
	for _, c := range cells {
		out.Cells = append(out.Cells, Cell{Recording: c.RecordingID, Course: c.CourseID, Code: c.Code, Lit: c.Lit})
	}
	count(out.Cells, before, after)
	out.Gain, out.Lose = apart(after, before), apart(before, after)
	return out, nil
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

// apart are those who can watch something in some decisions, and not the same in others, by name.
func apart(some, others []litRow) (out []Name) {
	type at struct{ person, recording uuid.UUID }
	can := map[at]bool{}
	for _, x := range others {
		if x.Reason == viewing.ByRule {
			can[at{x.PersonID, x.RecordingID}] = true
		}
	}
	told := map[uuid.UUID]bool{}
	for _, x := range some {
		if x.Reason == viewing.ByRule && !can[at{x.PersonID, x.RecordingID}] && !told[x.PersonID] {
			told[x.PersonID] = true
			out = append(out, Name{x.PersonID, x.Name})
		}
	}
	return out
}
