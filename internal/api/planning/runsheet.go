package planning

import (
	"context"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/core/timetable"
	"latelantern/internal/core/watchdog"
	"latelantern/internal/core/workflow"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// RunSheet is the lectures of one day by hall and clock.
type RunSheet struct {
	Day     string    `json:"day" format:"date"`
	Today   bool      `json:"today"`
	Zone    string    `json:"zone"`
	Now     time.Time `json:"now"`
	Week    int       `json:"week" doc:"of teaching; 0 outside"`
	Break   string    `json:"break"`
	Halls   []string  `json:"halls" nullable:"false" doc:"in which something is held that day; an empty name, which comes first, for lectures without a hall"`
	Entries []RunLine `json:"entries" nullable:"false" doc:"in the order of the clock"`

	Recorders []RunRecorder `json:"recorders" nullable:"false" doc:"of the halls, today"`
}

// RunRecorder is the recorder of a hall on the run sheet.
type RunRecorder struct {
	Hall     string       `json:"hall"`
	Recorder RecorderLine `json:"recorder"`
}

// RunLine is a lecture on the run sheet.
type RunLine struct {
	Lecture   page.LectureDate `json:"lecture"`
	Cell      page.LectureCell `json:"cell"`
	Lecturers []string         `json:"lecturers" nullable:"false"`
	By        string           `json:"by" doc:"who captures it now; empty when it is not captured"`
	StoredMs  int64            `json:"stored_ms" doc:"of a capture under way: how much is on the server"`
	Runs      *uuid.UUID       `json:"runs,omitempty" format:"uuid" doc:"the recording that is under way"`
	Waiting   int              `json:"waiting" doc:"people who ask to be let in"`
	Forgotten bool             `json:"forgotten" doc:"it is on, nobody captures it, and people were told"`
	Beside    int              `json:"beside" doc:"place among lectures of the same hall at the same time, from 0"`
	Of        int              `json:"of" doc:"how many stand side by side"`
}

type runSheetInput struct {
	Day string `query:"day" doc:"a date; empty for today"`
}

// ForgottenLine is a lecture that is on, and of which no capture has begun.
type ForgottenLine struct {
	LectureID uuid.UUID `json:"lecture_id" format:"uuid"`
	CourseID  uuid.UUID `json:"course_id" format:"uuid"`
	Course    string    `json:"course"`
	Hall      string    `json:"hall"`
	StartsAt  time.Time `json:"starts_at"`
}

// ForgottenList is what somebody who teaches should do something about at once.
type ForgottenList struct {
	Lectures []ForgottenLine `json:"lectures" nullable:"false"`
}

// ReadyMail is whether someone wants mail when a capture of theirs can be watched.
type ReadyMail struct {
	On bool `json:"on"`
}

func (a *API) runSheetRoutes() {
	edge.On(a.Edge, edge.Teachers, http.MethodGet, "/api/account/ready", "ready-mail",
		"Whether one wants mail when a capture of one's own can be watched",
		func(ctx context.Context, p roster.Person, _ *edge.Empty) (*edge.Body[ReadyMail], error) {
			on, err := a.Remind.WantsReady(ctx, p.ID)
			return edge.Answer(ReadyMail{on}), err
		})
	edge.On(a.Edge, edge.Teachers, http.MethodPut, "/api/account/ready", "set-ready-mail",
		"Change whether one wants mail when a capture of one's own can be watched",
		func(ctx context.Context, p roster.Person, in *edge.Body[ReadyMail]) (*edge.Empty, error) {
			return nil, a.Remind.SetWantsReady(ctx, p.ID, in.Body.On)
		})
	edge.On(a.Edge, edge.Teachers, http.MethodGet, "/api/forgotten-starts", "forgotten-starts",
		"Lectures of one's own that are on and that nobody captures",
		func(ctx context.Context, p roster.Person, _ *edge.Empty) (*edge.Body[ForgottenList], error) {
			list, err := a.Remind.Of(ctx, p.ID)
			out := ForgottenList{Lectures: []ForgottenLine{}}
			for _, f := range list {
				out.Lectures = append(out.Lectures, ForgottenLine{f.LectureID, f.CourseID, f.Code, f.Hall, f.StartsAt})
			}
			return edge.Answer(out), err
		})
	edge.On(a.Edge, edge.Teachers, http.MethodGet, "/api/run-sheet", "run-sheet", "The lectures of a day", a.runSheet)
}

func (a *API) runSheet(ctx context.Context, p roster.Person, in *runSheetInput) (*edge.Body[RunSheet], error) {
	term, err := a.Schedule.CurrentTerm(ctx)
	if err != nil {
		return nil, err
	}
	now := a.Clock.Now()
	today := timetable.DayOf(now, term.Zone)
	d := dayIn(in.Day)
	if d.IsZero() {
		d = today
	}
	from, to := timetable.On(d, 0, term.Zone), timetable.On(d.AddDate(0, 0, 1), 0, term.Zone)
	var taught *uuid.UUID
	if !p.Coordinator {
		taught = &p.ID
	}
	lectures, err := a.Schedule.Between(ctx, from, to, taught)
	if err != nil {
		return nil, err
	}
	week, _ := term.Plan.WeekOf(d)
	out := RunSheet{Day: page.Day(d), Today: d.Equal(today), Zone: term.Zone.String(), Now: now, Week: week.Number,
		Break: week.Break, Halls: hallsOf(lectures), Recorders: []RunRecorder{}}
	if out.Entries, err = a.runLines(ctx, term, lectures, now); err != nil {
		return nil, err
	}
	if out.Today {
		states, err := a.Halls.States(ctx)
		if err != nil {
			return nil, err
		}
		for _, s := range states {
			if slices.Contains(out.Halls, s.Hall) {
				out.Recorders = append(out.Recorders, RunRecorder{s.Hall, recorderLine(s, now)})
			}
		}
		slices.SortFunc(out.Recorders, func(a, b RunRecorder) int { return strings.Compare(a.Hall, b.Hall) })
	}
	besideEachOther(out.Entries)
	return edge.Answer(out), nil
}

// hallsOf are the halls of lectures, each once, in order.
func hallsOf(lectures []schedule.Lecture) []string {
	halls := make([]string, len(lectures))
	for i, l := range lectures {
		halls[i] = l.Hall
	}
	slices.Sort(halls)
	return slices.Compact(halls)
}

// runLines are lectures with what is needed of each now.
func (a *API) runLines(
	ctx context.Context, term schedule.Term, lectures []schedule.Lecture, now time.Time,
) ([]RunLine, error) {
	ids := make([]uuid.UUID, len(lectures))
	for i, l := range lectures {
		ids[i] = l.CourseID
	}
	slices.SortFunc(ids, func(a, b uuid.UUID) int { return slices.Compare(a[:], b[:]) })
	ids = slices.Compact(ids)
	reaches, err := a.Audience.Reaches(ctx, ids)
	if err != nil {
		return nil, err
	}
	list, err := a.Schedule.CoursesOf(ctx, ids)
	if err != nil {
		return nil, err
	}
	lecturers := map[uuid.UUID][]string{}
	for _, c := range list {
		lecturers[c.ID] = c.Lecturers
	}
	running, err := a.Capture.Running(ctx, ids)
	if err != nil {
		return nil, err
	}
	waiting, err := a.waiting(ctx, lectures)
	if err != nil {
		return nil, err
	}
	out := []RunLine{}
	for _, l := range lectures {
		x := RunLine{Lecture: page.DateOf(term, l, now), Cell: page.Cell(term, l, page.ReachOf(reaches, l), now),
			Lecturers: lecturers[l.CourseID], Waiting: waiting[l.ID]}
		x.Forgotten = x.Cell.Next == string(workflow.Capture) && watchdog.NotStarted(l.StartsAt, l.EndsAt, now)
		if r, ok := running[l.ID]; ok {
			x.By, x.StoredMs, x.Runs = r.By, r.Stored.Milliseconds(), &r.Recording
		}
		out = append(out, x)
	}
	return out, nil
}

// waiting is how many wait at the door of each lecture.
func (a *API) waiting(ctx context.Context, lectures []schedule.Lecture) (map[uuid.UUID]int, error) {
	ids := make([]uuid.UUID, len(lectures))
	for i, l := range lectures {
		ids[i] = l.ID
	}
	return a.Door.Waiting(ctx, ids)
}

// besideEachOther finds room for lectures that overlap in one hall.
func besideEachOther(list []RunLine) {
	at := map[string][]int{}
	for i, x := range list {
		at[x.Lecture.Hall] = append(at[x.Lecture.Hall], i)
	}
	for _, in := range at {
		bookings := make([]timetable.Booking, len(in))
		for i, j := range in {
			bookings[i] = timetable.Booking{Start: list[j].Lecture.StartsAt, End: list[j].Lecture.EndsAt}
		}
		for i, lane := range timetable.Lanes(bookings) {
			list[in[i]].Beside, list[in[i]].Of = lane.At, lane.Of
		}
	}
}
