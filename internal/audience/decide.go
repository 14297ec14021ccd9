package audience

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgxpool"
	"golang.org/x/sync/errgroup"

	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/platform/recall"
)

// Access is the decision for one person at one recording.
type Access struct {
	viewing.Decision
	Course uuid.UUID // by which they may watch or, when they may not, came nearest to it
	Code   string    // of that course
	Opens  time.Time // when the decision is NotYet

	Edition *uuid.UUID // that is published now; nil for none

	Ruled  viewing.Uses // what the rule that holds there lets those do whom it speaks of
	Whence string       // of what that rule is: recording, course, college, or empty for none
}

// Decide says whether a person may watch a recording now. Its error is ErrUnknown when
// there is no such recording, or it was deleted.
func (s *Service) Decide(ctx context.Context, person, recording uuid.UUID) (Access, error) {
	accesses, err := s.DecideAll(ctx, person, []uuid.UUID{recording})
	if err != nil {
		return Access{}, err
	}
	access, ok := accesses[recording]
	if !ok {
		return Access{}, ErrUnknown
	}
	return access, nil
}

// Memory remembers decisions until what they rest on changes.
type Memory = recall.Memory[decidedOf, Access]

// decidedOf is about whom and what a decision is.
type decidedOf struct{ person, recording uuid.UUID }

// mostDecided is how many decisions are remembered.
const mostDecided = 50_000

// NewMemory is one for the decisions of a clock.
func NewMemory(line *recall.Line, c clock.Clock) *Memory {
	return recall.NewMemory[decidedOf, Access](line, mostDecided, c.Now)
}

// Recall is Decide that may have been decided before, for whoever asks again and again. What was decided is gone by as
// long as nothing that it rests on has changed and, for a minute, while the database is away.
func (s *Service) Recall(ctx context.Context, person, recording uuid.UUID) (Access, error) {
	if s.Decided == nil {
		return s.Decide(ctx, person, recording)
	}
	return s.Decided.Get(ctx, decidedOf{person, recording}, func(ctx context.Context) (recall.Answer[Access], error) {
		ways, of, err := s.ways(ctx, person, []uuid.UUID{recording})
		if err != nil {
			return recall.Answer[Access]{}, err
		}
		if len(ways[recording]) == 0 {
			return recall.Answer[Access]{}, ErrUnknown
		}
		now := s.Clock.Now()
		rests := []recall.Subject{recall.Person(person), recall.Recording(recording)}
		for _, x := range of[recording] {
			if c := recall.Course(x.CourseID); !slices.Contains(rests, c) {
				rests = append(rests, c)
			}
		}
		return recall.Answer[Access]{Value: access(ways[recording], of[recording], now), Subjects: rests,
			Until: viewing.Next(ways[recording], now)}, nil
	})
}

// releaseRow is one release of a recording, with the rule that holds there.
type releaseRow struct {
	RecordingID uuid.UUID
	CourseID    uuid.UUID
	Code        string
	EditionID   *uuid.UUID
	Own, Lit    bool
	LectureEnd  time.Time
	LastDay     time.Time
	Zone        string
	Whence      string // of what the rule is
	ruleRow
}

// releaseColumns and releaseFrom are what a decision rests on, whoever asks.
const (
	releaseColumns = `e.recording_id, e.course_id, k.code, r.edition_id, e.own, e.lit, ` + lectureEnd +
		` as lecture_end, t.last_day, t.zone,
		case when v.id is null then '' when v.recording_id is not null then 'recording'
			when v.course_id is not null then 'course' else 'college' end as whence,
		coalesce(v.audience, '') as audience, v.groups, v.uses, coalesce(v.from_kind, '') as from_kind, v.from_at,
		coalesce(v.days_after_lecture, 0) as days_after_lecture, coalesce(v.until_kind, '') as until_kind, v.until_at,
		coalesce(v.days_after_term, 0) as days_after_term`
	releaseFrom = ` from released e
	join recorded r on r.id = e.recording_id
	join lecture l on l.id = r.lecture_id` + stoppedFrom + `
	join course k on k.id = e.course_id join term t on t.id = k.term_id
	left join viewing_rule v1 on v1.ended_at is null and v1.course_id = e.course_id and v1.recording_id = e.recording_id
	left join viewing_rule v2 on v2.ended_at is null and v2.course_id = e.course_id and v2.recording_id is null
	left join viewing_rule v3 on v3.ended_at is null and v3.course_id is null
	cross join lateral (select (coalesce(v1, v2, v3)).*) v`
)

// shutFrom tells whether z shuts people out of the release e of a recording of the lecture l.
const shutFrom = `z.ended_at is null and z.course_id in (e.course_id, l.course_id)
	and (z.recording_id is null or z.recording_id = e.recording_id)`

