package chat

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/chat"
	"latelantern/internal/core/layout"
	"latelantern/internal/platform/postgres"
)

// Line is what somebody said.
type Line struct {
	ID           uuid.UUID
	LectureID    uuid.UUID
	PersonID     uuid.UUID
	Name         string
	Teaches      bool // who said it
	Guest        bool
	SaidAt       time.Time
	Text         string
	State        chat.State
	ToTeachers   bool
	Later        bool
	Shown        bool
	Answer       string
	AnsweredBy   string
	AnsweredAt   *time.Time
	Withdrawn    bool
	TakenDown    bool
	TakenDownBy  string
	TakenDownWhy string
	Change       int64
	CaptureID    *uuid.UUID
	AtMs         *int64 // on the clock of its capture; of those that Of gives on that of the recording
}

// of is what of it says who reads it.
func (l Line) of() chat.Line {
	return chat.Line{ToTeachers: l.ToTeachers, Later: l.Later, Shown: l.Shown, Gone: l.Gone()}
}

// Gone reports whether it was withdrawn or taken down.
func (l Line) Gone() bool { return l.Withdrawn || l.TakenDown }

const lineSQL = `select x.id, x.lecture_id, x.person_id, p.name,
		p.coordinator or coalesce(m.role, 'student') <> 'student' as teaches, p.guest, x.said_at, x.text, x.state,
		x.to_teachers, x.later, x.shown, x.answer, coalesce(a.name, '') as answered_by, x.answered_at,
		x.withdrawn_at is not null as withdrawn, x.taken_down_at is not null as taken_down,
		coalesce(d.name, '') as taken_down_by, x.taken_down_why, x.change, x.capture_id, x.at_ms
	from chat_line x join lecture l on l.id = x.lecture_id join person p on p.id = x.person_id
	left join membership m on m.course_id = l.course_id and m.person_id = p.id
	left join person a on a.id = x.answered_by left join person d on d.id = x.taken_down_by `

// Reader is somebody who reads a chat.
type Reader struct {
	Person  uuid.UUID
	Teaches bool // its course, or coordinates the college
	Of      bool // has a part in its course, or is in the lecture
}

// sees is a line as somebody reads it; ok is false for what is not there for them. Of what is gone those who read it
// before learn that it is gone, and nothing else.
func (r Reader) sees(l Line) (Line, bool) {
	as := chat.Reader{Teaches: r.Teaches, Of: r.Of, Wrote: l.PersonID == r.Person}
	if chat.Reads(as, l.of()) {
		return l, true
	}
	was := l.of()
	was.Gone = false
	if !l.Gone() || !chat.Reads(as, was) {
		return Line{}, false
	}
	return Line{ID: l.ID, LectureID: l.LectureID, PersonID: l.PersonID, Name: l.Name, SaidAt: l.SaidAt,
		Withdrawn: l.Withdrawn, TakenDown: l.TakenDown, Change: l.Change, CaptureID: l.CaptureID, AtMs: l.AtMs}, true
}

// Chat is what changed in the chat of a lecture.
type Chat struct {
	Way     chat.Way
	Changes int64 // up to here: what changes later has a higher number
	Lines   []Line
}

// Since is what changed in the chat of a lecture after a number of changes, as somebody reads it, in the order of what
// was said. What was asked of its recording afterwards is no part of it.
func (s *Service) Since(ctx context.Context, lecture uuid.UUID, r Reader, after int64) (Chat, error) {
	type head struct {
		Way     chat.Way
		Changes int64
	}
	// What is read first is no newer than the lines: what comes between is read again.
	heads, err := postgres.All[head](ctx, s.DB, `select way, changes from chat where lecture_id = $1`, lecture)
	if err != nil {
		return Chat{}, fmt.Errorf("read a chat: %w", err)
	}
	if len(heads) == 0 {
		return Chat{Way: chat.All, Lines: []Line{}}, nil
	}
	out := Chat{Way: heads[0].Way, Changes: heads[0].Changes, Lines: []Line{}}
	if out.Changes <= after {
		return out, nil
	}
	lines, err := postgres.All[Line](ctx, s.DB,
		lineSQL+`where x.lecture_id = $1 and x.change > $2 and not x.later order by x.said_at, x.id`, lecture, after)
	if err != nil {
		return Chat{}, fmt.Errorf("read a chat: %w", err)
	}
	for _, l := range lines {
		if seen, ok := r.sees(l); ok {
			out.Lines = append(out.Lines, seen)
		}
	}
	return out, nil
}

