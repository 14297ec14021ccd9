package planning

import (
	"context"
	"net/http"
	"slices"
	"time"

	"github.com/google/uuid"
	"golang.org/x/sync/errgroup"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/audience"
	"latelantern/internal/core/timetable"
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
	Night   []Came    `json:"night" nullable:"false" doc:"recordings that came in during the night before"`
	Doors   []Door    `json:"doors" nullable:"false" doc:"closed, of which students told, the last first"`
	Files   int       `json:"files" doc:"that came and wait for their lecture"`
}

// Week is a column of the board.
type Week struct {
	Monday string `json:"monday" format:"date"`
	Number int    `json:"number" doc:"of teaching, from 1; 0 in a break"`
	Break  string `json:"break"`
}

// Row is a course on the board.
type Row struct {
	ID        uuid.UUID      `json:"id" format:"uuid"`
	Code      string         `json:"code"`
	Title     string         `json:"title"`
	Lecturers []string       `json:"lecturers" nullable:"false"`
	Halls     []string       `json:"halls" nullable:"false"`
	Students  int            `json:"students"`
	Mine      bool           `json:"mine"`
	Lectures  []page.Lantern `json:"lectures" nullable:"false"`
}

// Came is a recording that came in.
type Came struct {
	LectureID uuid.UUID `json:"lecture_id" format:"uuid"`
	Recording uuid.UUID `json:"recording_id" format:"uuid"`
	Course    string    `json:"course" doc:"its code"`
	Week      int       `json:"week"`
	At        time.Time `json:"at"`
}

// Need is one thing that waits for a hand.
type Need struct {
	Kind      string     `json:"kind" enum:"capture,stop,again,trim,title,rule,playlist,light,publish,words,tell,part_lit"`
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

// Door is the closed door of a recording, before which students said that they could not come in and cannot still.
type Door struct {
	Course    string    `json:"course" doc:"its code"`
	CourseID  uuid.UUID `json:"course_id" format:"uuid"`
	Week      int       `json:"week"`
	Recording uuid.UUID `json:"recording_id" format:"uuid"`
	Students  int       `json:"students"`
	Reason    string    `json:"reason" enum:"not_lit,no_rule,other_group,no_longer" doc:"of most of them"`
}

// needOrder is how pressing each kind is.
var needOrder = []string{"stop", "capture", "again", "part_lit", "trim", "title", "rule", "playlist", "light",
	"publish", "words", "tell"}

func (a *API) boardRoutes() {
	edge.On(a.Edge, edge.SignedIn, http.MethodGet, "/api/board", "board", "The term board",
		func(ctx context.Context, p roster.Person, _ *edge.Empty) (*edge.Body[Board], error) {
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
			by := p.ID
			if p.Coordinator {
				by = uuid.Nil
			}
			b.Files, err = a.Capture.Unmatched(ctx, by)
			return edge.Answer(b), err
		})
}

// board shows courses of a term, of which some are one's own.
func (a *API) board(ctx context.Context, term schedule.Term, shown, mine []uuid.UUID) (Board, error) {
	var courses []schedule.Course
	var lectures []schedule.Lecture
	var reaches audience.Reaches
	var doors []audience.Closed
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
		reaches, err = a.Audience.Reaches(within, shown)
		return err
	})
	read.Go(func() (err error) {
		doors, err = a.Audience.Doors(within, shown)
		return err
	})
	if err := read.Wait(); err != nil {
		return Board{}, err
	}
	now := a.Clock.Now()
	b := Board{Term: term.Name, Zone: term.Zone.String(), Now: now, Monday: page.Day(term.Week(now).Monday),
		Weeks: weeksOf(term), Courses: []Row{}, Needs: []Need{}, Night: []Came{}, Doors: []Door{}}
	dusk, dawn := timetable.Night(now, term.Zone)
	at := map[uuid.UUID]int{}
	for i, c := range courses {
		at[c.ID] = i
		b.Courses = append(b.Courses,
			Row{c.ID, c.Code, c.Title, c.Lecturers, c.Halls, c.Students, slices.Contains(mine, c.ID), []page.Lantern{}})
	}
	b.Doors = doorsOf(doors, courses, term)
	needs := map[string]*Need{}
	for _, l := range lectures {
		row := &b.Courses[at[l.CourseID]]
		cell := page.LanternOf(term, l, page.ReachOf(reaches, l), now)
		row.Lectures = append(row.Lectures, cell)
		if at := l.StoppedAt; at != nil && !l.Failed && !at.Before(dusk) && at.Before(dawn) {
			b.Night = append(b.Night, Came{l.ID, *l.RecordingID, l.Code, term.Week(l.StartsAt).Number, *at})
		}
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
		needs[kind] = &Need{kind, 1, l.Code, l.CourseID, term.Week(l.StartsAt).Number, l.ID, l.RecordingID,
			row.Students - cell.Can, row.Students, l.StartsAt, l.Hall}
	}
	for _, kind := range needOrder {
		if n, ok := needs[kind]; ok {
			b.Needs = append(b.Needs, *n)
		}
	}
	return b, nil
}

// doorsOf are closed doors as a board says them.
func doorsOf(doors []audience.Closed, courses []schedule.Course, term schedule.Term) []Door {
	codes, out := map[uuid.UUID]string{}, []Door{}
	for _, c := range courses {
		codes[c.ID] = c.Code
	}
	for _, d := range doors {
		out = append(out, Door{codes[d.Course], d.Course, term.Week(d.StartsAt).Number, d.Recording, d.Students,
			string(d.Reason)})
	}
	return out
}
