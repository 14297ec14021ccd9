package api

import (
	"context"
	"net/http"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/core/timetable"
	"latelantern/internal/core/viewing"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// CourseLine is a course in the list of a term.
type CourseLine struct {
	ID        uuid.UUID    `json:"id" format:"uuid"`
	Code      string       `json:"code"`
	Title     string       `json:"title"`
	Lecturers []string     `json:"lecturers" nullable:"false"`
	Students  int          `json:"students"`
	Lectures  int          `json:"lectures" doc:"that are planned and not called off"`
	Part      string       `json:"part" enum:",lecturer,assistant,student" doc:"of who asks"`
	Next      *LectureDate `json:"next,omitempty" doc:"the lecture that is on, or the next one"`
}

// CourseList is the courses of a term that concern who asks.
type CourseList struct {
	TermID  uuid.UUID    `json:"term_id" format:"uuid"`
	Term    string       `json:"term"`
	Zone    string       `json:"zone"`
	Now     time.Time    `json:"now"`
	Courses []CourseLine `json:"courses" nullable:"false"`
}

// LectureDate is a lecture as everyone of its course sees it.
type LectureDate struct {
	ID          uuid.UUID  `json:"id" format:"uuid"`
	CourseID    uuid.UUID  `json:"course_id" format:"uuid"`
	Course      string     `json:"course" doc:"its code"`
	CourseTitle string     `json:"course_title"`
	Week        int        `json:"week" doc:"of teaching; 0 outside"`
	StartsAt    time.Time  `json:"starts_at"`
	EndsAt      time.Time  `json:"ends_at"`
	Was         *time.Time `json:"was,omitempty" doc:"where its plan had it, when it was moved"`
	Hall        string     `json:"hall" doc:"empty for none"`
	Topic       string     `json:"topic"`
	State       string     `json:"state" enum:"planned,today,on,over,off" doc:"on: between its planned start and end, unless it was captured and stopped"`
	Running     bool       `json:"running" doc:"it is being captured now, and not by someone alone"`
	Phase       string     `json:"phase" enum:",begins,runs,paused,broken,over" doc:"of what is or was captured of it; empty for nothing, and for what somebody captures alone"`
	Unplanned   bool       `json:"unplanned" doc:"captured in the standing room, or ahead"`
	Ahead       bool       `json:"ahead" doc:"a lesson for a week, recorded at any time"`
	Doorway     string     `json:"doorway" enum:"walk_in,ask,closed"`
	OpensAt     time.Time  `json:"opens_at"`
	RecordingID *uuid.UUID `json:"recording_id,omitempty" format:"uuid" doc:"that who asks can open"`
	Light       string     `json:"light,omitempty" enum:",dark,part_lit,lit" doc:"of that recording, for those who teach it"`
	CaptureAuto bool       `json:"capture_auto"`
	PlanID      *uuid.UUID `json:"plan_id,omitempty" format:"uuid"`
}

// CoursePage is a course with its dates.
type CoursePage struct {
	ID        uuid.UUID     `json:"id" format:"uuid"`
	Code      string        `json:"code"`
	Title     string        `json:"title"`
	Lecturers []string      `json:"lecturers" nullable:"false"`
	Students  int           `json:"students"`
	Staff     bool          `json:"staff" doc:"who asks teaches it, or coordinates the college"`
	Part      string        `json:"part" enum:",lecturer,assistant,student" doc:"of who asks"`
	Term      TermText      `json:"term"`
	TermID    uuid.UUID     `json:"term_id" format:"uuid"`
	Now       time.Time     `json:"now"`
	Next      *uuid.UUID    `json:"next,omitempty" format:"uuid" doc:"the lecture that is on, or today's, or the next one"`
	Dates     []LectureDate `json:"dates" nullable:"false" doc:"in order"`
	Plans     []PlanLine    `json:"plans" nullable:"false" doc:"only for those who teach it"`
	TrimsEnds bool          `json:"trim_ends" doc:"the ends of its recordings are trimmed by themselves"`
	Originals int           `json:"original_days" doc:"for how many days after its own copy is made the original of a foreign file is kept; 0 for as long as the recording"`
}

// Room is the standing room of a course, for the unplanned.
type Room struct {
	Course  CourseName    `json:"course"`
	Zone    string        `json:"zone"`
	Staff   bool          `json:"staff"`
	Today   []LectureDate `json:"today" nullable:"false" doc:"dated lectures of today that are not called off"`
	Next    *LectureDate  `json:"next,omitempty" doc:"the next dated lecture, when there is none today"`
	Running *LectureDate  `json:"running,omitempty" doc:"what is captured in the standing room now"`
}

// Dates is everything planned in one's courses.
type Dates struct {
	Zone  string        `json:"zone"`
	Now   time.Time     `json:"now"`
	Today []LectureDate `json:"today" nullable:"false"`
	Dates []LectureDate `json:"dates" nullable:"false" doc:"all of the term, in order"`
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
	on(a, signedIn, http.MethodGet, "/api/courses", "courses",
		"The courses of a term: all for coordinators, for others those they are in", a.courseList)
	on(a, members, http.MethodGet, "/api/courses/{course}", "course", "A course and its dates",
		func(ctx context.Context, p roster.Person, in *OfCourse) (*body[CoursePage], error) {
			return a.coursePage(ctx, p, in.Course)
		})
	on(a, coordinators, http.MethodPost, "/api/courses", "add-course", "Add a course",
		func(ctx context.Context, p roster.Person, in *body[courseText]) (*body[CoursePage], error) {
			id, err := a.Schedule.KeepCourse(ctx, uuid.Nil,
				schedule.CourseForm{Term: in.Body.Term, Code: in.Body.Code, Title: in.Body.Title})
			if err != nil {
				return nil, err
			}
			return a.coursePage(ctx, p, id)
		})
	type changeInput struct {
		OfCourse
		Body courseText
	}
	on(a, coordinators, http.MethodPut, "/api/courses/{course}", "change-course", "Change code and title of a course",
		func(ctx context.Context, p roster.Person, in *changeInput) (*body[CoursePage], error) {
			if _, err := a.Schedule.KeepCourse(ctx, in.Course,
				schedule.CourseForm{Code: in.Body.Code, Title: in.Body.Title}); err != nil {
				return nil, err
			}
			return a.coursePage(ctx, p, in.Course)
		})
	on(a, coordinators, http.MethodDelete, "/api/courses/{course}", "remove-course",
		"Remove a course in which nothing is planned and nobody is enrolled",
		func(ctx context.Context, _ roster.Person, in *OfCourse) (*empty, error) {
			return nil, a.Schedule.RemoveCourse(ctx, in.Course)
		})
	on(a, members, http.MethodGet, "/api/courses/{course}/standing-room", "room", "The standing room of a course",
		a.room)
	type roomInput struct {
		OfCourse
		Body struct {
			Topic string `json:"topic"`
		}
	}
	on(a, staff, http.MethodPost, "/api/courses/{course}/standing-room", "use-room",
		"Make ready to capture something unplanned",
		func(ctx context.Context, _ roster.Person, in *roomInput) (*body[GuestPass], error) {
			id, err := a.Schedule.Room(ctx, in.Course, in.Body.Topic)
			return answer(GuestPass{id}), err
		})
	type lessonInput struct {
		OfCourse
		Body struct {
			Week  string `json:"week" doc:"a date in the week that it is for"`
			Topic string `json:"topic"`
		}
	}
	on(a, staff, http.MethodPost, "/api/courses/{course}/lessons", "add-lesson",
		"Make ready to record a lesson ahead for a week",
		func(ctx context.Context, _ roster.Person, in *lessonInput) (*body[GuestPass], error) {
			id, err := a.Schedule.Lesson(ctx, in.Course, dayIn(in.Body.Week), in.Body.Topic)
			return answer(GuestPass{id}), err
		})
	on(a, signedIn, http.MethodGet, "/api/dates", "dates", "Everything planned in one's courses", a.dates)
}

// date is l as everyone of its course sees it, but for its recording.
func date(term schedule.Term, l schedule.Lecture, now time.Time) LectureDate {
	d := LectureDate{
		ID: l.ID, CourseID: l.CourseID, Course: l.Code, CourseTitle: l.CourseTitle, Week: term.Week(l.StartsAt).Number,
		StartsAt: l.StartsAt, EndsAt: l.EndsAt, Hall: l.Hall, Topic: l.Topic,
		Running: l.Running && !l.Alone, Unplanned: l.Unplanned, Ahead: l.Ahead, Doorway: string(l.Doorway),
		OpensAt: l.Door().OpensAt(), CaptureAuto: l.CaptureAuto, PlanID: l.PlanID,
	}
	if l.Moved() {
		d.Was = l.PlannedAt
	}
	if !l.Alone && !l.Apart {
		d.Phase = string(l.Phase(now))
	}
	switch {
	case l.CalledOff:
		d.State = "off"
	case l.Unplanned && l.Running:
		d.State = "on"
	case !now.Before(l.EndsAt), l.Ahead && !now.Before(l.StartsAt), l.Held():
		d.State = "over"
	case !now.Before(l.StartsAt):
		d.State = "on"
	case sameDay(l.StartsAt, now, term.Zone):
		d.State = "today"
	default:
		d.State = "planned"
	}
	return d
}

func sameDay(x, y time.Time, zone *time.Location) bool {
	if d := x.Sub(y); d > 25*time.Hour || d < -25*time.Hour {
		return false
	}
	return timetable.DayOf(x, zone).Equal(timetable.DayOf(y, zone))
}

// datesOf are lectures as one person sees them, each with the recording that they can open.
func (a *API) datesOf(ctx context.Context, p roster.Person, term schedule.Term,
	lectures []schedule.Lecture) ([]LectureDate, error) {
	var recordings []uuid.UUID
	for _, l := range lectures {
		if l.RecordingID != nil {
			recordings = append(recordings, *l.RecordingID)
		}
	}
	doors, err := a.Audience.Doors(ctx, p.ID, recordings)
	if err != nil {
		return nil, err
	}
	reaches, err := a.reachesOfStaff(ctx, lectures, doors)
	if err != nil {
		return nil, err
	}
	now := a.Clock.Now()
	out := []LectureDate{}
	for _, l := range lectures {
		d := date(term, l, now)
		if l.RecordingID != nil && doors[*l.RecordingID].Watch && (l.Running || l.Ready) {
			d.RecordingID = l.RecordingID
			if teaches(doors[*l.RecordingID], l) {
				d.Light = string(reachOf(reaches, l).Count(l.Viewing(), now).Light())
			}
		}
		out = append(out, d)
	}
	return out, nil
}

// teaches reports whether a door is open since the person teaches the course of the lecture.
func teaches(door audience.Door, l schedule.Lecture) bool {
	return door.Reason == viewing.AsStaff && door.Course == l.CourseID
}

// reachesOfStaff is whom the rules reach in the courses that a person teaches, by the doors that are open to them.
func (a *API) reachesOfStaff(ctx context.Context, lectures []schedule.Lecture,
	doors map[uuid.UUID]audience.Door) (audience.Reaches, error) {
	var courses []uuid.UUID
	for _, l := range lectures {
		if l.RecordingID != nil && teaches(doors[*l.RecordingID], l) && !slices.Contains(courses, l.CourseID) {
			courses = append(courses, l.CourseID)
		}
	}
	if len(courses) == 0 {
		return nil, nil
	}
	return a.Audience.Reaches(ctx, courses)
}

func (a *API) coursePage(ctx context.Context, p roster.Person, id uuid.UUID) (*body[CoursePage], error) {
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
		lectures, err = a.known(ctx, p, lectures)
	}
	if err != nil {
		return nil, err
	}
	now := a.Clock.Now()
	out := CoursePage{ID: c.ID, Code: c.Code, Title: c.Title, Lecturers: c.Lecturers, Students: c.Students,
		Staff: viewer.Coordinator || viewer.Part.Staff(), Part: string(viewer.Part),
		TermID: term.ID, Term: termText(term), Now: now, Plans: []PlanLine{}}
	if out.Dates, err = a.datesOf(ctx, p, term, lectures); err != nil {
		return nil, err
	}
	if l := schedule.Nearest(lectures, now, term.Zone); l != nil {
		out.Next = &l.ID
	}
	if !out.Staff {
		return answer(out), nil
	}
	if out.TrimsEnds, err = a.Cuts.TrimsEnds(ctx, id); err != nil {
		return nil, err
	}
	if out.Originals, err = a.Capture.OriginalDays(ctx, id); err != nil {
		return nil, err
	}
	plans, err := a.Schedule.Plans(ctx, id)
	for _, x := range plans {
		out.Plans = append(out.Plans, planLine(x, term))
	}
	return answer(out), err
}

