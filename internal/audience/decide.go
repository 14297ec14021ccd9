package audience

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// Door is the decision for one person at one recording.
type Door struct {
	viewing.Decision
	Course uuid.UUID // whose rule decided
	Code   string    // of that course
	Opens  time.Time // when the decision is NotYet

	Edition *uuid.UUID // that is published now; nil for none

	Takeaway bool // the rule of the course lets those whom it speaks of take a copy away
}

// Decide says whether a person may watch a recording now. Its error is ErrUnknown when
// there is no such recording, or it was deleted.
func (s *Service) Decide(ctx context.Context, person, recording uuid.UUID) (Door, error) {
	doors, err := s.Doors(ctx, person, []uuid.UUID{recording})
	if err != nil {
		return Door{}, err
	}
	door, ok := doors[recording]
	if !ok {
		return Door{}, ErrUnknown
	}
	return door, nil
}

type doorRow struct {
	RecordingID   uuid.UUID
	CourseID      uuid.UUID
	Code          string
	Coordinator   bool
	Part, Group   string
	EditionID     *uuid.UUID
	Lit           bool
	LectureEnd    time.Time
	LastDay       time.Time
	Zone          string
	Audience      *string
	Groups        []string
	Download      *bool
	FromKind      *string
	FromAt        *time.Time
	UntilKind     *string
	UntilAt       *time.Time
	DaysAfterTerm *int
}

const doorSQL = `select r.id as recording_id, k.id as course_id, k.code, p.coordinator, coalesce(m.part, '') as part, coalesce(m.group_name, '') as "group",
		r.edition_id, pub.id is not null as lit,
		` + lectureEnd + ` as lecture_end, t.last_day, t.zone,
		v.audience, v.groups, v.download, v.from_kind, v.from_at, v.until_kind, v.until_at, v.days_after_term
	from recording r join lecture l on l.id = r.lecture_id
	join recording_source x on x.recording_id = r.id
	join course k on k.id = l.course_id join term t on t.id = k.term_id
	join person p on p.id = $2
	left join membership m on m.course_id = k.id and m.person_id = p.id
	left join publication pub on pub.recording_id = r.id and pub.course_id = k.id and pub.darkened_at is null
	left join viewing_rule v on v.course_id = k.id and v.ended_at is null
	where r.id = any($1) and r.deleted_at is null`

