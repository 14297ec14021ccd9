package recordings

import (
	"context"
	"fmt"

	"github.com/google/uuid"

	"latelantern/internal/platform/postgres"
)

// Binned gives for the lectures of a course of which a recording lies in the bin the one that was taken away last.
func (s *Reader) Binned(ctx context.Context, course uuid.UUID) (map[uuid.UUID]uuid.UUID, error) {
	const query = `select distinct on (r.lecture_id) r.lecture_id, r.id from recording r
		join lecture l on l.id = r.lecture_id
		where l.course_id = $1 and r.deleted_at is not null order by r.lecture_id, r.deleted_at desc`
	rows, err := postgres.All[struct{ LectureID, ID uuid.UUID }](ctx, s.DB, query, course)
	if err != nil {
		return nil, fmt.Errorf("list what lies in the bin: %w", err)
	}
	out := map[uuid.UUID]uuid.UUID{}
	for _, x := range rows {
		out[x.LectureID] = x.ID
	}
	return out, nil
}
