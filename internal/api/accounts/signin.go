package accounts

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/roster"
	"latelantern/internal/signin"
)

// Me is who has signed in.
type Me struct {
	ID          uuid.UUID  `json:"id" format:"uuid"`
	Name        string     `json:"name"`
	Coordinator bool       `json:"coordinator"`
	Staff       bool       `json:"staff" doc:"teaches some course, or coordinates the college"`
	Email       string     `json:"email"`
	Guest       *uuid.UUID `json:"guest_of,omitempty" format:"uuid" doc:"the lecture of a guest, who sees nothing else"`
	Link        *uuid.UUID `json:"link_to,omitempty" format:"uuid" doc:"the recording of a guest who came by a link"`
	LinkList    *uuid.UUID `json:"link_list,omitempty" format:"uuid" doc:"the opening by which a guest came who has a link to a playlist"`
	Language    string     `json:"language" doc:"in which they read and are written to; empty until they have chosen one"`
	Courses     []MyCourse `json:"courses" nullable:"false"`
	Now         time.Time  `json:"now" doc:"the time of the college"`
}

// MyCourse is one course of a person.
type MyCourse struct {
	ID    uuid.UUID `json:"id" format:"uuid"`
	Code  string    `json:"code"`
	Title string    `json:"title"`
	Role  string    `json:"role" enum:"lecturer,assistant,student"`
}

type signInInput struct {
	Body struct {
		Email    string `json:"email" maxLength:"254"`
		Password string `json:"password" maxLength:"1000"`
	}
}

func (a *API) signInRoutes() {
	edge.On(a.Edge, edge.Anyone, http.MethodPost, "/api/sign-in", "sign-in", "Sign in",
		func(ctx context.Context, _ roster.Person, in *signInInput) (*edge.Body[Me], error) {
			at, err := a.SignIn.SignIn(ctx, in.Body.Email, in.Body.Password, edge.ClientOf(ctx), a.KnownBrowser(ctx))
			if err != nil {
				return nil, err
			}
			return a.enterAs(ctx, at.ID)
		})
	edge.On(a.Edge, edge.Anyone, http.MethodPost, "/api/sign-out", "sign-out", "Sign out",
		func(ctx context.Context, _ roster.Person, _ *edge.Empty) (*edge.Empty, error) {
			return nil, a.End(ctx)
		})
	edge.On(a.Edge, edge.Inside, http.MethodGet, "/api/me", "me", "Who has signed in",
		func(ctx context.Context, p roster.Person, _ *edge.Empty) (*edge.Body[Me], error) {
			return a.me(ctx, p)
		})
}

// enterAs begins a session of a person, as they are now, and says who that is.
func (a *API) enterAs(ctx context.Context, person uuid.UUID) (*edge.Body[Me], error) {
	p, err := a.Roster.Person(ctx, person)
	if err != nil {
		return nil, err
	}
	if err := a.Begin(ctx, p); err != nil {
		return nil, err
	}
	return a.me(ctx, p)
}

func (a *API) me(ctx context.Context, p roster.Person) (*edge.Body[Me], error) {
	parts, err := a.Roster.Memberships(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	me := Me{ID: p.ID, Name: p.Name, Coordinator: p.Coordinator, Staff: p.Coordinator, Email: p.Email,
		Language: p.Language, Courses: []MyCourse{}, Now: a.Clock.Now()}
	if to, ok := edge.GuestOf(ctx); ok {
		me.Guest, me.Link, me.LinkList = postgres.OrNil(to.Lecture), postgres.OrNil(to.Recording),
			postgres.OrNil(to.Opening)
	}
	for _, m := range parts {
		me.Staff = me.Staff || m.Role.Staff()
		me.Courses = append(me.Courses, MyCourse{m.CourseID, m.Code, m.Title, string(m.Role)})
	}
	return edge.Answer(me), nil
}

var signInProblems = edge.Problems{
	signin.ErrSignIn: http.StatusUnauthorized,
	signin.ErrClosed: http.StatusForbidden,
}