func (a *API) courseList(ctx context.Context, p roster.Person, in *coursesInput) (*body[CourseList], error) {
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
	part := map[uuid.UUID]viewing.Part{}
	for _, m := range parts {
		part[m.CourseID] = m.Part
	}
	courses, err := a.Schedule.Courses(ctx, term.ID, nil)
	if err != nil {
		return nil, err
	}
	if !p.Coordinator {
		courses = slices.DeleteFunc(courses, func(c schedule.Course) bool { return part[c.ID] == "" })
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
			Lectures: len(of[c.ID]), Part: string(part[c.ID])}
		if l := schedule.Nearest(of[c.ID], now, term.Zone); l != nil {
			d := date(term, *l, now)
			x.Next = &d
		}
		out.Courses = append(out.Courses, x)
	}
	return answer(out), nil
}

func (a *API) room(ctx context.Context, p roster.Person, in *OfCourse) (*body[Room], error) {
	page, err := a.coursePage(ctx, p, in.Course)
	if err != nil {
		return nil, err
	}
	c := page.Body
	out := Room{Course: CourseName{c.ID, c.Code, c.Title}, Zone: c.Term.Zone, Staff: c.Staff, Today: []LectureDate{}}
	zone, err := time.LoadLocation(c.Term.Zone)
	if err != nil {
		return nil, err
	}
	for _, d := range c.Dates {
		switch {
		case d.Unplanned && d.Running:
			out.Running = &d
		case !d.Unplanned && d.State != "off" && sameDay(d.StartsAt, c.Now, zone):
			out.Today = append(out.Today, d)
		case c.Next != nil && d.ID == *c.Next:
			out.Next = &d
		}
	}
	if len(out.Today) > 0 {
		out.Next = nil
	}
	return answer(out), nil
}

func (a *API) dates(ctx context.Context, p roster.Person, _ *empty) (*body[Dates], error) {
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
		lectures, err = a.known(ctx, p, lectures)
	}
	if err != nil {
		return nil, err
	}
	out := Dates{Zone: term.Zone.String(), Now: a.Clock.Now(), Today: []LectureDate{}}
	if out.Dates, err = a.datesOf(ctx, p, term, lectures); err != nil {
		return nil, err
	}
	for _, d := range out.Dates {
		if sameDay(d.StartsAt, out.Now, term.Zone) && (!d.Unplanned || d.Running) {
			out.Today = append(out.Today, d)
		}
	}
	return answer(out), nil
}
