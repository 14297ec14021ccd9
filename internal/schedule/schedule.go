// Package schedule knows terms, courses and lectures, and what each lecture waits for.
package schedule

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/naming"
	"latelantern/internal/core/playlist"
	"latelantern/internal/core/timetable"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
)

// Service is the use-case.
type Service struct {
	DB    *pgxpool.Pool
	Clock clock.Clock
}

// ErrUnknown says that there is no such term, course or lecture.
var ErrUnknown = errors.New("there is nothing at this address")

// Term is a term with its weeks.
type Term struct {
	ID    uuid.UUID
	Name  string
	Zone  *time.Location
	Plan  timetable.Term
	Weeks []timetable.Week
}

// Week is the week of the term in which t lies; its number is 0 outside the term or in a break.
func (t Term) Week(at time.Time) timetable.Week {
	w, ok := t.Plan.WeekOf(timetable.DayOf(at, t.Zone))
	if !ok {
		return timetable.Week{Monday: timetable.Monday(timetable.DayOf(at, t.Zone))}
	}
	return w
}

// CurrentTerm is the term under way, or else the next, or else the last.
func (s *Service) CurrentTerm(ctx context.Context) (Term, error) {
	const query = `select id from term order by case when $1::date between first_day and last_day then 0 when first_day > $1::date then 1 else 2 end,
		case when first_day > $1::date then first_day - $1::date else $1::date - last_day end limit 1`
	id, err := postgres.Value[uuid.UUID](ctx, s.DB, query, s.Clock.Now())
	if errors.Is(err, pgx.ErrNoRows) {
		return Term{}, ErrUnknown
	}
	if err != nil {
		return Term{}, fmt.Errorf("find the current term: %w", err)
	}
	return s.term(ctx, id)
}

func (s *Service) term(ctx context.Context, id uuid.UUID) (Term, error) {
	row, err := postgres.One[struct {
		Name              string
		FirstDay, LastDay time.Time
		Zone              string
	}](ctx, s.DB, `select name, first_day, last_day, zone from term where id = $1`, id)
	if err != nil {
		return Term{}, fmt.Errorf("read a term: %w", err)
	}
	breaks, err := postgres.All[struct {
		FirstDay, LastDay time.Time
		Name              string
	}](ctx, s.DB, `select first_day, last_day, name from term_break where term_id = $1 order by first_day`, id)
	if err != nil {
		return Term{}, fmt.Errorf("read the breaks of a term: %w", err)
	}
	zone, err := time.LoadLocation(row.Zone)
	if err != nil {
		return Term{}, fmt.Errorf("read the zone of a term: %w", err)
	}
	t := Term{ID: id, Name: row.Name, Zone: zone, Plan: timetable.Term{First: row.FirstDay, Last: row.LastDay}}
	for _, b := range breaks {
		t.Plan.Breaks = append(t.Plan.Breaks, timetable.Break{First: b.FirstDay, Last: b.LastDay, Name: b.Name})
	}
	t.Weeks = t.Plan.Weeks()
	return t, nil
}

// Course is a course of a term.
type Course struct {
	ID        uuid.UUID
	TermID    uuid.UUID
	Code      string
	Title     string
	Lecturers []string
	Halls     []string
	Students  int
	Ruled     bool
}

const courseSQL = `select c.id, c.term_id, c.code, c.title,
	coalesce((select array_agg(p.name order by p.name) from membership m join person p on p.id = m.person_id where m.course_id = c.id and m.part = 'lecturer'), '{}') as lecturers,
	coalesce((select array_agg(distinct h.name) from lecture l join hall h on h.id = l.hall_id where l.course_id = c.id), '{}') as halls,
	(select count(*) from membership m where m.course_id = c.id and m.part = 'student') as students,
	exists (select 1 from viewing_rule v where v.course_id = c.id and v.ended_at is null) as ruled
	from course c`

// Course is the course with this id.
func (s *Service) Course(ctx context.Context, id uuid.UUID) (Course, error) {
	c, err := postgres.One[Course](ctx, s.DB, courseSQL+` where c.id = $1`, id)
	if errors.Is(err, pgx.ErrNoRows) {
		return c, ErrUnknown
	}
	if err != nil {
		return c, fmt.Errorf("read a course: %w", err)
	}
	return c, nil
}

// Courses lists the courses of a term by code: all of them, or those a person teaches.
func (s *Service) Courses(ctx context.Context, term uuid.UUID, taughtBy *uuid.UUID) ([]Course, error) {
	const query = courseSQL + ` where c.term_id = $1 and ($2::uuid is null or exists (
		select 1 from membership m where m.course_id = c.id and m.person_id = $2 and m.part in ('lecturer', 'assistant'))) order by c.code`
	out, err := postgres.All[Course](ctx, s.DB, query, term, taughtBy)
	if err != nil {
		return nil, fmt.Errorf("list courses: %w", err)
	}
	return out, nil
}

