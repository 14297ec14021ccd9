package captioning

import (
	"context"
	"net/http"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/roster"
)

// OfProposal is the input of operations about what a reader proposed for a line.
type OfProposal struct {
	OfCaptions
	Proposal uuid.UUID `path:"proposal" format:"uuid"`
}

// settleRoutes adds what who teaches does with what readers propose; each answers with the captions as they are then.
func (a *API) settleRoutes(then func(context.Context, OfCaptions, error) (*edge.Body[CaptionPage], error)) {
	const at = captionsAt + "/{language}/proposed/{proposal}"
	on := func(path, id, summary string, do func(context.Context, roster.Person, *OfProposal) error) {
		edge.On(a.Edge, edge.Staff, http.MethodPost, at+path, id, summary,
			func(ctx context.Context, p roster.Person, in *OfProposal) (*edge.Body[CaptionPage], error) {
				return then(ctx, in.OfCaptions, do(ctx, p, in))
			})
	}
	on("/take", "take-proposed", "Have a line say what was proposed",
		func(ctx context.Context, p roster.Person, in *OfProposal) error {
			return a.Words.TakeProposal(ctx, in.Recording, in.Language, in.Proposal, p.ID)
		})
	on("/leave", "leave-line", "Leave a line as it is, whatever was proposed",
		func(ctx context.Context, p roster.Person, in *OfProposal) error {
			return a.Words.LeaveLine(ctx, in.Recording, in.Proposal, p.ID, false)
		})
	on("/again", "propose-again", "Let what was proposed stand again",
		func(ctx context.Context, p roster.Person, in *OfProposal) error {
			return a.Words.LeaveLine(ctx, in.Recording, in.Proposal, p.ID, true)
		})
}