// Doors says for each of the recordings whether a person may watch it now. Those that are
// not there, or were deleted, are left out.
func (s *Service) Doors(ctx context.Context, person uuid.UUID, recordings []uuid.UUID) (map[uuid.UUID]Door, error) {
	rows, err := postgres.All[doorRow](ctx, s.DB, doorSQL, recordings, person)
	if err != nil {
		return nil, fmt.Errorf("decide who may watch: %w", err)
	}
	now := s.Clock.Now()
	out := map[uuid.UUID]Door{}
	for _, x := range rows {
		if out[x.RecordingID], err = x.door(now); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func (x doorRow) door(now time.Time) (Door, error) {
	zone, err := time.LoadLocation(x.Zone)
	if err != nil {
		return Door{}, fmt.Errorf("read the zone of a term: %w", err)
	}
	var rule *viewing.Rule
	if x.Audience != nil {
		rule = ruleRow{*x.Audience, x.Groups, *x.Download, *x.FromKind, x.FromAt, *x.UntilKind, x.UntilAt, *x.DaysAfterTerm}.rule()
	}
	y, m, d := x.LastDay.Date()
	what := viewing.Recording{Watchable: x.EditionID != nil, Lit: x.Lit, LectureEnd: x.LectureEnd, TermEnd: time.Date(y, m, d+1, 0, 0, 0, 0, zone)}
	door := Door{Course: x.CourseID, Code: x.Code, Edition: x.EditionID}
	door.Decision = viewing.Decide(rule, viewing.Viewer{Coordinator: x.Coordinator, Part: viewing.Part(x.Part), Group: x.Group}, what, now)
	if rule != nil {
		door.Opens, door.Takeaway = rule.Opens(what), rule.Download
	}
	return door, nil
}

// Name is a person in a preview.
type Name struct {
	PersonID uuid.UUID
	Name     string
}

// Change is what a rule would change for the people of a course.
type Change struct {
	Gain, Lose []Name
	TakeMore   []Name // who can watch before and after, and take a copy away only after
	TakeLess   []Name // the other way round
	Can, Of    int    // students who could watch at least one lit recording afterwards, of all
	Covered    int    // students that the rule speaks of, whether or not anything is lit
	Recordings int    // that are lit, which is what this is about
}

// Preview says what a rule would change, before it is kept. A person gains who can watch
// some lit recording of the course afterwards that was closed before, and loses likewise.
func (s *Service) Preview(ctx context.Context, course uuid.UUID, r viewing.Rule) (Change, error) {
	if err := r.Check(); err != nil {
		return Change{}, fmt.Errorf("%w: %w", ErrInvalid, err)
	}
	groups := r.Groups
	if groups == nil {
		groups = []string{}
	}
	proposed, err := json.Marshal(map[string]any{
		"audience": r.Audience, "groups": groups, "from_kind": r.From, "from_at": nullable(r.FromAt),
		"until_kind": r.Until, "until_at": nullable(r.UntilAt), "days_after_term": r.DaysAfterTerm,
	})
	if err != nil {
		return Change{}, fmt.Errorf("write a proposed rule: %w", err)
	}
	type seat struct {
		PersonID, RecordingID uuid.UUID
		Name                  string
		Reason                viewing.Reason
	}
	const query = `select d.person_id, d.recording_id, p.name, d.reason from (` + decisionsSQL + `) d join person p on p.id = d.person_id order by p.name, d.recording_id`
	now := s.Clock.Now()
	before, err := postgres.All[seat](ctx, s.DB, query, []uuid.UUID{course}, nil, nil, now)
	if err != nil {
		return Change{}, fmt.Errorf("decide under the rule as it is: %w", err)
	}
	after, err := postgres.All[seat](ctx, s.DB, query, []uuid.UUID{course}, course, proposed, now)
	if err != nil {
		return Change{}, fmt.Errorf("decide under a proposed rule: %w", err)
	}
	type at struct{ person, recording uuid.UUID }
	was := map[at]bool{}
	for _, x := range before {
		was[at{x.PersonID, x.RecordingID}] = x.Reason == viewing.ByRule
	}
	old, err := s.Rule(ctx, course)
	if err != nil {
		return Change{}, err
	}
	copies, told := old != nil && old.Download, map[uuid.UUID]bool{} // those who can watch could take copies away
	var out Change
	gain, lose, can, lit := map[uuid.UUID]bool{}, map[uuid.UUID]bool{}, map[uuid.UUID]bool{}, map[uuid.UUID]bool{}
	for _, x := range after {
		if x.Reason != viewing.NotLit {
			lit[x.RecordingID] = true
		}
		now, then := x.Reason == viewing.ByRule, was[at{x.PersonID, x.RecordingID}]
		if now {
			can[x.PersonID] = true
		}
		if now && then && copies != r.Download && !told[x.PersonID] {
			told[x.PersonID] = true
			if r.Download {
				out.TakeMore = append(out.TakeMore, Name{x.PersonID, x.Name})
			} else {
				out.TakeLess = append(out.TakeLess, Name{x.PersonID, x.Name})
			}
		}
		if now && !then && !gain[x.PersonID] {
			gain[x.PersonID] = true
			out.Gain = append(out.Gain, Name{x.PersonID, x.Name})
		}
		if !now && then && !lose[x.PersonID] {
			lose[x.PersonID] = true
			out.Lose = append(out.Lose, Name{x.PersonID, x.Name})
		}
	}
	out.Can, out.Recordings = len(can), len(lit)
	seats, err := s.DB.Query(ctx, `select group_name from membership where course_id = $1 and part = 'student'`, course)
	if err != nil {
		return Change{}, fmt.Errorf("list the students of a course: %w", err)
	}
	in, err := pgx.CollectRows(seats, pgx.RowTo[string])
	if err != nil {
		return Change{}, fmt.Errorf("list the students of a course: %w", err)
	}
	out.Of = len(in)
	for _, group := range in {
		if r.Covers(group) {
			out.Covered++
		}
	}
	return out, nil
}

func nullable(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
}

// WasLit reports whether a recording is, or ever was, lit for its course.
func (s *Service) WasLit(ctx context.Context, recording uuid.UUID) (bool, error) {
	was, err := postgres.Value[bool](ctx, s.DB, `select exists (select 1 from publication where recording_id = $1)`, recording)
	if err != nil {
		return false, fmt.Errorf("look whether a recording was lit: %w", err)
	}
	return was, nil
}
