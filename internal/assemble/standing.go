package assemble

import (
	"context"
	"slices"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/catchup"
	"latelantern/internal/core/span"
	"latelantern/internal/publication"
)

// standing knows who missed what: those who can watch it, of what is published of it.
type standing struct {
	audience  *audience.Service
	published *publication.Service
	catchUp   *catchup.Service
}

// Missed implements remind.Standing.
func (s standing) Missed(ctx context.Context, course, recording uuid.UUID, only *uuid.UUID) (
	map[uuid.UUID]span.Set, bool, error) {
	all, err := s.audience.Viewers(ctx, course, &recording)
	if err != nil || len(all) == 0 {
		return nil, false, err
	}
	carriers, err := s.published.Carriers(ctx, map[uuid.UUID]uuid.UUID{recording: all[0].EditionID})
	if err != nil {
		return nil, false, err
	}
	people := all[0].People
	if only != nil {
		people = slices.DeleteFunc(people, func(p uuid.UUID) bool { return p != *only })
	}
	return s.catchUp.Missed(ctx, recording, carriers[recording], people)
}
