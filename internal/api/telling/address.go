package telling

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/roster"
)

// AstrayList is at whose address no mail arrives.
type AstrayList struct {
	People []AstrayLine `json:"people" nullable:"false"`
}

// AstrayLine is one of them.
type AstrayLine struct {
	Person  uuid.UUID `json:"person_id" format:"uuid"`
	Name    string    `json:"name"`
	Address string    `json:"address"`
	Status  string    `json:"status" doc:"what the mail server says (RFC 3463)"`
	Since   time.Time `json:"since"`
}

type personInput struct {
	Person uuid.UUID `path:"person" format:"uuid"`
}

func (a *API) addressRoutes() {
	edge.On(a.Edge, edge.Coordinators, http.MethodGet, "/api/astray", "astray", "At whose address no mail arrives",
		func(ctx context.Context, _ roster.Person, _ *edge.Empty) (*edge.Body[AstrayList], error) {
			list, err := a.News.Astray(ctx)
			out := AstrayList{People: []AstrayLine{}}
			for _, x := range list {
				out.People = append(out.People, AstrayLine{x.PersonID, x.Name, x.Address, x.Status, x.Since})
			}
			return edge.Answer(out), err
		})
	edge.On(a.Edge, edge.Coordinators, http.MethodDelete, "/api/astray/{person}", "try-address-again",
		"Write to someone again whose address took no mail",
		func(ctx context.Context, _ roster.Person, in *personInput) (*edge.Empty, error) {
			return nil, a.News.TryAgain(ctx, in.Person)
		}, edge.Changes("address"))
}
