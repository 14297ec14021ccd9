package seen

import (
	"context"
	"net/http"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/core/doorway"
	"latelantern/internal/door"
	"latelantern/internal/roster"
)

// MayEnter reports why a person cannot come into a lecture now.
func (s *Seen) MayEnter(ctx context.Context, p roster.Person, lecture uuid.UUID) error {
	_, err := s.Enters(ctx, p, lecture)
	return err
}

// Enters is how a person who can come into a lecture now stands at its door. Its error says why another cannot.
func (s *Seen) Enters(ctx context.Context, p roster.Person, lecture uuid.UUID) (door.At, error) {
	at, err := s.Door.Stands(ctx, p.ID, lecture)
	if err == nil && at.Private && at.Reason != doorway.NotEnrolled {
		err = s.Hidden(ctx, p, lecture)
	}
	if err != nil || at.Enter {
		return at, err
	}
	term, err := s.Schedule.TermOf(ctx, at.Course)
	if err != nil {
		return at, err
	}
	return at, liveProblem(at, term.Zone)
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
