// Package schedule knows terms, halls, courses and their plans, and of each lecture when it is
// held and what it waits for.
package schedule

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"golang.org/x/sync/errgroup"

	"latelantern/internal/core/doorway"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/naming"
	"latelantern/internal/core/viewing"
	"latelantern/internal/core/watchdog"
	"latelantern/internal/core/workflow"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
)

// Service keeps terms, courses, plans and lectures. All its fields are needed. It may be used by many at once. A call
// whose context ends gives its error and has changed nothing.
type Service struct {
	DB     *pgxpool.Pool
	Clock  clock.Clock
	Secret []byte // signs the addresses of feeds
}

// ErrUnknown says that there is no such term, course or lecture.
var ErrUnknown = fault.Code("schedule.unknown")

// Lecture is one lecture, and the recording of it that is furthest on the way, if any.
type Lecture struct {
	Dated
	Recorded
}

// Dated is a lecture as it is planned.
type Dated struct {
	ID          uuid.UUID
	CourseID    uuid.UUID
	Code        string
	CourseTitle string
	Naming      string // the pattern of the course's titles; see core/naming
	HallID      *uuid.UUID
	Hall        string // "" for none
	StartsAt    time.Time
	EndsAt      time.Time
	EndedAt     *time.Time // for everyone, by someone who teaches it: due then, unless that is taken back
	Topic       string
	CalledOff   bool
	Unplanned   bool // captured in the standing room of its course, or ahead
	Ahead       bool // a lesson for a week, recorded alone at any time
	Private     bool // nobody was invited: students learn of it when they can open its recording; see viewing.Learns
	PlanID      *uuid.UUID
	PlannedAt   *time.Time // where its plan has it
	Doorway     doorway.Way
	OpensMin    int // before the start
	CaptureAuto bool
	LeadMin     int
	TailMin     int
}

// Recorded is how far a recording of a lecture is.
type Recorded struct {
	Part        int `db:"-"` // of the recording among those of the lecture that hold something, from 1
	RecordingID *uuid.UUID
	Title       string
	Subject     string // what it is about, as its slides say
	Running     bool
	RunningFrom *time.Time
	Alone       bool       // it runs, and nobody is invited
	StoppedAt   *time.Time // when the capture ended
	LastAt      *time.Time // when something of what runs came last
	PausedAt    *time.Time // since when what runs is paused
	LengthMs    int64      // how much can be watched of what was captured
	Bytes       int64      // stored of it
	Source      string     // desk, hall or file
	Apart       bool       // all of it was captured by someone alone, with nobody invited
	Ready       bool
	Failed      bool
	Trimmed     bool
	Titled      bool
	Ruled       bool
	Listed      bool
	Lit         bool
	Current     bool
	Watchable   bool // an edition of it exists
	Making      bool
	Drafted     bool // there is a draft of captions that nobody has looked at
	Told        bool // its course told its students of it, will, or need not
}

// Moved reports whether the lecture is away from where its plan has it.
func (l Lecture) Moved() bool { return l.PlannedAt != nil && !l.PlannedAt.Equal(l.StartsAt) }

// Phase is how what is captured of the lecture goes; "" when nothing was, or it came as a file.
func (l Lecture) Phase(now time.Time) watchdog.Phase {
	if l.RecordingID == nil || l.Source == "file" {
		return ""
	}
	p := watchdog.Pulse{Paused: l.PausedAt, Held: time.Duration(l.LengthMs) * time.Millisecond}
	if l.LastAt != nil {
		p.Last = *l.LastAt
	}
	if !l.Running {
		p.Stopped = l.RunningFrom
	}
	return p.Phase(now)
}

// Held is whether the lecture took place already, though its time is not over: it was captured, and stopped after it
// began. What was not planned has no other end.
func (l Lecture) Held() bool {
	return !l.Running && l.StoppedAt != nil && l.Source != "file" &&
		(l.Unplanned || !l.Apart && l.StoppedAt.After(l.StartsAt))
}

