package publication

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/google/uuid"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// Carrier carries moments of a recording to one of its editions and back, also to one that was removed. Its error is
// recordings.ErrUnknown for an edition of another recording.
func (s *Service) Carrier(ctx context.Context, recording, edition uuid.UUID) (cutlist.Carrier, error) {
	all, err := s.Carriers(ctx, map[uuid.UUID]uuid.UUID{recording: edition})
	if err != nil {
		return nil, err
	}
	c, ok := all[recording]
	if !ok {
		return nil, recordings.ErrUnknown
	}
	return c, nil
}

// carried is a recording and an edition of it.
type carried struct{ recording, edition uuid.UUID }

// mostCarriers is how many are remembered: of an edition with ten cuts it takes a quarter of a kilobyte.
const mostCarriers = 20_000

// Carriers are those of one edition of each of several recordings, by recording. An edition that is not there, or of
// another recording, is left out. They never change, and are not to be changed.
func (s *Service) Carriers(ctx context.Context, editions map[uuid.UUID]uuid.UUID) (
	map[uuid.UUID]cutlist.Carrier, error) {
	type row struct {
		ID, RecordingID uuid.UUID
		Stretches       []byte
	}
	out := make(map[uuid.UUID]cutlist.Carrier, len(editions))
	const query = `select id, recording_id, stretches from edition
		where id = any($1) and state in ('ready', 'removed')`
	ids := make([]uuid.UUID, 0, len(editions))
	for r, e := range editions {
		if c, ok := s.carriers.Get(carried{r, e}); ok {
			out[r] = c
		} else {
			ids = append(ids, e)
		}
	}
	if len(ids) == 0 {
		return out, nil
	}
	rows, err := postgres.All[row](ctx, s.DB, query, ids)
	if err != nil {
		return nil, fmt.Errorf("read where editions lie: %w", err)
	}
	for _, r := range rows {
		if editions[r.RecordingID] != r.ID {
			continue
		}
		c, err := s.carrier(ctx, r.ID, r.Stretches)
		if errors.Is(err, recordings.ErrNotReady) {
			continue
		}
		if err != nil {
			return nil, err
		}
		s.carriers.Add(carried{r.RecordingID, r.ID}, c)
		out[r.RecordingID] = c
	}
	return out, nil
}

// carrier is that of an edition with what is kept of its stretches: nothing, if it was made before they were.
func (s *Service) carrier(ctx context.Context, edition uuid.UUID, kept []byte) (cutlist.Carrier, error) {
	if kept == nil {
		r, err := s.Edition(ctx, edition)
		if err != nil {
			return nil, err
		}
		return r.Stretches, nil
	}
	var out []cutlist.Stretch
	if err := json.Unmarshal(kept, &out); err != nil {
		return nil, fmt.Errorf("read where an edition lies: %w", err)
	}
	return out, nil
}
