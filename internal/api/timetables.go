package api

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"strings"
	"unicode/utf8"

	"github.com/gin-gonic/gin"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/texts"
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

// LineFault is something wrong at a line of a file.
type LineFault struct {
	File   string `json:"file"`
	Line   int    `json:"line" doc:"from 1; 0 for the file as a whole"`
	Column string `json:"column" doc:"empty for the line as a whole"`
	Said
}

// Said is a sentence: its code in the catalogue, and what stands in it.
type Said struct {
	Code string         `json:"code"`
	With map[string]any `json:"with,omitempty" doc:"what stands in the sentence, by name"`
	Text string         `json:"text" doc:"the same in English, for programs that have no catalogue"`
}

func said(t fault.Text) Said { return Said{string(t.Code), t.With, texts.English.Say(t)} }

// TimetableImport is what a calendar would bring into a course.
type TimetableImport struct {
	Zone     string         `json:"zone"`
	Plans    []ImportedPlan `json:"plans" nullable:"false"`
	Lectures int            `json:"lectures"`
	Clashing int            `json:"clashing"`
	Faults   []LineFault    `json:"faults" nullable:"false" doc:"with any of them nothing is taken; the first of them"`
	Notes    []LineFault    `json:"notes" nullable:"false" doc:"what would be left out; the first of it"`

	FaultsAll int `json:"faults_all"`
	NotesAll  int `json:"notes_all"`
}

// Download is a file that is handed out.
type Download struct {
	Type        string `header:"Content-Type"`
	Disposition string `header:"Content-Disposition"`
	Body        []byte
}

// download hands out a file under a name made of words.
func download(kind string, b []byte, words ...string) *Download {
	name := strings.Map(func(r rune) rune {
		if r < ' ' || r >= utf8.RuneSelf || strings.ContainsRune(`"\/:*?<>|`, r) {
			return '-'
		}
		return r
	}, strings.Join(words, " "))
	return &Download{kind, fmt.Sprintf("attachment; filename=%q", name), b}
}

// maxCalendar is how large a calendar file can be, in bytes.
const maxCalendar = 8 << 20

type calendarInput struct {
	OfCourse
	Body struct {
		Calendar string `json:"calendar" doc:"text of an iCalendar file"`
	}
}

func (a *API) timetableRoutes() {
	const path = "/api/courses/{course}/timetable"
	on(a, staff, http.MethodPost, path+"/preview", "preview-timetable", "What a calendar would bring into a course",
		func(ctx context.Context, _ roster.Person, in *calendarInput) (*body[TimetableImport], error) {
			x, err := a.Schedule.PreviewImport(ctx, in.Course, []byte(in.Body.Calendar))
			if err != nil {
				return nil, err
			}
			term, err := a.Schedule.TermOf(ctx, in.Course)
			return answer(timetableImport(x, term)), err
		}, upTo(2*maxCalendar))
	on(a, staff, http.MethodPost, path, "import-timetable", "Bring a calendar into a course, all of it or nothing",
		func(ctx context.Context, p roster.Person, in *calendarInput) (*body[Changed], error) {
			change, err := a.Schedule.ApplyImport(ctx, in.Course, p.ID, []byte(in.Body.Calendar))
			return answer(Changed{change}), err
		}, upTo(2*maxCalendar))
	on(a, staff, http.MethodGet, path, "export-timetable", "The timetable of a course as iCalendar",
		func(ctx context.Context, _ roster.Person, in *OfCourse) (*Download, error) {
			name, events, err := a.Schedule.Calendar(ctx, schedule.OfCourse, in.Course, a.Public)
			if err != nil {
				return nil, err
			}
			var b bytes.Buffer
			err = ical.Write(&b, name, events)
			return download(calendarType, b.Bytes(), name+".ics"), err
		})
}

const calendarType = "text/calendar; charset=utf-8"

func timetableImport(x schedule.Import, term schedule.Term) TimetableImport {
	out := TimetableImport{Zone: term.Zone.String(), Plans: []ImportedPlan{}, Lectures: x.Lectures(),
		Faults: []LineFault{}, Notes: []LineFault{},
		FaultsAll: x.FaultsAll, NotesAll: x.NotesAll}
	for _, f := range x.Faults {
		out.Faults = append(out.Faults, LineFault{Line: f.Line, Said: said(f.Text)})
	}
	for _, f := range x.Notes {
		out.Notes = append(out.Notes, LineFault{Line: f.Line, Said: said(f.Text)})
	}
	for _, p := range x.Plans {
		line := ImportedPlan{Title: p.Title, Hall: p.Hall, HallIs: p.HallID != nil, ByDates: p.ByDates,
			Lectures: []ProposedDate{},
			Plan: planLine(schedule.Plan{HallID: p.HallID, Weekdays: weekdays(p), Every: p.Every,
				AtMin: int(p.At.Minutes()), LastsMin: int(p.Lasts.Minutes()), OverBreaks: p.OverBreaks,
				FirstAt: p.Lectures[0].Start, LastAt: p.Lectures[len(p.Lectures)-1].Start, Lectures: len(p.Lectures)},
				term).Plan,
			Last: day(p.Lectures[len(p.Lectures)-1].Start.In(term.Zone))}
		line.Plan.ChoicesText = ChoicesText{string(schedule.Usual.Doorway), schedule.Usual.OpensMin,
			schedule.Usual.CaptureAuto, schedule.Usual.LeadMin, schedule.Usual.TailMin}
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
	c.Data(http.StatusOK, calendarType, b.Bytes())
}
