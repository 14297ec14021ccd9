package planning

import (
	"bytes"
	"context"
	"errors"
	"log/slog"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/format/ical"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// ImportedPlan is a plan as a calendar gives it.
type ImportedPlan struct {
	Title    string         `json:"title"`
	Hall     string         `json:"hall"`
	HallIs   bool           `json:"hall_is" doc:"the hall is one of the college"`
	Plan     PlanText       `json:"plan"`
	ByDates  bool           `json:"by_dates"`
	Last     string         `json:"last" format:"date"`
	Lectures []ProposedDate `json:"lectures" nullable:"false"`
}

// TimetableImport is what a calendar would bring into a course.
type TimetableImport struct {
	Zone     string           `json:"zone"`
	Plans    []ImportedPlan   `json:"plans" nullable:"false"`
	Lectures int              `json:"lectures"`
	Clashing int              `json:"clashing"`
	Faults   []page.LineFault `json:"faults" nullable:"false" doc:"with any of them nothing is taken; the first of them"`
	Notes    []page.LineFault `json:"notes" nullable:"false" doc:"what would be left out; the first of it"`

	FaultsAll int `json:"faults_all"`
	NotesAll  int `json:"notes_all"`
}

// maxCalendar is how large a calendar file can be, in bytes.
const maxCalendar = 8 << 20

type calendarInput struct {
	edge.OfCourse
	Body struct {
		Calendar string `json:"calendar" doc:"text of an iCalendar file"`
	}
}

func (a *API) timetableRoutes() {
	const path = "/api/courses/{course}/timetable"
	edge.On(a.Edge, edge.Staff, http.MethodPost, path+"/preview", "preview-timetable",
		"What a calendar would bring into a course",
		func(ctx context.Context, _ roster.Person, in *calendarInput) (*edge.Body[TimetableImport], error) {
			x, err := a.Schedule.PreviewImport(ctx, in.Course, []byte(in.Body.Calendar))
			if err != nil {
				return nil, err
			}
			term, err := a.Schedule.TermOf(ctx, in.Course)
			return edge.Answer(timetableImport(x, term)), err
		}, edge.UpTo(2*maxCalendar))
	edge.On(a.Edge, edge.Staff, http.MethodPost, path, "import-timetable",
		"Bring a calendar into a course, all of it or nothing",
		func(ctx context.Context, p roster.Person, in *calendarInput) (*edge.Body[Changed], error) {
			change, err := a.Schedule.ApplyImport(ctx, in.Course, p.ID, []byte(in.Body.Calendar))
			return edge.Answer(Changed{change}), err
		}, edge.UpTo(2*maxCalendar))
	edge.On(a.Edge, edge.Staff, http.MethodGet, path, "export-timetable", "The timetable of a course as iCalendar",
		func(ctx context.Context, _ roster.Person, in *edge.OfCourse) (*page.Download, error) {
			name, events, err := a.Schedule.Calendar(ctx, schedule.OfCourse, in.Course, a.Public)
			if err != nil {
				return nil, err
			}
			var b bytes.Buffer
			err = ical.Write(&b, name, events)
			return page.File(page.CalendarType, b.Bytes(), name+".ics"), err
		})
}

func timetableImport(x schedule.Import, term schedule.Term) TimetableImport {
	out := TimetableImport{Zone: term.Zone.String(), Plans: []ImportedPlan{}, Lectures: x.Lectures(),
		Faults: []page.LineFault{}, Notes: []page.LineFault{},
		FaultsAll: x.FaultsAll, NotesAll: x.NotesAll}
	for _, f := range x.Faults {
		out.Faults = append(out.Faults, page.LineFault{Line: f.Line, Said: page.Say(f.Text)})
	}
	for _, f := range x.Notes {
		out.Notes = append(out.Notes, page.LineFault{Line: f.Line, Said: page.Say(f.Text)})
	}
	for _, p := range x.Plans {
		line := ImportedPlan{Title: p.Title, Hall: p.Hall, HallIs: p.HallID != nil, ByDates: p.ByDates,
			Lectures: []ProposedDate{},
			Plan: planLine(schedule.Plan{HallID: p.HallID, Weekdays: weekdays(p), Every: p.Every,
				AtMin: int(p.At.Minutes()), LastsMin: int(p.Lasts.Minutes()), OverBreaks: p.OverBreaks,
				FirstAt: p.Lectures[0].Start, LastAt: p.Lectures[len(p.Lectures)-1].Start, Lectures: len(p.Lectures)},
				term).Plan,
			Last: page.Day(p.Lectures[len(p.Lectures)-1].Start.In(term.Zone))}
		line.Plan.ChoicesText = page.ChoicesText{Doorway: string(schedule.Usual.Doorway),
			OpensMin: schedule.Usual.OpensMin, CaptureAuto: schedule.Usual.CaptureAuto,
			LeadMin: schedule.Usual.LeadMin, TailMin: schedule.Usual.TailMin}
		for _, l := range p.Lectures {
			d := proposedDate(l.Proposed)
			d.Topic = l.Topic
			if d.Clashing {
				out.Clashing++
			}
			line.Lectures = append(line.Lectures, d)
		}
		out.Plans = append(out.Plans, line)
	}
	return out
}

func weekdays(p schedule.ImportedPlan) []int {
	var out []int
	for _, w := range p.Weekdays {
		out = append(out, int(w))
	}
	return out
}

// feed hands out the calendar behind a private address. Calendars ask without signing in.
func (a *API) feed(c *gin.Context) {
	key := strings.TrimSuffix(c.Param("key"), ".ics")
	name, events, err := a.Schedule.Feed(c.Request.Context(), key, a.Public)
	if errors.Is(err, schedule.ErrUnknown) {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	var b bytes.Buffer
	if err == nil {
		err = ical.Write(&b, name, events)
	}
	if err != nil {
		slog.Error("a feed cannot be written", "error", err)
		c.AbortWithStatus(http.StatusInternalServerError)
		return
	}
	c.Header("Cache-Control", "private, max-age=300")
	c.Header("X-Robots-Tag", "noindex")
	c.Data(http.StatusOK, page.CalendarType, b.Bytes())
}