// Over is whether the lecture is over: its time is, or it was held, or someone ended it for everyone.
func (l Lecture) Over(now time.Time) bool {
	ended := !l.Running && l.EndedAt != nil && !now.Before(*l.EndedAt)
	return ended || !now.Before(l.EndsAt) || l.Ahead && !now.Before(l.StartsAt) || l.Held()
}

// Door is the doorway of the lecture.
func (l Lecture) Door() doorway.Door {
	return doorway.Door{Way: l.Doorway, Opens: time.Duration(l.OpensMin) * time.Minute, Start: l.StartsAt,
		CalledOff: l.CalledOff}
}

// Workflow is what the next step is computed from, but for whether students can watch it now.
func (l Lecture) Workflow() workflow.State {
	return workflow.State{
		Start: l.StartsAt, End: l.EndsAt, CalledOff: l.CalledOff, Captured: l.RecordingID != nil, Running: l.Running,
		Ready: l.Ready, Failed: l.Failed,
		Trimmed: l.Trimmed, Titled: l.Titled, Ruled: l.Ruled, Listed: l.Listed, Lit: l.Lit, Current: l.Current,
		Making: l.Making, Drafted: l.Drafted, Told: l.Told,
	}
}

// Viewing is what a decision on watching the recording needs to know, but for the end of term.
func (l Lecture) Viewing() viewing.Release {
	return viewing.Release{Own: true, Watchable: l.Watchable, Lit: l.Lit,
		LectureEnd: viewing.LectureEnd(l.StartsAt, l.EndsAt, l.StoppedAt)}
}

// SuggestedTitle is the title that a recording of the lecture has until it is given one.
func (l Lecture) SuggestedTitle(t Term) string {
	p, err := naming.Parse(l.Naming)
	if err != nil { // it was looked at when it was kept
		p, _ = naming.Parse("")
	}
	return p.Title(l.Named(t))
}

// Named is what a title of a recording of the lecture is made from.
func (l Lecture) Named(t Term) naming.Lecture {
	return naming.Lecture{Course: l.Code, Name: l.CourseTitle, Week: t.Week(l.StartsAt).Number,
		Date: l.StartsAt.In(t.Zone), Ahead: l.Ahead, Subject: cmp.Or(l.Topic, l.Subject), Part: l.Part}
}

// datedSQL lists lectures, and recordedSQL the recordings of such lectures, which are not many
// rows more than there are recordings.
const (
	datedSQL = `select l.id, l.course_id, k.code, k.title as course_title, k.title_pattern, l.hall_id,
		coalesce(h.name, '') as hall, l.starts_at, l.ends_at, l.topic, l.called_off_at is not null as called_off,
		l.unplanned, l.ahead, l.unplanned
		and l.id in (select id
		from private_lecture) as private, l.plan_id, l.planned_start as planned_at, l.doorway, l.opens_min,
		l.capture_auto, l.lead_min, l.tail_min, o.due_at as ended_at
	from lecture l join course k on k.id = l.course_id left join hall h on h.id = l.hall_id
	left join ended_class o on o.lecture_id = l.id
	where %s`

	recordedSQL = `select r.lecture_id, r.id as recording_id, r.title, r.subject,
		x.running, x.started_at as running_from, x.stopped_at, x.last_at, x.paused_at, x.length_ms, x.stored as bytes,
		x.source, x.apart,
		x.running and not exists (select 1 from recording_capture rc join capture c on c.id = rc.capture_id
		where rc.recording_id = r.id and c.source <> 'file' and c.stopped_at is null and not c.alone) as alone,
		x.state = 'ready' as ready, x.state = 'failed' as failed,
		r.cut_list_id is not null as trimmed, r.titled_at is not null as titled,
		exists (select 1 from viewing_rule v
		where v.ended_at is null and (v.course_id is null or v.course_id = s.course_id
		and (v.recording_id is null or v.recording_id = r.id))) as ruled,
		exists (select 1 from playlist_entry e join shown_playlist p on p.playlist_id = e.playlist_id
			where e.recording_id = r.id and p.course_id = s.course_id) as listed,
		s.lit,
		coalesce(not ed.outdated and ed.cut_list_id is not distinct
		from r.cut_list_id, false) as current, r.edition_id is not null as watchable,
		coalesce(wanted.state = 'making' and wanted.cut_list_id is not distinct from r.cut_list_id, false) as making,
		exists (select 1 from recording_capture rc join caption q on q.capture_id = rc.capture_id
		where rc.recording_id = r.id and q.drafted_by <> '' and q.state = 'ready' and q.looked_at is null
			and exists (select 1 from cue u where u.capture_id = q.capture_id and u.language = q.language)) as drafted,
		(exists (select 1 from news_recording x join news n on n.id = x.news_id
			where x.recording_id = r.id and n.course_id = s.course_id)
		or exists (select 1 from news_plan x where x.recording_id = r.id and x.course_id = s.course_id)
		or exists (select 1 from news_silent x where x.recording_id = r.id and x.course_id = s.course_id)) as told
	from recorded r
	join lecture l on l.id = r.lecture_id
	join released s on s.recording_id = r.id and s.own
	join recording_source x on x.recording_id = r.id %s
	left join edition ed on ed.id = r.edition_id
	left join edition wanted on wanted.id = r.wanted_edition_id
	where r.deleted_at is null and %s order by r.created_at, r.id`

	// fewSQL has recording_source worked out for those recordings alone; of many that takes longer than of all.
	fewSQL = `and x.recording_id = any(array(select r.id from recording r join lecture l on l.id = r.lecture_id
		where r.deleted_at is null and %s))`
)

