package planning

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/core/timetable"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// TermNow is the term under way, and where in it one is.
type TermNow struct {
	ID     uuid.UUID `json:"id" format:"uuid"`
	Name   string    `json:"name"`
	Zone   string    `json:"zone" doc:"IANA zone of the college"`
	Now    time.Time `json:"now"`
	Monday string    `json:"monday" format:"date" doc:"of this week"`
	Weeks  []Week    `json:"weeks" nullable:"false"`
}

// TermText is a term as it is entered.
type TermText struct {
	Name     string      `json:"name"`
	Zone     string      `json:"zone" doc:"IANA zone"`
	FirstDay string      `json:"first_day" doc:"a date"`
	LastDay  string      `json:"last_day" doc:"a date"`
	Breaks   []BreakText `json:"breaks" nullable:"false" maxItems:"50"`
}

// BreakText is a stretch of days within a term without teaching.
type BreakText struct {
	Name     string `json:"name"`
	FirstDay string `json:"first_day"`
	LastDay  string `json:"last_day"`
}

// TermLine is a term in the list.
type TermLine struct {
	ID      uuid.UUID `json:"id" format:"uuid"`
	Term    TermText  `json:"term"`
	Weeks   int       `json:"weeks" doc:"of teaching"`
	Courses int       `json:"courses"`
	Now     bool      `json:"now" doc:"it is the one that pages show"`
}

// HallLine is a hall in the list.
type HallLine struct {
	ID       uuid.UUID `json:"id" format:"uuid"`
	Name     string    `json:"name"`
	Lectures int       `json:"lectures" doc:"planned there, in all terms"`
}

// TermsAndHalls is where and when there is teaching.
type TermsAndHalls struct {
	Terms []TermLine `json:"terms" nullable:"false" doc:"the newest first"`
	Halls []HallLine `json:"halls" nullable:"false"`
}

type hallText struct {
	Name string `json:"name"`
}

// dayIn reads a date; what is none is the zero value, which no form takes.
func dayIn(text string) timetable.Day {
	t, err := time.Parse(time.DateOnly, text)
	if err != nil {
		return timetable.Day{}
	}
	return t
}

func (t TermText) form() schedule.TermForm {
	f := schedule.TermForm{Name: t.Name, Zone: t.Zone,
		Term: timetable.Term{First: dayIn(t.FirstDay), Last: dayIn(t.LastDay)}}
	for _, b := range t.Breaks {
		f.Breaks = append(f.Breaks, timetable.Break{Name: b.Name, First: dayIn(b.FirstDay), Last: dayIn(b.LastDay)})
	}
	return f
}

func (a *API) termRoutes() {
	edge.On(a.Edge, edge.SignedIn, http.MethodGet, "/api/term", "term", "The term under way and its weeks",
		func(ctx context.Context, _ roster.Person, _ *edge.Empty) (*edge.Body[TermNow], error) {
			term, err := a.Schedule.CurrentTerm(ctx)
			if err != nil {
				return nil, err
			}
			now := a.Clock.Now()
			return edge.Answer(TermNow{term.ID, term.Name, term.Zone.String(), now, page.Day(term.Week(now).Monday),
				weeksOf(term)}), nil
		})
	type listed = edge.Body[TermsAndHalls]
	list := func(ctx context.Context, err error) (*listed, error) {
		if err != nil {
			return nil, err
		}
		return a.termsAndHalls(ctx)
	}
	edge.On(a.Edge, edge.Teachers, http.MethodGet, "/api/terms", "terms", "Terms and halls",
		func(ctx context.Context, _ roster.Person, _ *edge.Empty) (*listed, error) { return list(ctx, nil) })
	edge.On(a.Edge, edge.Coordinators, http.MethodPost, "/api/terms", "add-term", "Add a term",
		func(ctx context.Context, _ roster.Person, in *edge.Body[TermText]) (*listed, error) {
			_, err := a.Schedule.KeepTerm(ctx, uuid.Nil, in.Body.form())
			return list(ctx, err)
		})
	type termInput struct {
		page.OfTerm
		Body TermText
	}
	edge.On(a.Edge, edge.Coordinators, http.MethodPut, "/api/terms/{term}", "change-term", "Change a term",
		func(ctx context.Context, _ roster.Person, in *termInput) (*listed, error) {
			_, err := a.Schedule.KeepTerm(ctx, in.Term, in.Body.form())
			return list(ctx, err)
		})
	edge.On(a.Edge, edge.Coordinators, http.MethodDelete, "/api/terms/{term}", "remove-term",
		"Remove a term without courses",
		func(ctx context.Context, _ roster.Person, in *page.OfTerm) (*listed, error) {
			return list(ctx, a.Schedule.RemoveTerm(ctx, in.Term))
		})
	edge.On(a.Edge, edge.Coordinators, http.MethodPost, "/api/halls", "add-hall", "Add a hall",
		func(ctx context.Context, _ roster.Person, in *edge.Body[hallText]) (*listed, error) {
			_, err := a.Schedule.KeepHall(ctx, uuid.Nil, in.Body.Name)
			return list(ctx, err)
		})
	type hallInput struct {
		page.OfHall
		Body hallText
	}
	edge.On(a.Edge, edge.Coordinators, http.MethodPut, "/api/halls/{hall}", "rename-hall", "Rename a hall",
		func(ctx context.Context, _ roster.Person, in *hallInput) (*listed, error) {
			_, err := a.Schedule.KeepHall(ctx, in.Hall, in.Body.Name)
			return list(ctx, err)
		})
	edge.On(a.Edge, edge.Coordinators, http.MethodDelete, "/api/halls/{hall}", "remove-hall",
		"Remove a hall in which nothing is planned",
		func(ctx context.Context, _ roster.Person, in *page.OfHall) (*listed, error) {
			return list(ctx, a.Schedule.RemoveHall(ctx, in.Hall))
		})
}

func weeksOf(term schedule.Term) []Week {
	out := []Week{}
	for _, w := range term.Weeks {
		out = append(out, Week{page.Day(w.Monday), w.Number, w.Break})
	}
	return out
}

func (a *API) termsAndHalls(ctx context.Context) (*edge.Body[TermsAndHalls], error) {
	out := TermsAndHalls{Terms: []TermLine{}, Halls: []HallLine{}}
	terms, err := a.Schedule.Terms(ctx)
	if err != nil {
		return nil, err
	}
	halls, err := a.Schedule.Halls(ctx)
	if err != nil {
		return nil, err
	}
	for _, h := range halls {
		out.Halls = append(out.Halls, HallLine{h.ID, h.Name, h.Lectures})
	}
	if len(terms) == 0 {
		return edge.Answer(out), nil
	}
	current, err := a.Schedule.CurrentTerm(ctx)
	if err != nil {
		return nil, err
	}
	for _, t := range terms {
		x := TermLine{ID: t.ID, Courses: t.Courses, Now: t.ID == current.ID, Term: termText(t)}
		for _, w := range t.Weeks {
			x.Weeks = max(x.Weeks, w.Number)
		}
		out.Terms = append(out.Terms, x)
	}
	return edge.Answer(out), nil
}

func termText(t schedule.Term) TermText {
	out := TermText{Name: t.Name, Zone: t.Zone.String(), FirstDay: page.Day(t.Plan.First),
		LastDay: page.Day(t.Plan.Last),
		Breaks:  []BreakText{}}
	for _, b := range t.Plan.Breaks {
		out.Breaks = append(out.Breaks, BreakText{b.Name, page.Day(b.First), page.Day(b.Last)})
	}
	return out
}
