package watching

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/core/cutlist"
	"latelantern/internal/roster"
)

// ProposedLines is what someone proposed to say in lines of captions instead, as long as those say what they saw.
type ProposedLines struct {
	Lines []page.ProposedLine `json:"lines" nullable:"false" doc:"in order, in the time of what plays"`
}

// ProposedIn names the captions that someone reads along.
type ProposedIn struct {
	edge.OfRecording
	Language string    `query:"language" maxLength:"35" doc:"without one that of the course"`
	Edition  uuid.UUID `query:"edition" format:"uuid" doc:"that is watched"`
}

type proposeInput struct {
	ProposedIn
	Body struct {
		At   int64  `json:"at" minimum:"0" maximum:"604800000" doc:"where the line begins, in published time"`
		Seen string `json:"seen" maxLength:"4000" doc:"what it says"`
		Text string `json:"text" maxLength:"40000" doc:"what it should say"`
	}
}

type withdrawInput struct {
	ProposedIn
	Proposal uuid.UUID `path:"proposal" format:"uuid"`
}

func (a *API) proposedRoutes() {
	const path = "/api/watch/{recording}/proposed"
	edge.On(a.Edge, edge.SignedIn, http.MethodGet, path, "proposed", "What one proposed for lines of captions",
		func(ctx context.Context, p roster.Person, in *ProposedIn) (*edge.Body[ProposedLines], error) {
			carrier, err := a.reading(ctx, p, in)
			if err != nil {
				return nil, err
			}
			return a.proposed(ctx, p, *in, carrier)
		})
	edge.On(a.Edge, edge.SignedIn, http.MethodPost, path, "propose-line", "Propose what a line of captions should say",
		func(ctx context.Context, p roster.Person, in *proposeInput) (*edge.Body[ProposedLines], error) {
			carrier, err := a.reading(ctx, p, &in.ProposedIn)
			if err != nil {
				return nil, err
			}
			at := carrier.Source(time.Duration(in.Body.At) * time.Millisecond)
			if err := a.Words.Propose(ctx, in.Recording, in.Language, p.ID, at, in.Body.Seen,
				in.Body.Text); err != nil {
				return nil, err
			}
			return a.proposed(ctx, p, in.ProposedIn, carrier)
		})
	edge.On(a.Edge, edge.SignedIn, http.MethodDelete, path+"/{proposal}", "withdraw-proposed",
		"Take back what one proposed",
		func(ctx context.Context, p roster.Person, in *withdrawInput) (*edge.Body[ProposedLines], error) {
			carrier, err := a.reading(ctx, p, &in.ProposedIn)
			if err != nil {
				return nil, err
			}
			if err := a.Words.Withdraw(ctx, in.Recording, in.Proposal, p.ID); err != nil {
				return nil, err
			}
			return a.proposed(ctx, p, in.ProposedIn, carrier)
		})
}

// reading is by what the times of captions are carried that p reads along, in a language which it fills in. Its error
// is errTakeaway where they may not.
func (a *API) reading(ctx context.Context, p roster.Person, in *ProposedIn) (cutlist.Carrier, error) {
	shown, err := a.open(ctx, p, in.Recording)
	if err != nil {
		return nil, err
	}
	if !shown.reads() {
		return nil, errTakeaway
	}
	if in.Language, _, err = a.Words.ShownIn(ctx, in.Recording, in.Language); err != nil {
		return nil, err
	}
	if in.Edition == uuid.Nil || in.Edition == shown.edition {
		return shown.Stretches, nil
	}
	return a.Publication.Carrier(ctx, in.Recording, in.Edition) // another was published since they opened it
}

func (a *API) proposed(ctx context.Context, p roster.Person, in ProposedIn, carrier cutlist.Carrier,
) (*edge.Body[ProposedLines], error) {
	all, err := a.Words.Proposed(ctx, in.Recording, in.Language, p.ID)
	if err != nil {
		return nil, err
	}
	out := ProposedLines{Lines: []page.ProposedLine{}}
	for _, x := range all {
		at, _ := carrier.Moment(x.At)
		line := page.ProposedLineOf(x)
		line.At = at.Milliseconds()
		out.Lines = append(out.Lines, line)
	}
	return edge.Answer(out), nil
}