// fewCourses are so many that what was recorded of them is little beside all of a large college.
const fewCourses = 30

// lectures lists the lectures that a condition on l holds for, in order, with a row for each of
// their recordings, the furthest first: the one that runs, else the one that is lit, else the newest. few says that
// there are not many.
func (s *Service) lectures(ctx context.Context, few bool, where string, args ...any) ([]Lecture, error) {
	type recorded struct {
		LectureID uuid.UUID
		Recorded
	}
	var dated []*Dated
	var recordings []recorded
	both, within := errgroup.WithContext(ctx)
	both.Go(func() (err error) {
		dated, err = s.dated(within, where, args...)
		return err
	})
	both.Go(func() (err error) {
		only := ""
		if few {
			only = fmt.Sprintf(fewSQL, where)
		}
		recordings, err = postgres.All[recorded](within, s.DB, fmt.Sprintf(recordedSQL, only, where), args...)
		return err
	})
	if err := both.Wait(); err != nil {
		return nil, err
	}
	of := make(map[uuid.UUID][]Recorded, len(recordings))
	for _, r := range recordings {
		list := of[r.LectureID]
		r.Part = 1
		for _, before := range list {
			if before.Failed == r.Failed {
				r.Part++
			}
		}
		of[r.LectureID] = append(list, r.Recorded)
	}
	out := make([]Lecture, 0, len(dated))
	for _, d := range dated {
		list := of[d.ID]
		slices.SortFunc(list, further)
		for _, r := range list {
			out = append(out, Lecture{*d, r})
		}
		if len(list) == 0 {
			out = append(out, Lecture{*d, Recorded{Part: 1}})
		}
	}
	return out, nil
}

// dated lists the lectures that a condition holds for, in order. There are thousands in a term.
func (s *Service) dated(ctx context.Context, where string, args ...any) ([]*Dated, error) {
	rows, err := s.DB.Query(ctx, fmt.Sprintf(datedSQL, where), args...)
	if err != nil {
		return nil, err
	}
	out, err := pgx.CollectRows(rows, func(row pgx.CollectableRow) (*Dated, error) {
		var d Dated
		return &d, row.Scan(&d.ID, &d.CourseID, &d.Code, &d.CourseTitle, &d.Naming, &d.HallID, &d.Hall, &d.StartsAt,
			&d.EndsAt, &d.Topic, &d.CalledOff,
			&d.Unplanned, &d.Ahead, &d.Private, &d.PlanID, &d.PlannedAt, &d.Doorway, &d.OpensMin, &d.CaptureAuto,
			&d.LeadMin, &d.TailMin, &d.EndedAt)
	})
	slices.SortFunc(out,
		func(a, b *Dated) int { return cmp.Or(a.StartsAt.Compare(b.StartsAt), bytes.Compare(a.ID[:], b.ID[:])) })
	return out, err
}

