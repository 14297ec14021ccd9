package api

import (
	"context"
	"crypto/hmac"
	"encoding/base64"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

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
	on(a, anyone, http.MethodPost, "/api/sign-in", "sign-in", "Sign in",
		func(ctx context.Context, _ roster.Person, in *signInInput) (*body[Me], error) {
			at, err := a.SignIn.SignIn(ctx, in.Body.Email, in.Body.Password, clientOf(ctx), a.knownBrowser(ctx))
			if err != nil {
				return nil, err
			}
			return a.enterAs(ctx, at.ID)
		})
	on(a, anyone, http.MethodPost, "/api/sign-out", "sign-out", "Sign out",
		func(ctx context.Context, _ roster.Person, _ *empty) (*empty, error) {
			if err := a.sessions.Destroy(ctx); err != nil {
				return nil, err
			}
			a.sessions.WriteSessionCookie(ctx, ginOf(ctx).Writer, "", time.Time{})
			// Never its storage: pieces of a capture that were not sent yet lie there.
			ginOf(ctx).Header("Clear-Site-Data", `"cache"`)
			note(ctx, "signed_out")
			return nil, nil
		})
	on(a, inside, http.MethodGet, "/api/me", "me", "Who has signed in",
		func(ctx context.Context, p roster.Person, _ *empty) (*body[Me], error) {
			return a.me(ctx, p)
		})
}

// enterAs begins a session of a person, as they are now, and says who that is.
func (a *API) enterAs(ctx context.Context, person uuid.UUID) (*body[Me], error) {
	p, err := a.Roster.Person(ctx, person)
	if err != nil {
		return nil, err
	}
	if err := a.begin(ctx, p); err != nil {
		return nil, err
	}
	return a.me(ctx, p)
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
	a.sessions.WriteSessionCookie(ctx, ginOf(ctx).Writer, token, expiry)
	if !p.Guest {
		a.knowBrowser(ctx, p.ID)
	}
	note(ctx, "signed_in", "person", p.ID)
	return nil
}

// browserLasts is how long a browser is known in which someone has signed in.
const browserLasts = 180 * 24 * time.Hour

// knowBrowser has the browser say from now on that a person has signed in with it before. That opens nothing; it keeps
// others from slowing their sign-in down.
func (a *API) knowBrowser(ctx context.Context, person uuid.UUID) {
	b := append([]byte("browser"), person[:]...)
	http.SetCookie(ginOf(ctx).Writer, &http.Cookie{
		Name:  cookieName(a.Secure, "late_lantern_known"),
		Value: base64.RawURLEncoding.EncodeToString(append(person[:], a.sign(b)...)),
		Path:  "/", MaxAge: int(browserLasts.Seconds()), HttpOnly: true, Secure: a.Secure,
		SameSite: http.SameSiteLaxMode,
	})
}

// knownBrowser is the person who signed in with this browser last; uuid.Nil for nobody.
func (a *API) knownBrowser(ctx context.Context) uuid.UUID {
	cookie, err := ginOf(ctx).Request.Cookie(cookieName(a.Secure, "late_lantern_known"))
	if err != nil {
		return uuid.Nil
	}
	b, err := base64.RawURLEncoding.DecodeString(cookie.Value)
	if err != nil || len(b) != 16+macLength || !hmac.Equal(a.sign(append([]byte("browser"), b[:16]...)), b[16:]) {
		return uuid.Nil
	}
	return uuid.UUID(b[:16])
}

// clientOf is the address on the net that calls.
func clientOf(ctx context.Context) string { return ginOf(ctx).ClientIP() }

// ginOf is the request as gin has it.
func ginOf(ctx context.Context) *gin.Context { return ctx.Value(ginKey).(*gin.Context) }

func (a *API) me(ctx context.Context, p roster.Person) (*body[Me], error) {
	parts, err := a.Roster.Memberships(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	me := Me{ID: p.ID, Name: p.Name, Coordinator: p.Coordinator, Staff: p.Coordinator, Email: p.Email,
		Courses: []MyPart{}, Now: a.Clock.Now()}
	if lecture, ok := guestOf(ctx); ok {
		me.Guest = &lecture
	}
	for _, m := range parts {
		me.Staff = me.Staff || m.Part.Staff()
		me.Courses = append(me.Courses, MyPart{m.CourseID, m.Code, m.Title, string(m.Part)})
	}
	return answer(me), nil
}

var signInProblems = problems{
	signin.ErrSignIn: http.StatusUnauthorized,
	signin.ErrClosed: http.StatusForbidden,
}
