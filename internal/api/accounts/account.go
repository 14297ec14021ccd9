package accounts

import (
	"context"
	"net/http"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
	"latelantern/internal/signin"
)

// Welcome is whose account an address sent by mail opens.
type Welcome struct {
	Name  string `json:"name"`
	Email string `json:"email"`
}

// FeedAddress is the private address of a feed.
type FeedAddress struct {
	Address string `json:"address"`
}

type keyInput struct {
	Key string `path:"key" maxLength:"200"`
}

type activateInput struct {
	Key  string `path:"key" maxLength:"200"`
	Body struct {
		Password string `json:"password" maxLength:"1000"`
	}
}

type passwordInput struct {
	Body struct {
		Old      string `json:"old" maxLength:"1000" doc:"the password as it is now"`
		Password string `json:"password" maxLength:"1000"`
	}
}

type languageInput struct {
	Body struct {
		Language string `json:"language" maxLength:"35" doc:"a tag of BCP 47"`
	}
}

type forgottenInput struct {
	Body struct {
		Email string `json:"email" maxLength:"254"`
	}
}

func (a *API) accountRoutes() {
	edge.On(a.Edge, edge.Anyone, http.MethodGet, "/api/welcome/{key}", "welcome", "Whose account an address sent by mail opens",
		func(ctx context.Context, _ roster.Person, in *keyInput) (*edge.Body[Welcome], error) {
			p, err := a.SignIn.Opens(ctx, in.Key)
			return edge.Answer(Welcome{p.Name, p.Email}), err
		})
	edge.On(a.Edge, edge.Anyone, http.MethodPost, "/api/welcome/{key}", "activate", "Choose a password and sign in",
		func(ctx context.Context, _ roster.Person, in *activateInput) (*edge.Body[Me], error) {
			person, err := a.SignIn.Activate(ctx, in.Key, in.Body.Password)
			if err != nil {
				return nil, err
			}
			return a.enterAs(ctx, person)
		})
	edge.On(a.Edge, edge.Anyone, http.MethodPost, "/api/forgotten", "forgotten", "Ask for a new password by mail",
		func(ctx context.Context, _ roster.Person, in *forgottenInput) (*edge.Empty, error) {
			return nil, a.SignIn.Forgotten(ctx, in.Body.Email, edge.ClientOf(ctx))
		})
	edge.On(a.Edge, edge.Anyone, http.MethodPost, "/api/guest/{key}", "enter-as-guest", "Come in by a guest's link",
		func(ctx context.Context, _ roster.Person, in *keyInput) (*edge.Body[page.GuestPass], error) {
			person, lecture, err := a.Door.Welcome(ctx, in.Key)
			if err != nil {
				return nil, err
			}
			// Someone of the college who tries a link stays who they are, if they can come in anyhow.
			if p, known := edge.Caller(ctx); known && !p.Guest {
				if v, err := a.Seen.ViewerOf(ctx, p, lecture); err == nil && (v.Coordinator || v.Role != "") {
					return edge.Answer(page.GuestPass{Lecture: lecture}), nil
				}
			}
			p, err := a.Roster.Person(ctx, person)
			if err != nil {
				return nil, err
			}
			return edge.Answer(page.GuestPass{Lecture: lecture}), a.Begin(ctx, p)
		})
	edge.On(a.Edge, edge.SignedIn, http.MethodPut, "/api/account/password", "change-password",
		"Change one's password; ends all other sessions",
		func(ctx context.Context, p roster.Person, in *passwordInput) (*edge.Empty, error) {
			if err := a.SignIn.ChangePassword(ctx, p.ID, in.Body.Old, in.Body.Password); err != nil {
				return nil, err
			}
			_, err := a.enterAs(ctx, p.ID)
			return nil, err
		}, edge.Changes("password"))
	edge.On(a.Edge, edge.SignedIn, http.MethodPut, "/api/account/language", "choose-language",
		"In which language one reads and is written to",
		func(ctx context.Context, p roster.Person, in *languageInput) (*edge.Empty, error) {
			return nil, a.SignIn.Speak(ctx, p.ID, in.Body.Language)
		})
	edge.On(a.Edge, edge.SignedIn, http.MethodPost, "/api/account/sign-out-everywhere", "sign-out-everywhere",
		"End all of one's sessions", func(ctx context.Context, p roster.Person, _ *edge.Empty) (*edge.Empty, error) {
			return nil, a.SignIn.EndSessions(ctx, p.ID)
		}, edge.Changes("sessions"))
	a.feedRoutes()
}

// feedRoutes adds for each kind of feed the address and its renewal.
func (a *API) feedRoutes() {
	address := func(key string, err error) (*edge.Body[FeedAddress], error) {
		return edge.Answer(FeedAddress{a.Public + "/feeds/" + key + ".ics"}), err
	}
	edge.On(a.Edge, edge.SignedIn, http.MethodGet, "/api/feed", "feed", "The private address of one's own timetable",
		func(ctx context.Context, p roster.Person, _ *edge.Empty) (*edge.Body[FeedAddress], error) {
			return address(a.Schedule.FeedKey(ctx, schedule.OfPerson, p.ID))
		})
	edge.On(a.Edge, edge.SignedIn, http.MethodPost, "/api/feed", "renew-feed", "A new address; the old one no longer works",
		func(ctx context.Context, p roster.Person, _ *edge.Empty) (*edge.Body[FeedAddress], error) {
			return address(a.Schedule.RenewFeed(ctx, schedule.OfPerson, p.ID))
		})
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/courses/{course}/feed", "course-feed",
		"The private address of the timetable of a course",
		func(ctx context.Context, _ roster.Person, in *edge.OfCourse) (*edge.Body[FeedAddress], error) {
			return address(a.Schedule.FeedKey(ctx, schedule.OfCourse, in.Course))
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/courses/{course}/feed", "renew-course-feed",
		"A new address; the old one no longer works",
		func(ctx context.Context, _ roster.Person, in *edge.OfCourse) (*edge.Body[FeedAddress], error) {
			return address(a.Schedule.RenewFeed(ctx, schedule.OfCourse, in.Course))
		})
	edge.On(a.Edge, edge.Coordinators, http.MethodGet, "/api/halls/{hall}/feed", "hall-feed",
		"The private address of the timetable of a hall",
		func(ctx context.Context, _ roster.Person, in *page.OfHall) (*edge.Body[FeedAddress], error) {
			return address(a.Schedule.FeedKey(ctx, schedule.OfHall, in.Hall))
		})
	edge.On(a.Edge, edge.Coordinators, http.MethodPost, "/api/halls/{hall}/feed", "renew-hall-feed",
		"A new address; the old one no longer works",
		func(ctx context.Context, _ roster.Person, in *page.OfHall) (*edge.Body[FeedAddress], error) {
			return address(a.Schedule.RenewFeed(ctx, schedule.OfHall, in.Hall))
		})
}

var accountProblems = edge.Problems{
	signin.ErrLanguage: http.StatusUnprocessableEntity,
	signin.ErrTooMany:  http.StatusTooManyRequests,
	signin.ErrKey:      http.StatusGone,
	signin.ErrNoPost:   http.StatusConflict,
	signin.ErrUnknown:  http.StatusNotFound,
}
