package audience

import (
	"context"
	"fmt"

	"github.com/google/uuid"

	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// Watchers decides for students of a course, those of people or with nil all, and each of some recordings that it has:
// by recording, by person.
func (s *Service) Watchers(ctx context.Context, q postgres.Querier, course uuid.UUID,
	recordings, people []uuid.UUID) (map[uuid.UUID]map[uuid.UUID]viewing.Reason, error) {
	const query = `select recording_id, person_id, reason from (` + rulesSQL + `, shown as (` + shownSQL +
		` and r.id = any($4))` + decidedSQL + ` and ($5::uuid[] is null or m.person_id = any($5))) d`
	rows, err := postgres.All[struct {
		RecordingID, PersonID uuid.UUID
		Reason                viewing.Reason
	}](ctx, q, query, []uuid.UUID{course}, nil, s.Clock.Now(), recordings, people)
	if err != nil {
		return nil, fmt.Errorf("list who can watch recordings: %w", err)
	}
	out := map[uuid.UUID]map[uuid.UUID]viewing.Reason{}
	for _, x := range rows {
		if out[x.RecordingID] == nil {
			out[x.RecordingID] = map[uuid.UUID]viewing.Reason{}
		}
		out[x.RecordingID][x.PersonID] = x.Reason
	}
	return out, nil
}