// News is what changed last in the chat of a lecture.
type News struct {
	Chat
	From int64 // the number of changes after which that is
}

// Last is what the last so many changes of the chat of a lecture left, as somebody reads it.
func (s *Service) Last(ctx context.Context, lecture uuid.UUID, r Reader, changes int64) (News, error) {
	now, err := postgres.Value[int64](ctx, s.DB, `select coalesce((select changes from chat where lecture_id = $1), 0)`,
		lecture)
	if err != nil {
		return News{}, fmt.Errorf("read a chat: %w", err)
	}
	from := max(0, now-changes)
	x, err := s.Since(ctx, lecture, r, from)
	return News{x, from}, err
}

// Of is what was said while a recording was captured, and asked of it since, as somebody reads it, in order on its
// clock. What is gone is left out.
func (s *Service) Of(ctx context.Context, recording uuid.UUID, r Reader) ([]Line, error) {
	pieces, err := s.Recordings.Layout(ctx, s.DB, recording)
	if err != nil {
		return nil, err
	}
	lines, err := postgres.All[Line](ctx, s.DB, lineSQL+`where x.capture_id in
		(select capture_id from recording_capture where recording_id = $1)
		order by x.at_ms, x.said_at, x.id`, recording)
	if err != nil {
		return nil, fmt.Errorf("read the chat of a recording: %w", err)
	}
	out := []Line{}
	for _, l := range lines {
		if seen, ok := r.sees(l); !ok || seen.Gone() {
			continue
		}
		if at, shown := layout.Place(pieces, *l.CaptureID, time.Duration(*l.AtMs)*time.Millisecond); shown {
			l.AtMs = ms(at)
			out = append(out, l)
		}
	}
	slices.SortStableFunc(out, func(a, b Line) int { return cmp.Compare(*a.AtMs, *b.AtMs) })
	return out, nil
}

// Question is one that waits for its answer.
type Question struct {
	Line        // its moment is on the clock of its recording
	Topic       string
	StartsAt    time.Time
	RecordingID *uuid.UUID // in which its moment lies; nil for none
}

// holdsSQL is the recording in which the moment of a line x lies, if one holds it.
const holdsSQL = `select rc.recording_id from recording_capture rc join recording r on r.id = rc.recording_id
	where rc.capture_id = x.capture_id and r.deleted_at is null
	and x.at_ms >= coalesce(rc.from_ms, 0) and (rc.until_ms is null or x.at_ms < rc.until_ms)
	order by rc.recording_id limit 1`

// waitsSQL is a line x that is a question and waits for its answer (chat.State.Waits).
const waitsSQL = `x.state in ('open', 'taken', 'put_off') and x.withdrawn_at is null and x.taken_down_at is null`

// Waiting are the questions of a course that wait for an answer, the oldest first.
func (s *Service) Waiting(ctx context.Context, course uuid.UUID) ([]Question, error) {
	const query = `select x.*, l.topic, l.starts_at, w.recording_id from (` + lineSQL + `where l.course_id = $1
			and ` + waitsSQL + `) x
		join lecture l on l.id = x.lecture_id left join lateral (` + holdsSQL + `) w on true
		order by x.said_at, x.id`
	lines, err := postgres.All[Question](ctx, s.DB, query, course)
	if err != nil {
		return nil, fmt.Errorf("list questions that wait: %w", err)
	}
	return lines, nil
}
