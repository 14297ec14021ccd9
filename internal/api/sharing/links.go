package sharing

import (
	"context"
	"net/http"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/audience"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/roster"
)

// LinkDoor is what whoever comes by a link is asked for.
type LinkDoor struct {
	Phrase bool `json:"phrase" doc:"a pass phrase"`
	Name   bool `json:"name" doc:"their name, of those who are not known here"`
}

// LinkPass is where a link leads, one of both.
type LinkPass struct {
	Recording *uuid.UUID `json:"recording_id,omitempty" format:"uuid"`
	Opening   *uuid.UUID `json:"opening_id,omitempty" format:"uuid" doc:"of a playlist"`
}

// LinkKey is the input of operations about a link.
type LinkKey struct {
	Key string `path:"key" maxLength:"200"`
}

type comeInput struct {
	LinkKey
	Body struct {
		Name   string `json:"name,omitempty" maxLength:"400"`
		Phrase string `json:"phrase,omitempty" maxLength:"1000"`
	}
}

// linkRoutes are what a stranger with a link is answered. It tells nothing of the recording before they are in.
func (a *API) linkRoutes() {
	const path = "/api/links/{key}"
	edge.On(a.Edge, edge.Anyone, http.MethodGet, path, "link", "What a link asks for",
		func(ctx context.Context, _ roster.Person, in *LinkKey) (*edge.Body[LinkDoor], error) {
			phrase, err := a.Audience.Asks(ctx, in.Key)
			_, known := edge.Caller(ctx)
			return edge.Answer(LinkDoor{Phrase: phrase, Name: !known}), err
		})
	edge.On(a.Edge, edge.Anyone, http.MethodPost, path, "come-by-link", "Come in by a link",
		func(ctx context.Context, p roster.Person, in *comeInput) (*edge.Body[LinkPass], error) {
			// Who is known here stays who they are.
			let, err := a.Audience.Come(ctx, in.Key,
				audience.Coming{Person: p.ID, Name: in.Body.Name, Phrase: in.Body.Phrase})
			pass := LinkPass{Recording: postgres.OrNil(let.Recording)}
			if pass.Recording == nil {
				pass.Opening = &let.Opening
			}
			if err != nil || let.Person == p.ID {
				return edge.Answer(pass), err
			}
			guest, err := a.Roster.Person(ctx, let.Person)
			if err != nil {
				return nil, err
			}
			return edge.Answer(pass), a.Begin(ctx, guest)
		})
}
