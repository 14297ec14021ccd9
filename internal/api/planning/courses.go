package planning

import (
	"context"
	"net/http"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/core/viewing"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// CourseLine is a course in the list of a term.
type CourseLine struct {
	ID        uuid.UUID         `json:"id" format:"uuid"`
	Code      string            `json:"code"`
	Title     string            `json:"title"`
	Lecturers []string          `json:"lecturers" nullable:"false"`
	Students  int               `json:"students"`
	Lectures  int               `json:"lectures" doc:"that are planned and not called off"`
	Role      string            `json:"role" enum:",lecturer,assistant,student" doc:"of who asks"`
	Next      *page.LectureDate `json:"next,omitempty" doc:"the lecture that is on, or the next one"`
}

// CourseList is the courses of a term that concern who asks.
type CourseList struct {
	TermID  uuid.UUID    `json:"term_id" format:"uuid"`
	Term    string       `json:"term"`
	Zone    string       `json:"zone"`
	Now     time.Time    `json:"now"`
	Courses []CourseLine `json:"courses" nullable:"false"`
}

// CoursePage is a course with its dates.
type CoursePage struct {
	ID        uuid.UUID          `json:"id" format:"uuid"`
	Code      string             `json:"code"`
	Title     string             `json:"title"`
	Lecturers []string           `json:"lecturers" nullable:"false"`
	Students  int                `json:"students"`
	Staff     bool               `json:"staff" doc:"who asks teaches it, or coordinates the college"`
	Role      string             `json:"role" enum:",lecturer,assistant,student" doc:"of who asks"`
	Term      TermText           `json:"term"`
	TermID    uuid.UUID          `json:"term_id" format:"uuid"`
	Now       time.Time          `json:"now"`
	Next      *uuid.UUID         `json:"next,omitempty" format:"uuid" doc:"the lecture that is on, or today's, or the next one"`
	Dates     []page.LectureDate `json:"dates" nullable:"false" doc:"in order"`
	Plans     []PlanLine         `json:"plans" nullable:"false" doc:"only for those who teach it"`
	TrimsEnds bool               `json:"trim_ends" doc:"the ends of its recordings are trimmed by themselves"`
	NamesSeen bool               `json:"names_seen" doc:"those of it who follow a lecture see who else does"`
	Reminds   bool               `json:"reminds" doc:"who missed something of a lecture gets a mail when it is lit"`
	Originals int                `json:"original_days" doc:"for how many days after its own copy is made the original of a foreign file is kept; 0 for as long as the recording"`
}

// Room is the standing room of a course, for the unplanned.
type Room struct {
	Course  page.CourseName    `json:"course"`
	Zone    string             `json:"zone"`
	Staff   bool               `json:"staff"`
	Today   []page.LectureDate `json:"today" nullable:"false" doc:"dated lectures of today that are not called off"`
	Next    *page.LectureDate  `json:"next,omitempty" doc:"the next dated lecture, when there is none today"`
	Running *page.LectureDate  `json:"running,omitempty" doc:"what is captured in the standing room now"`
}

// Dates is everything planned in one's courses.
type Dates struct {
	Zone  string             `json:"zone"`
	Now   time.Time          `json:"now"`
	Today []page.LectureDate `json:"today" nullable:"false"`
	Dates []page.LectureDate `json:"dates" nullable:"false" doc:"all of the term, in order"`
}

type courseText struct {
	Term  uuid.UUID `json:"term" format:"uuid" doc:"does not change later"`
	Code  string    `json:"code"`
	Title string    `json:"title"`
}

type coursesInput struct {
	Term string `query:"term" doc:"empty for the term under way"`
}

func (a *API) courseRoutes() {
	edge.On(a.Edge, edge.SignedIn, http.MethodGet, "/api/courses", "courses",
		"The courses of a term: all for coordinators, for others those they are in", a.courseList)
	edge.On(a.Edge, edge.Members, http.MethodGet, "/api/courses/{course}", "course", "A course and its dates",
		func(ctx context.Context, p roster.Person, in *edge.OfCourse) (*edge.Body[CoursePage], error) {
			return a.coursePage(ctx, p, in.Course)
		})
	edge.On(a.Edge, edge.Coordinators, http.MethodPost, "/api/courses", "add-course", "Add a course",
		func(ctx context.Context, p roster.Person, in *edge.Body[courseText]) (*edge.Body[CoursePage], error) {
			id, err := a.Schedule.KeepCourse(ctx, uuid.Nil,
				schedule.CourseForm{Term: in.Body.Term, Code: in.Body.Code, Title: in.Body.Title})
			if err != nil {
				return nil, err
			}
			return a.coursePage(ctx, p, id)
		})
	type changeInput struct {
		edge.OfCourse
		Body courseText
	}
	edge.On(a.Edge, edge.Coordinators, http.MethodPut, "/api/courses/{course}", "change-course",
		"Change code and title of a course",
		func(ctx context.Context, p roster.Person, in *changeInput) (*edge.Body[CoursePage], error) {
			if _, err := a.Schedule.KeepCourse(ctx, in.Course,
				schedule.CourseForm{Code: in.Body.Code, Title: in.Body.Title}); err != nil {
				return nil, err
			}
			return a.coursePage(ctx, p, in.Course)
		})
	edge.On(a.Edge, edge.Coordinators, http.MethodDelete, "/api/courses/{course}", "remove-course",
		"Remove a course in which nothing is planned and nobody is enrolled",
		func(ctx context.Context, _ roster.Person, in *edge.OfCourse) (*edge.Empty, error) {
			return nil, a.Schedule.RemoveCourse(ctx, in.Course)
		})
	edge.On(a.Edge, edge.Members, http.MethodGet, "/api/courses/{course}/standing-room", "room",
		"The standing room of a course",
		a.room)
	type roomInput struct {
		edge.OfCourse
		Body struct {
			Topic string `json:"topic"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/courses/{course}/standing-room", "use-room",
		"Make ready to capture something unplanned",
		func(ctx context.Context, _ roster.Person, in *roomInput) (*edge.Body[page.GuestPass], error) {
			id, err := a.Schedule.Room(ctx, in.Course, in.Body.Topic)
			return edge.Answer(page.GuestPass{Lecture: id}), err
		})
	type lessonInput struct {
		edge.OfCourse
		Body struct {
			Week  string `json:"week" doc:"a date in the week that it is for"`
			Topic string `json:"topic"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/courses/{course}/lessons", "add-lesson",
		"Make ready to record a lesson ahead for a week",
		func(ctx context.Context, _ roster.Person, in *lessonInput) (*edge.Body[page.GuestPass], error) {
			id, err := a.Schedule.Lesson(ctx, in.Course, dayIn(in.Body.Week), in.Body.Topic)
			return edge.Answer(page.GuestPass{Lecture: id}), err
		})
	edge.On(a.Edge, edge.SignedIn, http.MethodGet, "/api/dates", "dates", "Everything planned in one's courses",
		a.dates)
}

func (a *API) coursePage(ctx context.Context, p roster.Person, id uuid.UUID) (*edge.Body[CoursePage], error) {
	c, err := a.Schedule.Course(ctx, id)
	if err != nil {
		return nil, err
	}
	term, err := a.Schedule.TermOf(ctx, id)
	if err != nil {
		return nil, err
	}
	viewer, err := a.Roster.Viewer(ctx, p.ID, id)
	if err != nil {
		return nil, err
	}
	lectures, err := a.Schedule.Lectures(ctx, []uuid.UUID{id})
	if err == nil {
		lectures, err = a.Seen.Known(ctx, p, lectures)
	}
	if err != nil {
		return nil, err
	}
	now := a.Clock.Now()
	out := CoursePage{ID: c.ID, Code: c.Code, Title: c.Title, Lecturers: c.Lecturers, Students: c.Students,
		Staff: viewer.Coordinator || viewer.Role.Staff(), Role: string(viewer.Role),
		TermID: term.ID, Term: termText(term), Now: now, Plans: []PlanLine{}}
	if out.Dates, err = a.Seen.DatesOf(ctx, p, term, lectures); err != nil {
		return nil, err
	}
	if l := schedule.Nearest(lectures, now, term.Zone); l != nil {
		out.Next = &l.ID
	}
	if !out.Staff {
		return edge.Answer(out), nil
	}
	if out.TrimsEnds, err = a.Cuts.TrimsEnds(ctx, id); err != nil {
		return nil, err
	}
	if out.Reminds, err = a.Remind.RemindsMissed(ctx, id); err != nil {
		return nil, err
	}
	if out.NamesSeen, err = a.Door.NamesSeen(ctx, id); err != nil {
		return nil, err
	}
	if out.Originals, err = a.Capture.OriginalDays(ctx, id); err != nil {
		return nil, err
	}
	plans, err := a.Schedule.Plans(ctx, id)
	for _, x := range plans {
		out.Plans = append(out.Plans, planLine(x, term))
	}
	return edge.Answer(out), err
}

func (a *API) courseList(ctx context.Context, p roster.Person, in *coursesInput) (*edge.Body[CourseList], error) {
	term, err := a.Schedule.CurrentTerm(ctx)
	if in.Term != "" {
		id, _ := uuid.Parse(in.Term)
		term, err = a.Schedule.Term(ctx, id)
	}
	if err != nil {
		return nil, err
	}
	parts, err := a.Roster.Memberships(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	role := map[uuid.UUID]viewing.Role{}
	for _, m := range parts {
		role[m.CourseID] = m.Role
	}
	courses, err := a.Schedule.Courses(ctx, term.ID, nil)
	if err != nil {
		return nil, err
	}
	if !p.Coordinator {
		courses = slices.DeleteFunc(courses, func(c schedule.Course) bool { return role[c.ID] == "" })
	}
	ids := make([]uuid.UUID, len(courses))
	for i, c := range courses {
		ids[i] = c.ID
	}
	lectures, err := a.Schedule.Lectures(ctx, ids)
	if err != nil {
		return nil, err
	}
	of := map[uuid.UUID][]schedule.Lecture{}
	for _, l := range lectures {
		if !l.CalledOff && !l.Unplanned {
			of[l.CourseID] = append(of[l.CourseID], l)
		}
	}
	now := a.Clock.Now()
	out := CourseList{TermID: term.ID, Term: term.Name, Zone: term.Zone.String(), Now: now, Courses: []CourseLine{}}
	for _, c := range courses {
		x := CourseLine{ID: c.ID, Code: c.Code, Title: c.Title, Lecturers: c.Lecturers, Students: c.Students,
			Lectures: len(of[c.ID]), Role: string(role[c.ID])}
		if l := schedule.Nearest(of[c.ID], now, term.Zone); l != nil {
			d := page.DateOf(term, *l, now)
			x.Next = &d
		}
		out.Courses = append(out.Courses, x)
	}
	return edge.Answer(out), nil
}

func (a *API) room(ctx context.Context, p roster.Person, in *edge.OfCourse) (*edge.Body[Room], error) {
	whole, err := a.coursePage(ctx, p, in.Course)
	if err != nil {
		return nil, err
	}
	c := whole.Body
	out := Room{Course: page.CourseName{ID: c.ID, Code: c.Code, Title: c.Title}, Zone: c.Term.Zone, Staff: c.Staff,
		Today: []page.LectureDate{}}
	zone, err := time.LoadLocation(c.Term.Zone)
	if err != nil {
		return nil, err
	}
	for _, d := range c.Dates {
		switch {
		case d.Unplanned && d.Running:
			out.Running = &d
		case !d.Unplanned && d.State != "off" && page.SameDay(d.StartsAt, c.Now, zone):
			out.Today = append(out.Today, d)
		case c.Next != nil && d.ID == *c.Next:
			out.Next = &d
		}
	}
	if len(out.Today) > 0 {
		out.Next = nil
	}
	return edge.Answer(out), nil
}

func (a *API) dates(ctx context.Context, p roster.Person, _ *edge.Empty) (*edge.Body[Dates], error) {
	term, err := a.Schedule.CurrentTerm(ctx)
	if err != nil {
		return nil, err
	}
	parts, err := a.Roster.Memberships(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	courses, err := a.Schedule.Courses(ctx, term.ID, nil)
	if err != nil {
		return nil, err
	}
	var ids []uuid.UUID
	for _, c := range courses {
		if slices.ContainsFunc(parts, func(m roster.Membership) bool { return m.CourseID == c.ID }) {
			ids = append(ids, c.ID)
		}
	}
	lectures, err := a.Schedule.Lectures(ctx, ids)
	if err == nil {
		lectures, err = a.Seen.Known(ctx, p, lectures)
	}
	if err != nil {
		return nil, err
	}
	out := Dates{Zone: term.Zone.String(), Now: a.Clock.Now(), Today: []page.LectureDate{}}
	if out.Dates, err = a.Seen.DatesOf(ctx, p, term, lectures); err != nil {
		return nil, err
	}
	for _, d := range out.Dates {
		if page.SameDay(d.StartsAt, out.Now, term.Zone) && (!d.Unplanned || d.Running) {
			out.Today = append(out.Today, d)
		}
	}
	return edge.Answer(out), nil
}