// further puts the recording that is further on the way first.
func further(a, b Recorded) int {
	first := func(x, y bool) int {
		switch {
		case x == y:
			return 0
		case x:
			return -1
		}
		return 1
	}
	return cmp.Or(first(a.Running, b.Running), first(a.Lit, b.Lit), first(b.Failed, a.Failed),
		cmp.Compare(b.Part, a.Part))
}

// Lectures lists the lectures of courses in order, each with the recording that is furthest.
// What is unplanned is among them once it is captured.
func (s *Service) Lectures(ctx context.Context, courses []uuid.UUID) ([]Lecture, error) {
	all, err := s.lectures(ctx, len(courses) <= fewCourses, "l.course_id = any($1)", courses)
	if err != nil {
		return nil, fmt.Errorf("list lectures: %w", err)
	}
	return furthest(all), nil
}

// Lecture is one lecture with a row for each of its recordings, the furthest first; one row
// when there is none. Its error is ErrUnknown when there is no such lecture.
func (s *Service) Lecture(ctx context.Context, id uuid.UUID) ([]Lecture, error) {
	out, err := s.lectures(ctx, true, "l.id = $1", id)
	if err != nil {
		return nil, fmt.Errorf("read a lecture: %w", err)
	}
	if len(out) == 0 {
		return nil, ErrUnknown
	}
	return out, nil
}

// LecturesNamed lists the lectures with these ids in order, with a row for each of their
// recordings, the furthest first; one row when there is none.
func (s *Service) LecturesNamed(ctx context.Context, ids []uuid.UUID) ([]Lecture, error) {
	out, err := s.lectures(ctx, true, "l.id = any($1)", ids)
	if err != nil {
		return nil, fmt.Errorf("list lectures by name: %w", err)
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

// Next is what a recording of a lecture waits for now, and how it is called. One that is there no more waits for
// nothing.
func (s *Service) Next(ctx context.Context, lecture, recording uuid.UUID) (workflow.Step, string, error) {
	l, err := s.OfRecording(ctx, lecture, recording)
	if errors.Is(err, ErrUnknown) {
		return workflow.Done, "", nil
	}
	if err != nil {
		return workflow.Done, "", err
	}
	term, err := s.TermOf(ctx, l.CourseID)
	return l.Workflow().Next(s.Clock.Now()), cmp.Or(l.Title, l.SuggestedTitle(term)), err
}

// Between lists the lectures that begin between two times, in order, each with the recording
// that is furthest: all of them, or those of the courses that a person teaches. What is
// unplanned is among them once it is captured; what is for a whole week is not.
func (s *Service) Between(ctx context.Context, from, to time.Time, taughtBy *uuid.UUID) ([]Lecture, error) {
	const where = `l.starts_at >= $1 and l.starts_at < $2 and not l.ahead
		and ($3::uuid is null or exists (select 1 from membership m where m.course_id = l.course_id
			and m.person_id = $3 and m.role in ('lecturer', 'assistant')))`
	all, err := s.lectures(ctx, true, where, from, to, taughtBy)
	if err != nil {
		return nil, fmt.Errorf("list the lectures of a day: %w", err)
	}
	return furthest(all), nil
}

// furthest keeps the first row of each lecture, and what is unplanned only if it was captured.
func furthest(all []Lecture) []Lecture {
	out := all[:0]
	for _, l := range all {
		if n := len(out); (n == 0 || out[n-1].ID != l.ID) && (!l.Unplanned || l.RecordingID != nil) {
			out = append(out, l)
		}
	}
	return out
}
