// Package schedule knows terms, halls, courses and their plans, and of each lecture when it is
// held and what it waits for.
package schedule

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/doorway"
	"latelantern/internal/core/naming"
	"latelantern/internal/core/playlist"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
)

// Service is the use-case.
type Service struct {
	DB     *pgxpool.Pool
	Clock  clock.Clock
	Secret []byte // signs the addresses of feeds
}

// ErrUnknown says that there is no such term, course or lecture.
var ErrUnknown = errors.New("there is nothing at this address")

// Lecture is one lecture, and the recording of it that is furthest on the way, if any.
type Lecture struct {
	ID          uuid.UUID
	CourseID    uuid.UUID
	Code        string
	CourseTitle string
	HallID      *uuid.UUID
	Hall        string // "" for none
	StartsAt    time.Time
	EndsAt      time.Time
	Topic       string
	CalledOff   bool
	Unplanned   bool // captured in the standing room of its course
	PlanID      *uuid.UUID
	PlannedAt   *time.Time // where its plan has it
	Doorway     doorway.Way
	OpensMin    int // before the start
	CaptureAuto bool
	LeadMin     int
	TailMin     int
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

// Moved reports whether the lecture is away from where its plan has it.
func (l Lecture) Moved() bool { return l.PlannedAt != nil && !l.PlannedAt.Equal(l.StartsAt) }

// Door is the doorway of the lecture.
func (l Lecture) Door() doorway.Door {
	return doorway.Door{Way: l.Doorway, Opens: time.Duration(l.OpensMin) * time.Minute, Start: l.StartsAt, CalledOff: l.CalledOff}
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
	select l.id, l.course_id, k.code, k.title as course_title, l.hall_id, coalesce(h.name, '') as hall, l.starts_at, l.ends_at, l.topic, l.called_off_at is not null as called_off,
		l.unplanned, l.plan_id, l.planned_start as planned_at, l.doorway, l.opens_min, l.capture_auto, l.lead_min, l.tail_min,
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
	left join hall h on h.id = l.hall_id
	left join (recording r
		join recording_capture rc on rc.recording_id = r.id and rc.position = 0
		join capture c on c.id = rc.capture_id
		join track t on t.capture_id = c.id
		left join edition ed on ed.id = r.edition_id) on r.lecture_id = l.id and r.deleted_at is null
	where %s) x`

const best = ` order by x.starts_at, x.id, x.running desc, x.lit desc, x.failed, x.part desc`

// Lectures lists the lectures of courses in order, each with the recording that is furthest.
func (s *Service) Lectures(ctx context.Context, courses []uuid.UUID) ([]Lecture, error) {
	all, err := postgres.All[Lecture](ctx, s.DB, fmt.Sprintf(lectureSQL, "l.course_id = any($1) and (not l.unplanned or r.id is not null)")+best, courses)
	if err != nil {
		return nil, fmt.Errorf("list lectures: %w", err)
	}
	return furthest(all), nil
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

// Between lists the lectures that begin between two times, in order, each with the recording
// that is furthest: all of them, or those of the courses that a person teaches. What is
// unplanned is among them once it is captured.
func (s *Service) Between(ctx context.Context, from, to time.Time, taughtBy *uuid.UUID) ([]Lecture, error) {
	const where = `l.starts_at >= $1 and l.starts_at < $2 and (not l.unplanned or r.id is not null)
		and ($3::uuid is null or exists (select 1 from membership m where m.course_id = l.course_id and m.person_id = $3 and m.part in ('lecturer', 'assistant')))`
	all, err := postgres.All[Lecture](ctx, s.DB, fmt.Sprintf(lectureSQL, where)+best, from, to, taughtBy)
	if err != nil {
		return nil, fmt.Errorf("list the lectures of a day: %w", err)
	}
	return furthest(all), nil
}

// furthest keeps the first row of each lecture.
func furthest(all []Lecture) []Lecture {
	var out []Lecture
	for _, l := range all {
		if n := len(out); n == 0 || out[n-1].ID != l.ID {
			out = append(out, l)
		}
	}
	return out
}
