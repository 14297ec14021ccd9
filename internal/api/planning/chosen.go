package planning

import (
	"cmp"
	"context"
	"errors"
	"net/http"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/roster"
)

// Chosen is a recording of a lecture that was chosen on the board.
type Chosen struct {
	Recording uuid.UUID `json:"recording_id" format:"uuid"`
	Title     string    `json:"title" doc:"or the one it would have"`
}

type chosenInput struct {
	Body struct {
		Lectures []uuid.UUID `json:"lectures" format:"uuid" nullable:"false" minItems:"1" maxItems:"200"`
	}
}

func (a *API) chosenRoutes() {
	edge.On(a.Edge, edge.Teachers, http.MethodPost, "/api/board/recordings", "chosen-recordings",
		"The recordings of some lectures of courses that one teaches, in the order of the lectures; of others none",
		func(ctx context.Context, p roster.Person, in *chosenInput) (*edge.Body[[]Chosen], error) {
			lectures, err := a.Schedule.LecturesNamed(ctx, in.Body.Lectures)
			if err != nil {
				return nil, err
			}
			term, err := a.Schedule.CurrentTerm(ctx)
			if err != nil {
				return nil, err
			}
			out, may := []Chosen{}, map[uuid.UUID]bool{}
			for _, l := range lectures {
				if _, known := may[l.CourseID]; !known {
					err := a.MayStaff(ctx, p, l.CourseID)
					if err != nil && !errors.Is(err, edge.ErrNotStaff) {
						return nil, err
					}
					may[l.CourseID] = err == nil
				}
				if may[l.CourseID] && l.RecordingID != nil && !l.Running && !l.Failed {
					out = append(out, Chosen{*l.RecordingID, cmp.Or(l.Title, l.SuggestedTitle(term))})
				}
			}
			return edge.Answer(out), nil
		})
}
