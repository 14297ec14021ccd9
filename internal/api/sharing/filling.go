package sharing

import (
	"cmp"
	"context"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/playlists"
	"latelantern/internal/roster"
)

// FillText is the sentence by which a playlist keeps itself filled; with neither, it does not.
type FillText struct {
	Course *uuid.UUID `json:"course,omitempty" format:"uuid" doc:"recordings of that one; none for all one teaches"`
	Words  string     `json:"words,omitempty" doc:"all of them in title, keywords or captions"`
	Leave  bool       `json:"leave,omitempty" doc:"with neither: what an earlier sentence brought goes"`
}

func (t FillText) sentence() playlists.Sentence {
	return playlists.Sentence{Course: postgres.OrZero(t.Course), Words: t.Words, Leave: t.Leave}
}

// FillPreview is what a sentence would change in a playlist.
type FillPreview struct {
	Come  []ComeLine `json:"come" nullable:"false" doc:"by the dates of their lectures"`
	Here  int        `json:"here" doc:"recordings it speaks of that are there already"`
	Leave int        `json:"leave" doc:"recordings that go, which an earlier sentence brought"`
}

// ComeLine is a recording that would come into a playlist.
type ComeLine struct {
	Recording uuid.UUID `json:"recording_id" format:"uuid"`
	Title     string    `json:"title"`
	Code      string    `json:"code" doc:"of its course"`
	StartsAt  time.Time `json:"starts_at"`
}

type fillInput struct {
	Named
	Body FillText
}

// mayFill refuses a sentence of a course that p does not teach.
func (a *API) mayFill(ctx context.Context, p roster.Person, t FillText) error {
	if t.Course != nil && a.MayStaff(ctx, p, *t.Course) != nil {
		return playlists.ErrUnknown
	}
	return nil
}

func (a *API) fillPreview(ctx context.Context, p roster.Person, in *fillInput) (*edge.Body[FillPreview], error) {
	if err := a.mayFill(ctx, p, in.Body); err != nil {
		return nil, err
	}
	change, err := a.Playlists.Preview(ctx, in.of(), p.ID, in.Body.sentence())
	if err != nil {
		return nil, err
	}
	out := FillPreview{Come: make([]ComeLine, 0, len(change.Come)), Here: change.Here, Leave: change.Leave}
	for _, x := range change.Come {
		out.Come = append(out.Come, ComeLine{x.ID, cmp.Or(x.Title, x.Topic, x.Code), x.Code, x.StartsAt})
	}
	return edge.Answer(out), nil
}

func (a *API) setFilling(ctx context.Context, p roster.Person, in *fillInput) (*playlistDone, error) {
	err := a.mayFill(ctx, p, in.Body)
	if err == nil {
		err = a.Playlists.SetSentence(ctx, in.of(), p.ID, in.Body.sentence())
	}
	return a.changed(ctx, p, in.of(), err)
}
