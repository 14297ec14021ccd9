package accounts

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/roster"
)

// PersonLine is a person in the list of all people.
type PersonLine struct {
	ID          uuid.UUID  `json:"id" format:"uuid"`
	Name        string     `json:"name"`
	Email       string     `json:"email"`
	Coordinator bool       `json:"coordinator"`
	Active      bool       `json:"active" doc:"their account has a password"`
	Closed      bool       `json:"closed" doc:"nobody signs in to their account"`
	InvitedAt   *time.Time `json:"invited_at,omitempty"`
	Courses     int        `json:"courses"`
}

// PeopleList is the people of the college that were looked for.
type PeopleList struct {
	People []PersonLine `json:"people" nullable:"false" doc:"by name, up to a limit"`
	All    int          `json:"all" doc:"how many there are"`
}

type peopleInput struct {
	Words    string `query:"words" maxLength:"200" doc:"of a name or an address; empty for all"`
	Inactive bool   `query:"inactive" doc:"only those whose account is not yet active"`
}

func (a *API) peopleRoutes() {
	list := func(ctx context.Context, words string, inactive bool) (*edge.Body[PeopleList], error) {
		people, all, err := a.Roster.People(ctx, words, inactive)
		out := PeopleList{People: []PersonLine{}, All: all}
		for _, p := range people {
			out.People = append(out.People,
				PersonLine{p.ID, p.Name, p.Email, p.Coordinator, p.Active, p.Closed, p.InvitedAt, p.Courses})
		}
		return edge.Answer(out), err
	}
	edge.On(a.Edge, edge.Coordinators, http.MethodGet, "/api/people", "people", "The people of the college",
		func(ctx context.Context, _ roster.Person, in *peopleInput) (*edge.Body[PeopleList], error) {
			return list(ctx, in.Words, in.Inactive)
		})
	type personText struct {
		Email string `json:"email"`
		Name  string `json:"name"`
	}
	edge.On(a.Edge, edge.Coordinators, http.MethodPost, "/api/people", "add-person", "Add someone to the college",
		func(ctx context.Context, _ roster.Person, in *edge.Body[personText]) (*edge.Body[PeopleList], error) {
			if _, err := a.Roster.AddPerson(ctx,
				roster.PersonForm{Email: in.Body.Email, Name: in.Body.Name}); err != nil {
				return nil, err
			}
			return list(ctx, in.Body.Email, false)
		})
	type coordinatorInput struct {
		Person uuid.UUID `path:"person" format:"uuid"`
		Body   struct {
			Coordinator bool `json:"coordinator"`
		}
	}
	edge.On(a.Edge, edge.Coordinators, http.MethodPut, "/api/people/{person}/coordinator", "set-coordinator",
		"Say whether someone coordinates the college",
		func(ctx context.Context, _ roster.Person, in *coordinatorInput) (*edge.Empty, error) {
			return nil, a.Roster.SetCoordinator(ctx, in.Person, in.Body.Coordinator)
		}, edge.Changes("coordinator"))
	type ofPerson struct {
		Person uuid.UUID `path:"person" format:"uuid"`
	}
	edge.On(a.Edge, edge.Coordinators, http.MethodPost, "/api/people/{person}/end-sessions", "end-sessions",
		"End all sessions of someone", func(ctx context.Context, _ roster.Person, in *ofPerson) (*edge.Empty, error) {
			return nil, a.SignIn.EndSessions(ctx, in.Person)
		}, edge.Changes("sessions"))
	type closedInput struct {
		Person uuid.UUID `path:"person" format:"uuid"`
		Body   struct {
			Closed bool `json:"closed"`
		}
	}
	edge.On(a.Edge, edge.Coordinators, http.MethodPut, "/api/people/{person}/closed", "close-account",
		"Close the account of someone, or open it again",
		func(ctx context.Context, _ roster.Person, in *closedInput) (*edge.Empty, error) {
			return nil, a.SignIn.SetClosed(ctx, in.Person, in.Body.Closed)
		}, edge.Changes("account"))
	edge.On(a.Edge, edge.Coordinators, http.MethodPost, "/api/invitations", "invite",
		"Send people a letter that activates their account",
		func(ctx context.Context, _ roster.Person, in *edge.Body[inviteText]) (*edge.Body[Invited], error) {
			n, err := a.SignIn.Invite(ctx, nil, in.Body.People, in.Body.Again)
			return edge.Answer(Invited{n}), err
		})
}

var peopleProblems = edge.Problems{
	roster.ErrUnknown: http.StatusNotFound,
	roster.ErrRoles:   http.StatusForbidden,
	roster.ErrLast:    http.StatusConflict,
}
