package planning

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/carry"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// CarryText is what of a course is carried to another term, and where to.
type CarryText struct {
	To       *uuid.UUID `json:"to,omitempty" format:"uuid" doc:"a course of another term in which nothing is yet; absent: one is made"`
	Term     *uuid.UUID `json:"term,omitempty" format:"uuid" doc:"in which it is made"`
	Code     string     `json:"code" doc:"of the one that is made"`
	Title    string     `json:"title"`
	Plan     bool       `json:"plan" doc:"its lectures, and how titles are made"`
	Lists    bool       `json:"lists" doc:"its playlists with their headings"`
	Again    bool       `json:"again" doc:"with their recordings, lit there if they are lit here"`
	Rule     bool       `json:"rule" doc:"its viewing rule"`
	Staff    bool       `json:"staff" doc:"who teaches it"`
	Settings bool       `json:"settings" doc:"its words, how its ends are trimmed, how long originals are kept, what it writes"`
}

// CarrySaid is what was carried, or would be, and what stays.
type CarrySaid struct {
	Course     uuid.UUID  `json:"course_id" format:"uuid" doc:"that it came to"`
	Plans      int        `json:"plans"`
	Lectures   int        `json:"lectures"`
	First      *time.Time `json:"first,omitempty"`
	Last       *time.Time `json:"last,omitempty"`
	Zone       string     `json:"zone" doc:"IANA zone of the college"`
	Left       int        `json:"left" doc:"lectures for which the other term has no day"`
	Clashing   int        `json:"clashing" doc:"lectures that are at the same time as others"`
	Lists      int        `json:"lists" doc:"playlists beside the main one"`
	Headings   int        `json:"headings"`
	Pages      int        `json:"pages"`
	Files      int        `json:"files" doc:"that stand in playlists"`
	Recordings int        `json:"recordings"`
	Lit        int        `json:"lit" doc:"of the recordings"`
	ListsLeft  []string   `json:"lists_left" nullable:"false" doc:"titles of playlists that stay"`
	Rule       bool       `json:"rule"`
	Groups     []string   `json:"groups" nullable:"false" doc:"that the rule speaks of, and that have to be in the roster there"`
	Staff      int        `json:"staff"`
}

// CarryChoice is where a course can be carried, and where it was.
type CarryChoice struct {
	Terms   []TermName     `json:"terms" nullable:"false" doc:"other terms than its own, the newest first"`
	Courses []CourseOfTerm `json:"courses" nullable:"false" doc:"of those that one teaches"`
	Carried []CourseOfTerm `json:"carried" nullable:"false" doc:"to which it was carried, the last first"`
	Makes   bool           `json:"makes" doc:"who asks can have a course made"`
}

// TermName is a term by its name.
type TermName struct {
	ID   uuid.UUID `json:"id" format:"uuid"`
	Name string    `json:"name"`
}

// CourseOfTerm is a course with its term.
type CourseOfTerm struct {
	page.CourseName
	Term uuid.UUID `json:"term_id" format:"uuid"`
}

type carryInput struct {
	edge.OfCourse
	Body CarryText
}

