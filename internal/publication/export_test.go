package publication

import (
	"context"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
	"latelantern/internal/recordings"
)

// Finished keeps that an edition became whole with this much in it, or with a fault that it could not be made: what its
// job does last.
func (s *Service) Finished(ctx context.Context, edition uuid.UUID, kept span.Set, fault string) error {
	if fault != "" {
		return s.finish(ctx, edition, nil, fault)
	}
	made := &recordings.Presentation{Ended: true, Length: kept.Len()}
	at := time.Duration(0)
	for _, x := range kept.Spans() {
		made.Stretches = append(made.Stretches, cutlist.Stretch{Source: x, At: at})
		at += x.Len()
	}
	return s.finish(ctx, edition, made, "")
}

// Swept does what the job does that removes editions.
func (s *Service) Swept(ctx context.Context, recording uuid.UUID) error {
	return s.sweep(ctx, sweepEditions{Recording: recording}, true)
}
