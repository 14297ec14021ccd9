package planning

import (
	"cmp"
	"context"
	"net/http"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/audience"
	"latelantern/internal/find"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// FoundLine is one thing that was found by its name.
type FoundLine struct {
	Kind     string     `json:"kind" enum:"course,recording,lecture,hall,person"`
	ID       uuid.UUID  `json:"id" format:"uuid"`
	Name     string     `json:"name" doc:"of a course its title, of a lecture without a topic that of its course"`
	CourseID *uuid.UUID `json:"course_id,omitempty" format:"uuid" doc:"of a person, one that who asks teaches"`
	Course   string     `json:"course" doc:"the code of that course"`
	Term     string     `json:"term" doc:"of a course"`
	StartsAt *time.Time `json:"starts_at,omitempty" doc:"of a lecture or recording"`
	Email    string     `json:"email" doc:"of a person"`
	Teaches  bool       `json:"teaches" doc:"who asks teaches the course, or coordinates the college"`
	weight   int
}

// FoundList is what answers the words, the best first.
type FoundList struct {
	Zone  string      `json:"zone"`
	Found []FoundLine `json:"found" nullable:"false"`
}

type findInput struct {
	Words string `query:"words" maxLength:"200" doc:"all of them are in what is found, in any order, whole or in part"`
}

// ofAKind is how many of a kind are listed, and listed how many in all.
const ofAKind, listed = 6, 14

func (a *API) findRoutes() {
	edge.On(a.Edge, edge.SignedIn, http.MethodGet, "/api/find", "find",
		"Courses, lectures, recordings, halls and people by name: what who asks may know of", a.find)
}

// looker is who looks for something, and where they may.
type looker struct {
	roster.Person
	within, taught []uuid.UUID // courses; nil for all
}

func (a *API) find(ctx context.Context, p roster.Person, in *findInput) (*edge.Body[FoundList], error) {
	out := FoundList{Zone: time.UTC.String(), Found: []FoundLine{}}
	w, err := a.Find.Folded(ctx, in.Words)
	if err != nil || w.None() {
		return edge.Answer(out), err
	}
	term, err := a.Schedule.CurrentTerm(ctx)
	if err != nil {
		return nil, err
	}
	out.Zone = term.Zone.String()
	who := looker{Person: p}
	if !p.Coordinator {
		who.within, who.taught = []uuid.UUID{}, []uuid.UUID{}
		memberships, err := a.Roster.Memberships(ctx, p.ID)
		if err != nil {
			return nil, err
		}
		for _, m := range memberships {
			who.within = append(who.within, m.CourseID)
			if m.Role.Staff() {
				who.taught = append(who.taught, m.CourseID)
			}
		}
	}
	kinds := []func(context.Context, looker, find.Words) ([]FoundLine, error){a.foundCourses, a.foundLectures}
	if p.Coordinator || len(who.taught) > 0 {
		kinds = append(kinds, a.foundHalls, a.foundPeople)
	}
	for _, kind := range kinds {
		lines, err := kind(ctx, who, w)
		if err != nil {
			return nil, err
		}
		out.Found = append(out.Found, lines[:min(len(lines), ofAKind)]...)
	}
	slices.SortStableFunc(out.Found, func(x, y FoundLine) int { return cmp.Compare(y.weight, x.weight) })
	out.Found = out.Found[:min(len(out.Found), listed)]
	return edge.Answer(out), nil
}

func (l looker) teaches(course uuid.UUID) bool {
	return l.Coordinator || slices.Contains(l.taught, course)
}

func (a *API) foundCourses(ctx context.Context, who looker, w find.Words) (out []FoundLine, err error) {
	list, err := a.Find.Courses(ctx, w, who.within)
	for _, x := range list {
		out = append(out, FoundLine{Kind: "course", ID: x.ID, Name: x.Title, CourseID: &x.ID, Course: x.Code,
			Term: x.Term, Teaches: who.teaches(x.ID), weight: x.Weight})
	}
	return out, err
}

func (a *API) foundHalls(ctx context.Context, who looker, w find.Words) (out []FoundLine, err error) {
	list, err := a.Find.Halls(ctx, w)
	for _, x := range list {
		out = append(out, FoundLine{Kind: "hall", ID: x.ID, Name: x.Name, Teaches: who.Coordinator, weight: x.Weight})
	}
	return out, err
}

func (a *API) foundPeople(ctx context.Context, who looker, w find.Words) (out []FoundLine, err error) {
	list, err := a.Find.People(ctx, w, who.taught)
	for _, x := range list {
		out = append(out, FoundLine{Kind: "person", ID: x.ID, Name: x.Name, CourseID: x.Course, Course: x.Code,
			Email: x.Email, Teaches: true, weight: x.Weight})
	}
	return out, err
}

// foundLectures are recordings that someone can open, and lectures of which they may know. What is decided is decided
// for a few at a time, until there are enough.
func (a *API) foundLectures(ctx context.Context, who looker, w find.Words) (out []FoundLine, err error) {
	list, err := a.Find.Lectures(ctx, w, who.within)
	if err != nil {
		return nil, err
	}
	for some := range slices.Chunk(list, 4*ofAKind) {
		lines, err := a.mayKnow(ctx, who, w, some)
		if err != nil {
			return nil, err
		}
		if out = append(out, lines...); len(out) >= ofAKind {
			break
		}
	}
	slices.SortStableFunc(out, func(x, y FoundLine) int { return cmp.Compare(y.weight, x.weight) })
	return out, nil
}

// mayKnow are those of what was found that someone may know of: a recording when they can open it, else its lecture,
// by what of it is theirs to know.
func (a *API) mayKnow(ctx context.Context, who looker, w find.Words, some []find.Held) ([]FoundLine, error) {
	var ids, recordings []uuid.UUID
	for _, x := range some {
		ids = append(ids, x.Lecture)
		if x.Recording != nil {
			recordings = append(recordings, *x.Recording)
		}
	}
	lectures, err := a.Schedule.LecturesNamed(ctx, ids)
	if err != nil {
		return nil, err
	}
	known, err := a.Seen.Known(ctx, who.Person, lectures)
	if err != nil {
		return nil, err
	}
	accesses, err := a.Audience.DecideAll(ctx, who.ID, recordings)
	if err != nil {
		return nil, err
	}
	var out []FoundLine
	for _, x := range some {
		if line, ok := lineOf(x, lectures, accesses, w); ok {
			line.Teaches = who.teaches(*line.CourseID)
			out = append(out, line)
			continue
		}
		at := slices.IndexFunc(known, func(l schedule.Lecture) bool { return l.ID == x.Lecture })
		weight := w.Weight(x.Planned)
		if at < 0 || weight == 0 || slices.ContainsFunc(out, func(y FoundLine) bool { return y.ID == x.Lecture }) {
			continue
		}
		l := known[at]
		out = append(out, FoundLine{Kind: "lecture", ID: l.ID, Name: l.Name(), CourseID: &l.CourseID, Course: l.Code,
			StartsAt: &l.StartsAt, Teaches: who.teaches(l.CourseID), weight: weight})
	}
	return out, nil
}

// lineOf is the line of a recording; ok is false for one that cannot be opened.
func lineOf(x find.Held, lectures []schedule.Lecture, accesses map[uuid.UUID]audience.Access,
	w find.Words) (line FoundLine, ok bool) {
	if x.Recording == nil || !accesses[*x.Recording].Watch() {
		return line, false
	}
	at := slices.IndexFunc(lectures, func(l schedule.Lecture) bool {
		return l.RecordingID != nil && *l.RecordingID == *x.Recording && (l.Running || l.Ready)
	})
	if at < 0 { // nothing of it can be shown, or it was removed meanwhile
		return line, false
	}
	l, access := lectures[at], accesses[*x.Recording]
	line = FoundLine{Kind: "recording", ID: *x.Recording, Name: cmp.Or(l.Title, l.Name()), CourseID: &access.Course,
		Course: access.Code, StartsAt: &l.StartsAt, weight: w.Weight(x.Folded)}
	return line, true
}
