package audience

import (
	"context"
	"fmt"

	"github.com/google/uuid"

	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// Viewers are the students of a course who can watch a recording now by that course, and its edition.
type Viewers struct {
	RecordingID uuid.UUID
	EditionID   uuid.UUID
	People      []uuid.UUID
}

// Viewers lists the recordings that anyone enrolled in a course can watch, or only one of them, with who can.
func (s *Service) Viewers(ctx context.Context, course uuid.UUID, only *uuid.UUID) ([]Viewers, error) {
	const query = `select d.recording_id, e.edition_id, array_agg(d.person_id) as people from (` + decisionsSQL + `) d
		join recording_edition e on e.recording_id = d.recording_id and e.edition_id is not null
		where d.reason = $4 and ($5::uuid is null or d.recording_id = $5) group by 1, 2 order by 1`
	out, err := postgres.All[Viewers](ctx, s.DB, query, []uuid.UUID{course}, nil, s.Clock.Now(), viewing.ByRule, only)
	if err != nil {
		return nil, fmt.Errorf("list who can watch what: %w", err)
	}
	return out, nil
}
