package audience

import (
	"context"
	"errors"
	"fmt"

	"github.com/google/uuid"

	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// rulesSQL are the rules of the courses $1, of single recordings in them, and of the college, as it holds in each of
// them; that of least rank holds. Of each scope in the list $2 of proposals, when that is not null, the rule is taken
// to be the one proposed, or none when it has no audience.
const rulesSQL = `
with proposed as (
	select x.course_id, x.recording_id, x.audience, x.groups, x.uses, ` + windowColumns + `
	from jsonb_to_recordset(coalesce($2::jsonb, '[]')) as x(course_id uuid, recording_id uuid, audience text,
		groups text[], uses text[], from_kind text, from_at timestamptz, days_after_lecture int, until_kind text,
		until_at timestamptz, days_after_term int)
), set as (
	select v.course_id, v.recording_id, v.audience, v.groups, v.uses, ` + windowColumns + `
	from viewing_rule v
	where v.ended_at is null and (v.course_id = any($1) or v.course_id is null)
	and ($2::jsonb is null or not exists (select 1 from proposed p
		where (p.course_id, p.recording_id) is not distinct from (v.course_id, v.recording_id)))
	union all
	select p.* from proposed p where p.audience is not null
), rule as (
	select row_number() over () as n, k.id as course_id, x.recording_id, x.audience, x.groups, x.uses,
		case when x.recording_id is not null then 1 when x.course_id is not null then 2 else 3 end as rank,
		case x.from_kind when 'date' then x.from_at when 'once' then timestamptz '0001-01-01Z' end as opens,
		x.days_after_lecture,
		case x.until_kind when 'date' then x.until_at
			when 'term' then (t.last_day + 1 + x.days_after_term)::timestamp at time zone t.zone end as closes
	from set x join course k on k.id = x.course_id or x.course_id is null and k.id = any($1)
	join term t on t.id = k.term_id
)`

// holdsSQL joins to what is shown as s the rule v that holds for it.
const holdsSQL = `
left join rule v1 on v1.rank = 1 and v1.course_id = s.course_id and v1.recording_id = s.recording_id
left join rule v2 on v2.rank = 2 and v2.course_id = s.course_id
left join rule v3 on v3.rank = 3 and v3.course_id = s.course_id
left join rule v on v.n = coalesce(v1.n, v2.n, v3.n)`

// stoppedFrom joins to the recording r when its capture stopped, as recording_source has it. That view would be worked
// out for all recordings where a few are asked for.
const stoppedFrom = `
	cross join lateral (select case when bool_and(c.stopped_at is not null) then max(c.stopped_at) end as stopped_at
		from recording_capture rc join capture c on c.id = rc.capture_id where rc.recording_id = r.id) x`

// lectureEnd says in SQL what viewing.LectureEnd says in Go.
const lectureEnd = `greatest(l.starts_at, least(l.ends_at, coalesce(x.stopped_at, l.ends_at)))`

// shownSQL are the recordings that the courses $1 have.
const shownSQL = `select r.id as recording_id, e.course_id, r.edition_id is not null and e.lit as lit, ` + lectureEnd +
	` as lecture_end, l.course_id as own_id from released e` + shownFrom

const shownFrom = `
	join recorded r on r.id = e.recording_id
	join lecture l on l.id = r.lecture_id` + stoppedFrom + `
	where e.course_id = any($1) and r.deleted_at is null`

// opens is when the rule v begins to hold for what is shown as s.
const opens = `coalesce(v.opens, s.lecture_end + v.days_after_lecture * interval '24 hours')`

// covers tells whether the rule v speaks of the member m.
const covers = `(v.audience = 'everyone' or m.group_name = any(v.groups))`

// decisionsSQL decides for every enrolled student of the courses $1, for every recording that they have, at the time
// $3: whether one may watch by that course. It says in SQL what viewing.Way.Decide says in Go.
const decisionsSQL = rulesSQL + `, shown as (` + shownSQL + `)` + decidedSQL

// shutHolds tells whether z shuts the member m out of what is shown as s, at the time $3.
const shutHolds = `z.person_id = m.person_id and z.ended_at is null and (z.until_at is null or $3 < z.until_at)
	and z.course_id in (s.course_id, s.own_id) and (z.recording_id is null or z.recording_id = s.recording_id)`

// decidedSQL decides for what is shown, under the rules.
const decidedSQL = `
select s.course_id, s.recording_id, m.person_id,
	case when exists (select 1 from shut_out z where ` + shutHolds + `) then 'shut_out'
	when not s.lit then 'not_lit' when v.course_id is null then 'no_rule' when not ` + covers +
	` then 'other_group'
	when $3 < ` + opens + ` then 'not_yet'
		when $3 >= v.closes then 'no_longer' else 'rule' end as reason,
	` + opens + ` as opens, coalesce(array_to_string(v.uses, ' '), '') as uses
from shown s` + holdsSQL + `
join membership m on m.course_id = s.course_id and m.role = 'student'`

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
		where d.recording_id = $4 order by p.name`
	const has = `select exists (select 1 from released e join recording r on r.id = e.recording_id
		where e.course_id = $1 and e.recording_id = $2 and r.deleted_at is null)`
	if ok, err := postgres.Value[bool](ctx, s.DB, has, course, recording); err != nil || !ok {
		return nil, errors.Join(err, ErrUnknown)
	}
	out, err := postgres.All[Seat](ctx, s.DB, query, []uuid.UUID{course}, nil, s.Clock.Now(), recording)
	if err != nil {
		return nil, fmt.Errorf("list who can watch: %w", err)
	}
	return out, nil
}
