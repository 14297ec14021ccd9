package planning

import (
	"context"
	"net/http"
	"strings"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/core/doorway"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/timetable"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// PlanText is a weekly plan as its sentence says it.
type PlanText struct {
	Weekdays   []int      `json:"weekdays" nullable:"false" maxItems:"7" doc:"1 is Monday, 7 is Sunday"`
	Every      int        `json:"every" doc:"weeks from one to the next"`
	Starts     string     `json:"starts" doc:"a time of day such as 10:15"`
	Ends       string     `json:"ends" doc:"a time of day"`
	From       string     `json:"from" doc:"a date"`
	Times      int        `json:"times" doc:"how many times, when until is empty"`
	Until      string     `json:"until" doc:"a date, or empty"`
	OverBreaks bool       `json:"over_breaks" doc:"also on days of a break"`
	Hall       *uuid.UUID `json:"hall,omitempty" format:"uuid" doc:"none for no hall"`
	Topic      string     `json:"topic,omitempty" doc:"the name of the series: the topic that each of its lectures has at first"`
	page.ChoicesText
}

// PlanLine is a plan as it stands.
type PlanLine struct {
	ID        uuid.UUID `json:"id" format:"uuid"`
	Plan      PlanText  `json:"plan"`
	Hall      string    `json:"hall"`
	ByDates   bool      `json:"by_dates" doc:"no weekly sentence says its dates"`
	Last      string    `json:"last" format:"date"`
	Lectures  int       `json:"lectures"`
	Moved     int       `json:"moved"`
	CalledOff int       `json:"called_off"`
}

// Clash is what a lecture would overlap, and why that matters.
type Clash struct {
	LectureID *uuid.UUID `json:"lecture_id,omitempty" format:"uuid" doc:"none for another lecture of what is being planned"`
	Course    string     `json:"course"`
	Hall      string     `json:"hall"`
	StartsAt  time.Time  `json:"starts_at"`
	EndsAt    time.Time  `json:"ends_at"`
	InHall    bool       `json:"in_hall"`
	OfCourse  bool       `json:"of_course"`
	Lecturer  string     `json:"lecturer" doc:"who would have to be in both; empty for nobody"`
}

// ProposedDate is a lecture as it would be.
type ProposedDate struct {
	LectureID *uuid.UUID `json:"lecture_id,omitempty" format:"uuid"`
	StartsAt  time.Time  `json:"starts_at"`
	EndsAt    time.Time  `json:"ends_at"`
	Was       *time.Time `json:"was,omitempty"`
	Week      int        `json:"week"`
	Break     string     `json:"break"`
	Stays     bool       `json:"stays" doc:"it is left where it is: it was captured, or moved by hand before"`
	Topic     string     `json:"topic"`
	Clashes   []Clash    `json:"clashes" nullable:"false" doc:"the first of them, up to a limit for all lectures"`
	Clashing  bool       `json:"clashing" doc:"it clashes, whether or not it is told with what"`
}

// SkippedDay is a day that a plan leaves out.
type SkippedDay struct {
	Day   string `json:"day" format:"date"`
	Break string `json:"break"`
}

// PlanDates is what a plan would make.
type PlanDates struct {
	Zone     string         `json:"zone"`
	Lectures []ProposedDate `json:"lectures" nullable:"false"`
	Skipped  []SkippedDay   `json:"skipped" nullable:"false"`
	Clashing int            `json:"clashing" doc:"lectures that clash with something"`
}

// EditText is what someone changes of a lecture. What is missing stays as it is.
type EditText struct {
	Later       bool    `json:"later,omitempty" doc:"of all later lectures of its plan too"`
	Day         *string `json:"day,omitempty"`
	Starts      *string `json:"starts,omitempty"`
	Ends        *string `json:"ends,omitempty" doc:"needs starts"`
	Hall        *string `json:"hall,omitempty" doc:"an id, or empty for none"`
	Topic       *string `json:"topic,omitempty" doc:"of this lecture alone"`
	CalledOff   *bool   `json:"called_off,omitempty"`
	Doorway     *string `json:"doorway,omitempty" enum:"walk_in,ask,closed"`
	OpensMin    *int    `json:"opens_min,omitempty"`
	CaptureAuto *bool   `json:"capture_auto,omitempty"`
	LeadMin     *int    `json:"lead_min,omitempty"`
	TailMin     *int    `json:"tail_min,omitempty"`
}

// Changed names a change of the timetable, by which it can be undone.
type Changed struct {
	Change uuid.UUID `json:"change" format:"uuid"`
}

type planInput struct {
	edge.OfCourse
	Body PlanText
}

type editInput struct {
	edge.OfLecture
	Body EditText
}

func (a *API) planRoutes() {
	const plans = "/api/courses/{course}/plans"
	edge.On(a.Edge, edge.Staff, http.MethodPost, plans+"/preview", "preview-plan",
		"Which lectures a plan would make, and what they clash with",
		func(ctx context.Context, _ roster.Person, in *planInput) (*edge.Body[PlanDates], error) {
			form, err := in.Body.form()
			if err != nil {
				return nil, err
			}
			term, err := a.Schedule.TermOf(ctx, in.Course)
			if err != nil {
				return nil, err
			}
			p, err := a.Schedule.PreviewPlan(ctx, in.Course, form)
			out := planDates(term, p.Lectures)
			for _, s := range p.Skipped {
				out.Skipped = append(out.Skipped, SkippedDay{page.Day(s.Day), s.Break})
			}
			return edge.Answer(out), err
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, plans, "add-plan", "Plan lectures",
		func(ctx context.Context, p roster.Person, in *planInput) (*edge.Body[Changed], error) {
			form, err := in.Body.form()
			if err != nil {
				return nil, err
			}
			change, err := a.Schedule.AddPlan(ctx, in.Course, p.ID, form)
			return edge.Answer(Changed{change}), err
		})
	type ofPlan struct {
		edge.OfCourse
		Plan uuid.UUID `path:"plan" format:"uuid"`
	}
	edge.On(a.Edge, edge.Staff, http.MethodDelete, plans+"/{plan}", "remove-plan",
		"Take away the lectures of a plan that nobody has captured",
		func(ctx context.Context, p roster.Person, in *ofPlan) (*edge.Body[Changed], error) {
			change, err := a.Schedule.RemovePlan(ctx, in.Course, in.Plan, p.ID)
			return edge.Answer(Changed{change}), err
		})
	type ofChange struct {
		edge.OfCourse
		Change uuid.UUID `path:"change" format:"uuid"`
	}
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/courses/{course}/changes/{change}/undo", "undo-change",
		"Undo a change of the timetable", func(ctx context.Context, p roster.Person, in *ofChange) (*edge.Empty,
			error) {
			return nil, a.Schedule.Undo(ctx, in.Course, in.Change, p.ID)
		})
	a.editRoutes()
}

// editRoutes adds what is done to one lecture, or to it and all later ones.
func (a *API) editRoutes() {
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/lectures/{lecture}/edit/preview", "preview-edit",
		"Where lectures would be, and what they would clash with",
		func(ctx context.Context, _ roster.Person, in *editInput) (*edge.Body[PlanDates], error) {
			e, err := in.Body.edit()
			if err != nil {
				return nil, err
			}
			course, err := in.Belongs(ctx, a.Edge)
			if err != nil {
				return nil, err
			}
			term, err := a.Schedule.TermOf(ctx, course)
			if err != nil {
				return nil, err
			}
			list, err := a.Schedule.PreviewEdit(ctx, in.Lecture, e)
			return edge.Answer(planDates(term, list)), err
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/lectures/{lecture}/edit", "edit-lecture",
		"Change a lecture, or it and all later ones",
		func(ctx context.Context, p roster.Person, in *editInput) (*edge.Body[Changed], error) {
			e, err := in.Body.edit()
			if err != nil {
				return nil, err
			}
			change, err := a.Schedule.Edit(ctx, in.Lecture, p.ID, e)
			return edge.Answer(Changed{change}), err
		})
}

// clockIn reads a time of day such as 10:15.
func clockIn(text string) (time.Duration, bool) {
	t, err := time.Parse("15:04", strings.TrimSpace(text))
	return time.Duration(t.Hour())*time.Hour + time.Duration(t.Minute())*time.Minute, err == nil
}

// hours reads the start and the end of a lecture on one day; a fault stands at its field.
func hours(starts, ends string) (at, lasts time.Duration, f fault.Faults) {
	at, ok := clockIn(starts)
	f.When(!ok, "starts", "plan.starts")
	end, ok := clockIn(ends)
	f.When(!ok, "ends", "plan.ends")
	f.When(len(f) == 0 && end <= at, "ends", "plan.turned")
	return at, end - at, f
}

// form is the plan that is meant. What it cannot mean is a fault at its field; the others
// come with the check of the form.
func (t PlanText) form() (schedule.PlanForm, error) {
	p := schedule.PlanForm{Choices: t.Choices(), Hall: t.Hall, Topic: strings.Join(strings.Fields(t.Topic), " "),
		Plan: timetable.Plan{Every: t.Every, From: dayIn(t.From), Times: t.Times, Until: dayIn(t.Until),
			OverBreaks: t.OverBreaks}}
	for _, w := range t.Weekdays {
		p.Weekdays = append(p.Weekdays, time.Weekday(w%7))
	}
	at, lasts, f := hours(t.Starts, t.Ends)
	p.At, p.Lasts = at, lasts
	f.When(t.Until != "" && p.Until.IsZero(), "until", "day.last")
	return p, f.Err()
}

// edit is the change that is meant, like form.
func (t EditText) edit() (schedule.Edit, error) {
	e := schedule.Edit{Later: t.Later, Topic: t.Topic, CalledOff: t.CalledOff, Doorway: (*doorway.Way)(t.Doorway),
		OpensMin: t.OpensMin, Capture: t.CaptureAuto, LeadMin: t.LeadMin, TailMin: t.TailMin}
	var f fault.Faults
	if t.Day != nil {
		d := dayIn(*t.Day)
		e.Day = &d
		f.When(d.IsZero(), "day", "day.none")
	}
	switch {
	case t.Starts != nil && t.Ends != nil:
		at, lasts, faults := hours(*t.Starts, *t.Ends)
		e.At, e.Lasts = &at, &lasts
		f = append(f, faults...)
	case t.Starts != nil:
		at, ok := clockIn(*t.Starts)
		e.At = &at
		f.When(!ok, "starts", "plan.starts")
	case t.Ends != nil:
		f.Add("starts", "plan.start_too")
	}
	if t.Hall != nil {
		id, err := uuid.Parse(*t.Hall)
		e.Hall = &id
		f.When(err != nil && *t.Hall != "", "hall", "hall.gone")
	}
	return e, f.Err()
}

func planDates(term schedule.Term, list []schedule.Proposed) PlanDates {
	out := PlanDates{Zone: term.Zone.String(), Lectures: []ProposedDate{}, Skipped: []SkippedDay{}}
	for _, p := range list {
		d := proposedDate(p)
		if d.Clashing {
			out.Clashing++
		}
		out.Lectures = append(out.Lectures, d)
	}
	return out
}

func proposedDate(p schedule.Proposed) ProposedDate {
	d := ProposedDate{LectureID: some(p.Lecture), StartsAt: p.Start, EndsAt: p.End, Week: p.Week, Break: p.Break,
		Stays: p.Stays, Clashes: []Clash{}, Clashing: p.Clashing}
	if !p.Was.IsZero() {
		d.Was = &p.Was
	}
	for _, w := range p.Clashes {
		d.Clashes = append(d.Clashes,
			Clash{some(w.Lecture), w.Course, w.Hall, w.Start, w.End, w.InHall, w.OfCourse, w.Lecturer})
	}
	return d
}

// some is nil for the zero value.
func some(id uuid.UUID) *uuid.UUID {
	if id == uuid.Nil {
		return nil
	}
	return &id
}

// planLine is the sentence of a plan that stands.
func planLine(p schedule.Plan, term schedule.Term) PlanLine {
	clock := func(minutes int) string {
		return time.Date(2000, 1, 1, 0, minutes, 0, 0, time.UTC).Format("15:04")
	}
	t := PlanText{Weekdays: []int{}, Every: p.Every, Starts: clock(p.AtMin), Ends: clock(p.AtMin + p.LastsMin),
		From: page.Day(p.FirstAt.In(term.Zone)), Times: p.Lectures, OverBreaks: p.OverBreaks, Hall: p.HallID,
		ChoicesText: page.ChoicesText{Doorway: string(p.Doorway), OpensMin: p.OpensMin, CaptureAuto: p.CaptureAuto,
			LeadMin: p.LeadMin, TailMin: p.TailMin}}
	for _, w := range p.Weekdays {
		t.Weekdays = append(t.Weekdays, (w+6)%7+1)
	}
	return PlanLine{p.ID, t, p.Hall, p.ByDates, page.Day(p.LastAt.In(term.Zone)), p.Lectures, p.Moved, p.CalledOff}
}

var termProblems = edge.Problems{
	schedule.ErrUnknown: http.StatusNotFound,
	schedule.ErrInUse:   http.StatusConflict,
	schedule.ErrChanged: http.StatusConflict,
}
