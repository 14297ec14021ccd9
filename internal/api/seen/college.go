package seen

import (
	"context"
	"net/http"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/core/doorway"
	"latelantern/internal/roster"
)

// MayEnter reports why a person cannot come into a lecture now.
func (s *Seen) MayEnter(ctx context.Context, p roster.Person, lecture uuid.UUID) error {
	at, err := s.Door.Stands(ctx, p.ID, lecture)
	if err == nil && at.Private && at.Reason != doorway.NotEnrolled {
		err = s.Hidden(ctx, p, lecture)
	}
	if err != nil || at.Enter {
		return err
	}
	term, err := s.Schedule.TermOf(ctx, at.Course)
	if err != nil {
		return err
	}
	return liveProblem(at, term.Zone)
}

// NoticeProblem keeps someone out who has not seen that the lecture is captured, and says so.
func (s *Seen) NoticeProblem(ctx context.Context, p roster.Person, lecture, course uuid.UUID) error {
	if seen, err := s.Presence.Seen(ctx, p.ID, lecture); seen || err != nil {
		return err
	}
	if s.MayStaff(ctx, p, course) == nil {
		return nil
	}
	text, err := s.Door.Notice(ctx)
	if err != nil {
		return err
	}
	return &edge.Problem{Type: edge.Prefix + "notice", Title: http.StatusText(http.StatusForbidden),
		Status: http.StatusForbidden,
		Detail: text, With: map[string]any{"lecture": lecture}}
}
