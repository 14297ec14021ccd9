package audience

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"
	"golang.org/x/sync/errgroup"

	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// Reach is whom a viewing rule lets watch, and when. That of a course is the same for all its recordings that have no
// rule of their own, so a term is read without deciding for each recording in turn.
type Reach struct {
	Of      int           // enrolled students
	Covered int           // of them, those the rule speaks of and who are not shut out
	Rule    *viewing.Rule // nil for none
	TermEnd time.Time
}

// Count is how many students can watch a recording now.
func (r Reach) Count(x viewing.Release, now time.Time) viewing.Count {
	x.TermEnd = r.TermEnd
	if r.Rule == nil || !x.Lit || !x.Watchable || !r.Rule.Holds(x, now) {
		return viewing.Count{Of: r.Of}
	}
	return viewing.Count{Can: r.Covered, Of: r.Of}
}

// Reaches are the reaches of courses, and of the recordings in them of which something else holds: a
// rule of their own, or that someone is shut out.
type Reaches map[Scope]Reach

// Of is the reach that holds for a recording as a course has it; uuid.Nil is for one that is not there yet.
func (r Reaches) Of(course, recording uuid.UUID) Reach {
	if own, ok := r[Scope{course, recording}]; ok {
		return own
	}
	return r[Scope{Course: course}]
}

// Reaches is whom the rules of the courses reach. Of a course only the groups of its students differ, so they are
// counted by group.
func (s *Service) Reaches(ctx context.Context, courses []uuid.UUID) (Reaches, error) {
	var rules []heldRule
	var groups []grouped
	var shut []shutIn
	all, within := errgroup.WithContext(ctx)
	all.Go(func() (err error) {
		rules, err = postgres.All[heldRule](within, s.DB, heldRulesSQL, courses)
		return err
	})
	all.Go(func() (err error) {
		const query = `select course_id, group_name as "group", count(*)::int as n from membership
			where role = 'student' and course_id = any($1) group by 1, 2`
		groups, err = postgres.All[grouped](within, s.DB, query, courses)
		return err
	})
	all.Go(func() (err error) {
		shut, err = postgres.All[shutIn](within, s.DB, shutInSQL, courses, s.Clock.Now())
		return err
	})
	if err := all.Wait(); err != nil {
		return nil, fmt.Errorf("read whom the rules reach: %w", err)
	}
	return reaches(rules, groups, shut)
}

// heldRule is a rule that holds in a course, or the same rule of some recordings in it.
type heldRule struct {
	CourseID   uuid.UUID
	Recordings []uuid.UUID // none for all of the course
	LastDay    time.Time
	Zone       string
	ruleRow
}

// heldRulesSQL are the rules of the courses $1, or of the college where one has none, and those of single recordings.
// A course in which none holds has one without an audience.
const heldRulesSQL = `
select k.id as course_id, null::uuid[] as recordings, t.last_day, t.zone, coalesce(v.audience, '') as audience,
	v.groups, null::text[] as uses, coalesce(v.from_kind, '') as from_kind, v.from_at,
	coalesce(v.days_after_lecture, 0) as days_after_lecture,
	coalesce(v.until_kind, '') as until_kind, v.until_at, coalesce(v.days_after_term, 0) as days_after_term
from course k join term t on t.id = k.term_id left join lateral (select * from viewing_rule v where v.ended_at is null
	and v.recording_id is null and (v.course_id = k.id or v.course_id is null)
	order by v.course_id nulls last limit 1) v on true
where k.id = any($1)
union all
select v.course_id, v.recordings, t.last_day, t.zone, audience, groups, null, ` + windowColumns + ` from (
	select course_id, array_agg(recording_id) as recordings, x.audience, groups, x.from_kind, from_at,
		days_after_lecture, x.until_kind, until_at, days_after_term
	from viewing_rule cross join lateral (select audience collate "C" as audience, from_kind collate "C" as from_kind,
		until_kind collate "C" as until_kind) x
	where ended_at is null and recording_id is not null and course_id = any($1)
	group by course_id, days_after_lecture, days_after_term, from_at, until_at, x.audience, x.from_kind, x.until_kind,
		groups) v
join course k on k.id = v.course_id join term t on t.id = k.term_id`

// grouped is how many students of a course are in a group.
type grouped struct {
	CourseID uuid.UUID
	Group    string
	N        int
}

