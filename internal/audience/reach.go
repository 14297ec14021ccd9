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
// A course in which none holds has one without an audience. Equal rules of a course are known by a hash of what they
// say, which its index has.
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
select k.id, x.recordings, t.last_day, t.zone, v.audience, v.groups, null, ` + windowColumns + `
from course k join term t on t.id = k.term_id cross join lateral (
	select array_agg(recording_id) as recordings, (array_agg(id))[1] as id from viewing_rule
	where course_id = k.id and recording_id is not null and ended_at is null
	group by said) x
join viewing_rule v on v.id = x.id
where k.id = any($1)`

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
	all := map[uuid.UUID]map[uuid.UUID]string{} // by course, who is shut out of all that it has, with their group
	for _, z := range shut {
		if z.RecordingID == nil {
			if all[z.CourseID] == nil {
				all[z.CourseID] = map[uuid.UUID]string{}
			}
			all[z.CourseID][z.PersonID] = z.Group
		}
	}
	scopes := len(rules)
	for _, x := range rules {
		scopes += len(x.Recordings)
	}
	out := make(Reaches, scopes)
	for _, x := range rules {
		end, err := termEnd(x.LastDay, x.Zone)
		if err != nil {
			return nil, err
		}
		r := Reach{Of: count[x.CourseID], Rule: x.rule(), TermEnd: end}
		if r.Rule != nil {
			for _, g := range byCourse[x.CourseID] {
				if r.Rule.Covers(g.Group) {
					r.Covered += g.N
				}
			}
			for _, group := range all[x.CourseID] {
				if r.Rule.Covers(group) {
					r.Covered--
				}
			}
		}
		if x.Recordings == nil {
			out[Scope{Course: x.CourseID}] = r
		}
		for _, id := range x.Recordings {
			out[Scope{x.CourseID, id}] = r
		}
	}
	out.without(shut, all)
	return out, nil
}

// without takes those out of the count who are shut out of one recording, unless they are of all.
func (r Reaches) without(shut []shutIn, all map[uuid.UUID]map[uuid.UUID]string) {
	type seat struct {
		of     Scope
		person uuid.UUID
	}
	counted := map[seat]bool{}
	for _, z := range shut {
		if z.RecordingID == nil {
			continue
		}
		of := Scope{z.CourseID, *z.RecordingID}
		at := seat{of, z.PersonID}
		one, own := r[of]
		if !own { // what someone alone is shut out of has a reach of its own
			one = r[Scope{Course: z.CourseID}]
		}
		if _, is := all[z.CourseID][z.PersonID]; !is && one.Rule != nil && one.Rule.Covers(z.Group) && !counted[at] {
			counted[at] = true
			one.Covered--
		}
		r[of] = one
	}
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
