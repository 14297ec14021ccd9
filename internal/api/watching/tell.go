package watching

import (
	"context"
	"errors"
	"net/http"

	"latelantern/internal/api/edge"
	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/roster"
)

// tell has those who teach told that someone stands before a closed door, to whom it says what it says of itself.
func (a *API) tell(ctx context.Context, p roster.Person, in *edge.OfRecording) (*edge.Empty, error) {
	at, err := a.Audience.Decide(ctx, p.ID, in.Recording)
	if err != nil {
		return nil, err
	}
	if !at.Watch() && at.Reason != viewing.NotEnrolled {
		r, err := a.Recordings.Recording(ctx, in.Recording)
		if err == nil {
			err = a.Seen.Hidden(ctx, p, r.LectureID)
		}
		if err != nil {
			return nil, err
		}
	}
	_, err = a.Audience.Tell(ctx, p.ID, in.Recording)
	if errors.Is(err, audience.ErrUnknown) {
		return nil, doorProblem(at.Code, at.Reason, at.Opens)
	}
	return nil, err
}

func (a *API) tellRoutes() {
	edge.On(a.Edge, edge.SignedIn, http.MethodPost, "/api/watch/{recording}/tell", "tell-closed",
		"Tell who teaches that one cannot open a recording", a.tell)
}