// wayRow is one release of a recording, as its course knows the person.
type wayRow struct {
	releaseRow
	Coordinator bool
	Role, Group string
	ShutUntil   *time.Time
}

// waysSQL are the ways of person $2 to the recordings $1: of each that of its own course, and of the others that they
// are enrolled in.
const waysSQL = `select ` + releaseColumns +
	`, p.coordinator, coalesce(m.role, '') as role, coalesce(m.group_name, '') as "group",
		(select max(coalesce(z.until_at, '9999-01-01Z')) from shut_out z where z.person_id = p.id and ` + shutFrom + `)
		as shut_until` + releaseFrom + `
	join person p on p.id = $2
	left join membership m on m.course_id = e.course_id and m.person_id = p.id
	where e.recording_id = any($1) and r.deleted_at is null and (e.own or m.role is not null)
	order by e.recording_id, e.own desc, e.course_id`

// DecideAll says for each of the recordings whether a person may watch it now. Those that are
// not there, or were deleted, are left out.
func (s *Service) DecideAll(ctx context.Context, person uuid.UUID, recordings []uuid.UUID) (map[uuid.UUID]Access,
	error) {
	out, _, err := s.DecideUntil(ctx, person, recordings)
	return out, err
}

// DecideUntil is DecideAll, and the first moment at which the clock alone may make any of it another; zero for none.
func (s *Service) DecideUntil(ctx context.Context, person uuid.UUID,
	recordings []uuid.UUID) (out map[uuid.UUID]Access, until time.Time, err error) {
	ways, of, err := s.ways(ctx, person, recordings)
	if err != nil {
		return nil, until, err
	}
	now := s.Clock.Now()
	out = make(map[uuid.UUID]Access, len(ways))
	for id, all := range ways {
		out[id] = access(all, of[id], now)
		if next := viewing.Next(all, now); !next.IsZero() && (until.IsZero() || next.Before(until)) {
			until = next
		}
	}
	return out, until, nil
}

// DecisionBasis is SQL for all that decisions for a person at some recordings rest on, a text for each row, where both
// are given as SQL: as long as no row is another, DecideUntil says the same until its moment.
func (s *Service) DecisionBasis(person, recordings string) string {
	ways := strings.NewReplacer("$1", recordings, "$2", person).Replace(waysSQL)
	opened := strings.NewReplacer("$1", person, "$2", recordings).Replace(openedSQL)
	return `select w::text from (` + ways + `) w union all select o::text from (` + opened + `) o`
}

func (s *Service) often() *pgxpool.Pool {
	if s.Often == nil {
		return s.DB
	}
	return s.Often
}

// ways are the ways of a person to each of the recordings, and the releases that they are by.
func (s *Service) ways(ctx context.Context, person uuid.UUID, recordings []uuid.UUID) (map[uuid.UUID][]viewing.Way,
	map[uuid.UUID][]releaseRow, error) {
	var rows []wayRow
	var opened []openedRow
	both, within := errgroup.WithContext(ctx)
	both.Go(func() (err error) {
		rows, err = postgres.All[wayRow](within, s.often(), waysSQL, recordings, person)
		return err
	})
	both.Go(func() (err error) {
		opened, err = s.openedTo(within, person, recordings)
		return err
	})
	if err := both.Wait(); err != nil {
		return nil, nil, fmt.Errorf("decide who may watch: %w", err)
	}
	ways, of := map[uuid.UUID][]viewing.Way{}, map[uuid.UUID][]releaseRow{}
	for _, x := range rows {
		w, err := x.way()
		if err != nil {
			return nil, nil, err
		}
		w.Viewer = viewing.Viewer{Coordinator: x.Coordinator, Role: viewing.Role(x.Role), Group: x.Group}
		if x.ShutUntil != nil {
			w.ShutUntil = *x.ShutUntil
		}
		ways[x.RecordingID], of[x.RecordingID] = append(ways[x.RecordingID], w), append(of[x.RecordingID], x.releaseRow)
	}
	for _, x := range opened {
		w, err := x.way()
		if err != nil {
			return nil, nil, err
		}
		ways[x.RecordingID], of[x.RecordingID] = append(ways[x.RecordingID], w), append(of[x.RecordingID], x.at())
	}
	return ways, of, nil
}

// access decides by the ways to a recording, of which there is one at least, and their releases.
func access(ways []viewing.Way, of []releaseRow, now time.Time) Access {
	decision, by := viewing.Decide(ways, now)
	w, x := ways[by], of[by]
	out := Access{Decision: decision, Course: x.CourseID, Code: x.Code, Edition: x.EditionID}
	switch {
	case w.Opening != nil:
		out.Opens, out.Ruled = w.Opening.Opens(w.Release), w.Opening.Uses
	case w.Rule != nil:
		out.Opens, out.Ruled, out.Whence = w.Rule.Opens(w.Release), w.Rule.Uses, x.Whence
	}
	return out
}