func (a *API) carryRoutes() {
	const path = "/api/courses/{course}/carry"
	edge.On(a.Edge, edge.Staff, http.MethodGet, path, "carry-choice", "Where a course can be carried", a.carryChoice)
	type answer = func(context.Context, roster.Person, *carryInput) (*edge.Body[CarrySaid], error)
	do := func(how func(context.Context, uuid.UUID, carry.Form) (carry.Said, error)) answer {
		return func(ctx context.Context, p roster.Person, in *carryInput) (*edge.Body[CarrySaid], error) {
			f, err := a.carryForm(ctx, p, in)
			if err != nil {
				return nil, err
			}
			said, err := how(ctx, p.ID, f)
			if err != nil {
				return nil, err
			}
			term, err := a.Schedule.TermOf(ctx, in.Course)
			return edge.Answer(carrySaid(said, term)), err
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPost, path+"/preview", "preview-carry",
		"What carrying a course to another term would do", do(a.Carry.Preview))
	edge.On(a.Edge, edge.Staff, http.MethodPost, path, "carry-course", "Carry a course to another term",
		do(a.Carry.Carry))
	edge.On(a.Edge, edge.Staff, http.MethodPost, path+"/undo", "undo-carry",
		"Take back that a course of another term was carried to this one",
		func(ctx context.Context, p roster.Person, in *edge.OfCourse) (*edge.Empty, error) {
			return nil, a.Carry.TakeBack(ctx, in.Course, p.ID, p.Coordinator)
		})
}

// carryForm is what is asked for, if who asks may: to carry to a course they teach it, to have one made they
// coordinate.
func (a *API) carryForm(ctx context.Context, p roster.Person, in *carryInput) (carry.Form, error) {
	b := in.Body
	f := carry.Form{From: in.Course, Code: b.Code, Title: b.Title, Plan: b.Plan, Lists: b.Lists, Again: b.Again,
		Foreign: p.Coordinator, Rule: b.Rule, Staff: b.Staff, Settings: b.Settings}
	switch {
	case b.To != nil:
		f.To = *b.To
		return f, a.MayStaff(ctx, p, f.To)
	case !p.Coordinator:
		return f, edge.ErrNotStaff
	case b.Term == nil:
		return f, schedule.ErrUnknown
	}
	f.Term = *b.Term
	return f, nil
}

func carrySaid(x carry.Said, term schedule.Term) CarrySaid {
	out := CarrySaid{Course: x.Course, Plans: x.Plan.Plans, Lectures: x.Plan.Lectures, Zone: term.Zone.String(),
		Left: x.Plan.Left, Clashing: x.Plan.Clashing, Lists: len(x.Lists.Lists), Headings: x.Lists.Headings,
		Pages: x.Lists.Pages, Files: x.Lists.Files, Recordings: len(x.Lists.Recordings), Lit: x.Lit,
		ListsLeft: append([]string{}, x.Lists.Left...), Groups: []string{}, Staff: x.Staff}
	if x.Plan.Lectures > 0 {
		out.First, out.Last = &x.Plan.First, &x.Plan.Last
	}
	if x.Rule != nil {
		out.Rule, out.Groups = true, append(out.Groups, x.Rule.Groups...)
	}
	return out
}

func (a *API) carryChoice(ctx context.Context, p roster.Person, in *edge.OfCourse) (*edge.Body[CarryChoice], error) {
	own, err := a.Schedule.TermOf(ctx, in.Course)
	if err != nil {
		return nil, err
	}
	terms, err := a.Schedule.Terms(ctx)
	if err != nil {
		return nil, err
	}
	out := CarryChoice{Terms: []TermName{}, Courses: []CourseOfTerm{}, Carried: []CourseOfTerm{}, Makes: p.Coordinator}
	for _, t := range terms {
		if t.ID == own.ID {
			continue
		}
		out.Terms = append(out.Terms, TermName{t.ID, t.Name})
		courses, err := a.Schedule.Courses(ctx, t.ID, p.Teaches())
		if err != nil {
			return nil, err
		}
		for _, c := range courses {
			out.Courses = append(out.Courses, courseOfTerm(c))
		}
	}
	if err := a.carriedTo(ctx, p, in.Course, &out); err != nil {
		return nil, err
	}
	return edge.Answer(out), nil
}

// carriedTo adds where a course was carried, as far as that is theirs to know.
func (a *API) carriedTo(ctx context.Context, p roster.Person, course uuid.UUID, out *CarryChoice) error {
	ids, err := a.Carry.Carried(ctx, course)
	if err != nil {
		return err
	}
	for _, id := range ids {
		if err := a.MayStaff(ctx, p, id); errors.Is(err, edge.ErrNotStaff) {
			continue
		} else if err != nil {
			return err
		}
		c, err := a.Schedule.Course(ctx, id)
		if err != nil {
			return err
		}
		out.Carried = append(out.Carried, courseOfTerm(c))
	}
	return nil
}

func courseOfTerm(c schedule.Course) CourseOfTerm {
	return CourseOfTerm{CourseName: page.CourseName{ID: c.ID, Code: c.Code, Title: c.Title}, Term: c.TermID}
}

var carryProblems = edge.Problems{
	carry.ErrUnknown: http.StatusNotFound,
	carry.ErrNotBare: http.StatusConflict,
	carry.ErrUsed:    http.StatusConflict,
	carry.ErrSame:    http.StatusUnprocessableEntity,
}