// Lecture is one lecture, and the recording of it that is furthest on the way, if any.
type Lecture struct {
	ID          uuid.UUID
	CourseID    uuid.UUID
	Code        string
	CourseTitle string
	Hall        string
	StartsAt    time.Time
	EndsAt      time.Time
	Topic       string
	CalledOff   bool
	Part        int // of the recording among those of the lecture that hold something, from 1
	RecordingID *uuid.UUID
	Title       string
	Running     bool
	RunningFrom *time.Time
	Ready       bool
	Failed      bool
	Trimmed     bool
	Titled      bool
	Ruled       bool
	Listed      bool
	Lit         bool
	Current     bool
	Making      bool
}

// Facts is what the next step is computed from.
func (l Lecture) Facts() playlist.Facts {
	return playlist.Facts{
		Start: l.StartsAt, End: l.EndsAt, CalledOff: l.CalledOff, Captured: l.RecordingID != nil, Running: l.Running, Ready: l.Ready, Failed: l.Failed,
		Trimmed: l.Trimmed, Titled: l.Titled, Ruled: l.Ruled, Listed: l.Listed, Lit: l.Lit, Current: l.Current, Making: l.Making,
	}
}

// SuggestedTitle is the title that a recording of the lecture has until it is given one.
func (l Lecture) SuggestedTitle(t Term) string {
	return naming.Title(naming.Lecture{Course: l.Code, Week: t.Week(l.StartsAt).Number, Date: l.StartsAt.In(t.Zone), Topic: l.Topic, Part: l.Part})
}

// lectureSQL gives a row for each lecture and each of its recordings. With best, only the
// recording that is furthest: the one that runs, else the one that is lit, else the newest.
const lectureSQL = `select * from (
	select l.id, l.course_id, k.code, k.title as course_title, h.name as hall, l.starts_at, l.ends_at, l.topic, l.called_off_at is not null as called_off,
		coalesce(row_number() over (partition by l.id, t.state = 'failed' order by r.created_at, r.id), 1)::int as part,
		r.id as recording_id, coalesce(r.title, '') as title,
		coalesce(c.source = 'desk' and c.stopped_at is null, false) as running, c.started_at as running_from,
		coalesce(t.state = 'ready', false) as ready, coalesce(t.state = 'failed', false) as failed,
		r.cut_list_id is not null as trimmed, r.titled_at is not null as titled,
		exists (select 1 from viewing_rule v where v.course_id = k.id and v.ended_at is null) as ruled,
		exists (select 1 from playlist_entry e where e.recording_id = r.id) as listed,
		exists (select 1 from publication p where p.recording_id = r.id and p.course_id = k.id and p.darkened_at is null) as lit,
		coalesce(ed.id is not null and ed.cut_list_id is not distinct from r.cut_list_id, false) as current,
		exists (select 1 from edition m where m.recording_id = r.id and m.cut_list_id is not distinct from r.cut_list_id and m.state = 'making') as making
	from lecture l
	join course k on k.id = l.course_id
	join hall h on h.id = l.hall_id
	left join (recording r
		join recording_capture rc on rc.recording_id = r.id and rc.position = 0
		join capture c on c.id = rc.capture_id
		join track t on t.capture_id = c.id
		left join edition ed on ed.id = r.edition_id) on r.lecture_id = l.id and r.deleted_at is null
	where %s) x`

const best = ` order by x.starts_at, x.id, x.running desc, x.lit desc, x.failed, x.part desc`

// Lectures lists the lectures of courses in order, each with the recording that is furthest.
func (s *Service) Lectures(ctx context.Context, courses []uuid.UUID) ([]Lecture, error) {
	all, err := postgres.All[Lecture](ctx, s.DB, fmt.Sprintf(lectureSQL, "l.course_id = any($1)")+best, courses)
	if err != nil {
		return nil, fmt.Errorf("list lectures: %w", err)
	}
	var out []Lecture
	for _, l := range all {
		if n := len(out); n == 0 || out[n-1].ID != l.ID {
			out = append(out, l)
		}
	}
	return out, nil
}

// Lecture is one lecture with a row for each of its recordings, the furthest first; one row
// when there is none. Its error is ErrUnknown when there is no such lecture.
func (s *Service) Lecture(ctx context.Context, id uuid.UUID) ([]Lecture, error) {
	out, err := postgres.All[Lecture](ctx, s.DB, fmt.Sprintf(lectureSQL, "l.id = $1")+best, id)
	if err != nil {
		return nil, fmt.Errorf("read a lecture: %w", err)
	}
	if len(out) == 0 {
		return nil, ErrUnknown
	}
	return out, nil
}

// OfRecording is the lecture of a recording, with the facts of that recording.
func (s *Service) OfRecording(ctx context.Context, lecture, recording uuid.UUID) (Lecture, error) {
	rows, err := s.Lecture(ctx, lecture)
	if err != nil {
		return Lecture{}, err
	}
	for _, l := range rows {
		if l.RecordingID != nil && *l.RecordingID == recording {
			return l, nil
		}
	}
	return Lecture{}, ErrUnknown
}
