package accounts

import (
	"context"
	"net/http"

	"latelantern/internal/api/edge"
	"latelantern/internal/roster"
)

// FrameKey is with what a page in a frame begins a session.
type FrameKey struct {
	Key string `json:"key" maxLength:"200"`
}

type frameKeyInput struct{ Body FrameKey }

func (a *API) frameRoutes() {
	edge.On(a.Edge, edge.SignedIn, http.MethodPost, "/api/frame/key", "make-frame-key",
		"Let a page in a frame, beside which one has signed in, begin a session",
		func(ctx context.Context, p roster.Person, _ *edge.Empty) (*edge.Body[FrameKey], error) {
			return edge.Answer(FrameKey{a.FrameKey(ctx, p)}), nil
		})
	edge.On(a.Edge, edge.Anyone, http.MethodPost, "/api/frame/enter", "enter-frame", "Begin a session in a frame",
		func(ctx context.Context, _ roster.Person, in *frameKeyInput) (*edge.Empty, error) {
			return nil, a.BeginFramed(ctx, in.Body.Key)
		})
}

var frameProblems = edge.Problems{edge.ErrFrameKey: http.StatusForbidden}