// shutIn is a student of a course who is shut out of a recording that it has, or of all of them when that is nil.
type shutIn struct {
	CourseID, PersonID uuid.UUID
	RecordingID        *uuid.UUID
	Group              string
}

// shutInSQL are the students of the courses $1 who are shut out at the time $2: by the course itself, or of what
// another course lit for it by that one.
const shutInSQL = `
with shut as materialized (select person_id, course_id, recording_id from shut_out
	where ended_at is null and (until_at is null or $2 < until_at))
select m.course_id, m.person_id, z.recording_id, m.group_name as "group"
from shut z join membership m on m.person_id = z.person_id and m.course_id = z.course_id and m.role = 'student'
where z.course_id = any($1)
union
select m.course_id, m.person_id, e.recording_id, m.group_name
from shut z join membership m on m.person_id = z.person_id and m.role = 'student' and m.course_id <> z.course_id
join release e on e.course_id = m.course_id and not e.own
	and (z.recording_id is null or z.recording_id = e.recording_id)
join recording r on r.id = e.recording_id join lecture l on l.id = r.lecture_id and l.course_id = z.course_id
where m.course_id = any($1)`

// reaches counts whom the rules reach, as they are in each of the courses.
func reaches(rules []heldRule, groups []grouped, shut []shutIn) (Reaches, error) {
	byCourse, count := map[uuid.UUID][]grouped{}, map[uuid.UUID]int{}
	for _, g := range groups {
		byCourse[g.CourseID] = append(byCourse[g.CourseID], g)
		count[g.CourseID] += g.N
	}
	out := make(Reaches, len(rules))
	for _, x := range rules {
		end, err := termEnd(x.LastDay, x.Zone)
		if err != nil {
			return nil, err
		}
		r := Reach{Of: count[x.CourseID], Rule: x.rule(), TermEnd: end}
		for _, g := range byCourse[x.CourseID] {
			if r.Rule != nil && r.Rule.Covers(g.Group) {
				r.Covered += g.N
			}
		}
		if x.Recordings == nil {
			out[Scope{Course: x.CourseID}] = r
		}
		for _, id := range x.Recordings {
			out[Scope{x.CourseID, id}] = r
		}
	}
	for _, z := range shut { // what someone alone is shut out of has a reach of its own
		if of := scopeOf(z.CourseID, z.RecordingID); z.RecordingID != nil {
			if _, ok := out[of]; !ok {
				out[of] = out[Scope{Course: z.CourseID}]
			}
		}
	}
	type seat struct {
		of     Scope
		person uuid.UUID
	}
	counted := map[seat]bool{}
	without := func(of Scope, z shutIn) {
		r, at := out[of], seat{of, z.PersonID}
		if r.Rule != nil && r.Rule.Covers(z.Group) && !counted[at] {
			counted[at] = true
			r.Covered--
			out[of] = r
		}
	}
	single := map[uuid.UUID][]Scope{}
	for of := range out {
		if of.Recording != uuid.Nil {
			single[of.Course] = append(single[of.Course], of)
		}
	}
	for _, z := range shut {
		without(scopeOf(z.CourseID, z.RecordingID), z)
		if z.RecordingID == nil {
			for _, of := range single[z.CourseID] {
				without(of, z)
			}
		}
	}
	return out, nil
}

func scopeOf(course uuid.UUID, recording *uuid.UUID) Scope {
	if recording == nil {
		return Scope{Course: course}
	}
	return Scope{Course: course, Recording: *recording}
}

// Counts says for each recording of a course how many of the enrolled can watch it now.
func (s *Service) Counts(ctx context.Context, course uuid.UUID) (map[uuid.UUID]viewing.Count, error) {
	reaches, err := s.Reaches(ctx, []uuid.UUID{course})
	if err != nil {
		return nil, err
	}
	type row struct {
		RecordingID uuid.UUID
		CourseID    uuid.UUID
		Lit         bool // and watchable
		LectureEnd  time.Time
		OwnID       uuid.UUID
	}
	rows, err := postgres.All[row](ctx, s.DB, shownSQL, []uuid.UUID{course})
	if err != nil {
		return nil, fmt.Errorf("count who can watch: %w", err)
	}
	now, out := s.Clock.Now(), map[uuid.UUID]viewing.Count{}
	for _, r := range rows {
		out[r.RecordingID] = reaches.Of(course, r.RecordingID).Count(viewing.Release{Lit: r.Lit, Watchable: r.Lit,
			LectureEnd: r.LectureEnd}, now)
	}
	return out, nil
}
