package api

import (
	"context"
	"net/http"
	"slices"
	"time"

	"github.com/google/uuid"
	"golang.org/x/sync/errgroup"

	"latelantern/internal/audience"
	"latelantern/internal/core/playlist"
	"latelantern/internal/core/viewing"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// Board is the term board.
type Board struct {
	Term    string    `json:"term"`
	Zone    string    `json:"zone" doc:"IANA zone of the college"`
	Now     time.Time `json:"now"`
	Monday  string    `json:"monday" format:"date" doc:"of this week"`
	Weeks   []Week    `json:"weeks" nullable:"false"`
	Courses []Row     `json:"courses" nullable:"false"`
	Needs   []Need    `json:"needs" nullable:"false" doc:"what waits for a hand, the most pressing first"`
}

// Week is a column of the board.
type Week struct {
	Monday string `json:"monday" format:"date"`
	Number int    `json:"number" doc:"of teaching, from 1; 0 in a break"`
	Break  string `json:"break"`
}

// Row is a course on the board.
type Row struct {
	ID        uuid.UUID     `json:"id" format:"uuid"`
	Code      string        `json:"code"`
	Title     string        `json:"title"`
	Lecturers []string      `json:"lecturers" nullable:"false"`
	Halls     []string      `json:"halls" nullable:"false"`
	Students  int           `json:"students"`
	Mine      bool          `json:"mine"`
	Lectures  []LectureCell `json:"lectures" nullable:"false"`
}

// LectureCell is a lecture as one lantern.
type LectureCell struct {
	ID          uuid.UUID  `json:"id" format:"uuid"`
	Monday      string     `json:"monday" format:"date"`
	StartsAt    time.Time  `json:"starts_at"`
	EndsAt      time.Time  `json:"ends_at"`
	Hall        string     `json:"hall"`
	Topic       string     `json:"topic"`
	State       string     `json:"state" enum:"planned,capturing,missed,off,dark,part_lit,lit" doc:"of its lantern"`
	Next        string     `json:"next" enum:",wait,capture,stop,trim,title,rule,playlist,light,publish,again" doc:"the one thing it waits for"`
	RecordingID *uuid.UUID `json:"recording_id,omitempty" format:"uuid"`
	Can         int        `json:"can" doc:"students who can watch now"`
	Of          int        `json:"of"`
	RunningFrom *time.Time `json:"running_from,omitempty"`
	Today       bool       `json:"today"`
}

// Need is one thing that waits for a hand.
type Need struct {
	Kind      string     `json:"kind" enum:"capture,stop,again,trim,title,rule,playlist,light,publish,part_lit"`
	Count     int        `json:"count"`
	Course    string     `json:"course" doc:"code, when it is about one lecture"`
	CourseID  uuid.UUID  `json:"course_id" format:"uuid"`
	Week      int        `json:"week"`
	LectureID uuid.UUID  `json:"lecture_id" format:"uuid" doc:"the first it is about"`
	Recording *uuid.UUID `json:"recording_id,omitempty" format:"uuid"`
	Cannot    int        `json:"cannot"`
	Of        int        `json:"of"`
	StartsAt  time.Time  `json:"starts_at"`
	Hall      string     `json:"hall"`
}

// needOrder is how pressing each kind is.
var needOrder = []string{"stop", "capture", "again", "part_lit", "trim", "title", "rule", "playlist", "light", "publish"}

func (a *API) boardRoutes() {
	on(a, signedIn, http.MethodGet, "/api/board", "board", "The term board", func(ctx context.Context, p roster.Person, _ *empty) (*body[Board], error) {
		term, err := a.Schedule.CurrentTerm(ctx)
		if err != nil {
			return nil, err
		}
		mine, err := a.Schedule.CourseIDs(ctx, term.ID, &p.ID)
		if err != nil {
			return nil, err
		}
		shown := mine
		if p.Coordinator {
			if shown, err = a.Schedule.CourseIDs(ctx, term.ID, nil); err != nil {
				return nil, err
			}
		}
		b, err := a.board(ctx, term, shown, mine)
		if err != nil {
			return nil, err
		}
		return answer(b), nil
	})
}

// board shows courses of a term, of which some are one's own.
func (a *API) board(ctx context.Context, term schedule.Term, shown, mine []uuid.UUID) (Board, error) {
	var courses []schedule.Course
	var lectures []schedule.Lecture
	var counts map[audience.Key]viewing.Count
	read, within := errgroup.WithContext(ctx)
	read.Go(func() (err error) {
		courses, err = a.Schedule.CoursesOf(within, shown)
		return err
	})
	read.Go(func() (err error) {
		lectures, err = a.Schedule.Lectures(within, shown)
		return err
	})
	read.Go(func() (err error) {
		counts, err = a.Audience.Counts(within, shown)
		return err
	})
	if err := read.Wait(); err != nil {
		return Board{}, err
	}
	now := a.Clock.Now()
	b := Board{Term: term.Name, Zone: term.Zone.String(), Now: now, Monday: day(term.Week(now).Monday), Weeks: weeksOf(term), Courses: []Row{}, Needs: []Need{}}
	at := map[uuid.UUID]int{}
	for i, c := range courses {
		at[c.ID] = i
		b.Courses = append(b.Courses, Row{c.ID, c.Code, c.Title, c.Lecturers, c.Halls, c.Students, slices.Contains(mine, c.ID), []LectureCell{}})
	}
	needs := map[string]*Need{}
	for _, l := range lectures {
		row := &b.Courses[at[l.CourseID]]
		cell := a.cell(term, l, counts, row.Students, now)
		row.Lectures = append(row.Lectures, cell)
		kind := cell.Next
		if kind == "" && cell.State == string(viewing.PartLit) {
			kind = "part_lit"
		}
		if kind == "" || kind == "wait" {
			continue
		}
		if n, ok := needs[kind]; ok {
			n.Count++
			continue
		}
		needs[kind] = &Need{kind, 1, l.Code, l.CourseID, term.Week(l.StartsAt).Number, l.ID, l.RecordingID, cell.Of - cell.Can, cell.Of, l.StartsAt, l.Hall}
	}
	for _, kind := range needOrder {
		if n, ok := needs[kind]; ok {
			b.Needs = append(b.Needs, *n)
		}
	}
	return b, nil
}

func day(t time.Time) string { return t.Format(time.DateOnly) }

// cell is a lecture as a lantern: its state computed from facts, roster and clock.
func (a *API) cell(term schedule.Term, l schedule.Lecture, counts map[audience.Key]viewing.Count, students int, now time.Time) LectureCell {
	facts := l.Facts()
	c := LectureCell{
		ID: l.ID, Monday: day(term.Week(l.StartsAt).Monday), StartsAt: l.StartsAt, EndsAt: l.EndsAt, Hall: l.Hall, Topic: l.Topic,
		RecordingID: l.RecordingID, Next: string(facts.Next(now)), Of: students,
		Today: sameDay(l.StartsAt, now, term.Zone),
	}
	var count viewing.Count
	if l.RecordingID != nil {
		count = counts[audience.Key{Course: l.CourseID, Recording: *l.RecordingID}]
		c.Can = count.Can
	}
	switch {
	case l.Running:
		c.State, c.RunningFrom = "capturing", l.RunningFrom
	case l.RecordingID != nil:
		c.State = string(viewing.Count{Can: count.Can, Of: students}.Light())
	case l.CalledOff:
		c.State = "off"
	case facts.Missed(now):
		c.State = "missed"
	default:
		c.State = "planned"
	}
	if c.State == "capturing" && c.Next == string(playlist.Wait) {
		c.Next = ""
	}
	return c
}
