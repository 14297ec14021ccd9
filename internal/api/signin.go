package api

import (
	"context"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/roster"
)

// Me is who has signed in.
type Me struct {
	ID          uuid.UUID  `json:"id" format:"uuid"`
	Name        string     `json:"name"`
	Coordinator bool       `json:"coordinator"`
	Staff       bool       `json:"staff" doc:"teaches some course, or coordinates the college"`
	Email       string     `json:"email"`
	Guest       *uuid.UUID `json:"guest_of,omitempty" format:"uuid" doc:"the lecture of a guest, who sees nothing else"`
	Courses     []MyPart   `json:"courses" nullable:"false"`
	Now         time.Time  `json:"now" doc:"the time of the college"`
}

// MyPart is one course of a person.
type MyPart struct {
	ID    uuid.UUID `json:"id" format:"uuid"`
	Code  string    `json:"code"`
	Title string    `json:"title"`
	Part  string    `json:"part" enum:"lecturer,assistant,student"`
}

type signInInput struct {
	Body struct {
		Email    string `json:"email" maxLength:"254"`
		Password string `json:"password" maxLength:"1000"`
	}
}

func (a *API) signInRoutes() {
	on(a, anyone, http.MethodPost, "/api/sign-in", "sign-in", "Sign in", func(ctx context.Context, _ roster.Person, in *signInInput) (*body[Me], error) {
		p, err := a.Roster.SignIn(ctx, in.Body.Email, in.Body.Password, clientOf(ctx))
		if err != nil {
			return nil, err
		}
		if err := a.begin(ctx, p); err != nil {
			return nil, err
		}
		return a.me(ctx, p)
	})
	on(a, anyone, http.MethodPost, "/api/sign-out", "sign-out", "Sign out", func(ctx context.Context, _ roster.Person, _ *empty) (*empty, error) {
		if err := a.sessions.Destroy(ctx); err != nil {
			return nil, err
		}
		a.sessions.WriteSessionCookie(ctx, ctx.Value(ginKey).(*gin.Context).Writer, "", time.Time{})
		return nil, nil
	})
	on(a, inside, http.MethodGet, "/api/me", "me", "Who has signed in", func(ctx context.Context, p roster.Person, _ *empty) (*body[Me], error) {
		return a.me(ctx, p)
	})
}

// begin begins a session of p, under a new token.
func (a *API) begin(ctx context.Context, p roster.Person) error {
	if err := a.sessions.RenewToken(ctx); err != nil {
		return err
	}
	a.sessions.Put(ctx, "person", p.ID.String())
	a.sessions.Put(ctx, "era", p.SessionEra)
	token, expiry, err := a.sessions.Commit(ctx)
	if err != nil {
		return err
	}
	a.sessions.WriteSessionCookie(ctx, ctx.Value(ginKey).(*gin.Context).Writer, token, expiry)
	return nil
}

// clientOf is the address on the net that calls.
func clientOf(ctx context.Context) string { return ctx.Value(ginKey).(*gin.Context).ClientIP() }

func (a *API) me(ctx context.Context, p roster.Person) (*body[Me], error) {
	parts, err := a.Roster.Memberships(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	me := Me{ID: p.ID, Name: p.Name, Coordinator: p.Coordinator, Staff: p.Coordinator, Email: p.Email, Courses: []MyPart{}, Now: a.Clock.Now()}
	if lecture, ok := guestOf(ctx); ok {
		me.Guest = &lecture
	}
	for _, m := range parts {
		me.Staff = me.Staff || m.Part.Staff()
		me.Courses = append(me.Courses, MyPart{m.CourseID, m.Code, m.Title, string(m.Part)})
	}
	return answer(me), nil
}