// Released is a recording as the courses have it: what decisions for any number of people rest on.
type Released struct {
	rows   []releaseRow
	ways   []viewing.Way
	shut   map[shutSeat]time.Time // until when
	opened []openedTo
}

// shutSeat is a person who is shut out of a recording as a course has it.
type shutSeat struct{ person, course uuid.UUID }

// Released reads what decisions on a recording rest on. It is empty for one that is not there, or was deleted.
func (s *Service) Released(ctx context.Context, recording uuid.UUID) (Released, error) {
	const query = `select ` + releaseColumns + releaseFrom +
		` where e.recording_id = $1 and r.deleted_at is null order by e.own desc, e.course_id`
	rows, err := postgres.All[releaseRow](ctx, s.DB, query, recording)
	if err != nil {
		return Released{}, fmt.Errorf("read to whom a recording is released: %w", err)
	}
	out := Released{rows: rows, shut: map[shutSeat]time.Time{}}
	const shut = `select z.person_id, e.course_id, max(coalesce(z.until_at, '9999-01-01Z')) as until
		from release e join recording r on r.id = e.recording_id join lecture l on l.id = r.lecture_id
		join shut_out z on ` + shutFrom + ` where e.recording_id = $1 group by 1, 2`
	seats, err := postgres.All[struct {
		PersonID, CourseID uuid.UUID
		Until              time.Time
	}](ctx, s.DB, shut, recording)
	if err != nil {
		return Released{}, fmt.Errorf("read who is shut out of a recording: %w", err)
	}
	for _, x := range seats {
		out.shut[shutSeat{x.PersonID, x.CourseID}] = x.Until
	}
	for _, x := range rows {
		w, err := x.way()
		if err != nil {
			return Released{}, err
		}
		out.ways = append(out.ways, w)
	}
	out.opened, err = s.openedToAny(ctx, recording)
	return out, err
}

// ByLink is the decision for whoever has the link that an opening is, and nothing else.
func (r Released) ByLink(opening uuid.UUID, now time.Time) Access {
	for _, o := range r.opened {
		if o.OpeningID == opening && o.Kind == ForHolders && !o.ended {
			return access([]viewing.Way{o.way}, []releaseRow{o.at()}, now)
		}
	}
	return Access{Decision: viewing.Decision{Reason: viewing.NotEnrolled}}
}

// WasOpened reports whether the recording is, or ever was, open to someone beside any course, if at another time.
func (r Released) WasOpened(person uuid.UUID, guest bool) bool {
	return slices.ContainsFunc(r.opened, func(o openedTo) bool { return o.former[person] || o.isFor(person, guest) })
}

// Door is the decision for a person now, who may be a guest without an account, by how each course knows them. It is
// closed where there is no way in.
func (r Released) Door(person uuid.UUID, guest bool, as func(course uuid.UUID) viewing.Viewer, now time.Time) Access {
	var ways []viewing.Way
	var of []releaseRow
	for i, w := range r.ways {
		w.Viewer = as(r.rows[i].CourseID)
		w.ShutUntil = r.shut[shutSeat{person, r.rows[i].CourseID}]
		if r.rows[i].Own || w.Viewer.Role != viewing.Nobody {
			ways, of = append(ways, w), append(of, r.rows[i])
		}
	}
	for _, o := range r.opened {
		if !o.ended && o.isFor(person, guest) {
			w := o.way
			w.ShutUntil = r.shut[shutSeat{person, o.CourseID}]
			ways, of = append(ways, w), append(of, o.at())
		}
	}
	if len(ways) == 0 {
		return Access{Decision: viewing.Decision{Reason: viewing.NotEnrolled}}
	}
	return access(ways, of, now)
}

func (x releaseRow) way() (viewing.Way, error) {
	end, err := termEnd(x.LastDay, x.Zone)
	return viewing.Way{Rule: x.rule(), Release: viewing.Release{Own: x.Own, Watchable: x.EditionID != nil, Lit: x.Lit,
		LectureEnd: x.LectureEnd, TermEnd: end}}, err
}

// termEnd is the end of the last day of a term.
func termEnd(lastDay time.Time, zone string) (time.Time, error) {
	place, err := placeOf(zone)
	if err != nil {
		return time.Time{}, fmt.Errorf("read the zone of a term: %w", err)
	}
	y, m, d := lastDay.Date()
	return time.Date(y, m, d+1, 0, 0, 0, 0, place), nil
}

// places are the zones of terms by name, each of which would be read from a file.
var places sync.Map

func placeOf(zone string) (*time.Location, error) {
	if p, ok := places.Load(zone); ok {
		return p.(*time.Location), nil
	}
	p, err := time.LoadLocation(zone)
	if err == nil {
		places.Store(zone, p)
	}
	return p, err
}
