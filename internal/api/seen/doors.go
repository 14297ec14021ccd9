package seen

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/core/doorway"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/viewing"
	"latelantern/internal/door"
	"latelantern/internal/roster"
)

// ViewerOf is how the course of a lecture knows p.
func (s *Seen) ViewerOf(ctx context.Context, p roster.Person, lecture uuid.UUID) (viewing.Viewer, error) {
	course, err := edge.OfLecture{Lecture: lecture}.Belongs(ctx, s.Edge)
	if err != nil {
		return viewing.Viewer{}, err
	}
	return s.Roster.Viewer(ctx, p.ID, course)
}

// liveProblem is the closed door of a lecture under way.
func liveProblem(at door.At, zone *time.Location) error {
	t := fault.Say(fault.Code("doorway."+string(at.Reason)), "course", at.Code)
	if at.Word != "" {
		t.With["word"] = at.Word
	}
	if at.Reason == doorway.NotYet {
		t = fault.Say("doorway.not_yet", "course", at.Code, "opens", fault.Hour{Time: at.Opens.In(zone)})
	}
	return edge.ProblemOf(http.StatusForbidden, t)
}
