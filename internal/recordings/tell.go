package recordings

import (
	"context"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/platform/postgres"
)

// Tell tells those who listen in the courses that have a recording what changed about it, when tx commits.
func Tell(ctx context.Context, tx pgx.Tx, about event.Kind, id uuid.UUID) error {
	const query = `select e.course_id as course, r.lecture_id as lecture from released e
		join recording r on r.id = e.recording_id
		where r.id = $1 and (e.own or e.lit)`
	to, err := postgres.All[struct{ Course, Lecture uuid.UUID }](ctx, tx, query, id)
	if err != nil {
		return fmt.Errorf("find whom to tell: %w", err)
	}
	for _, x := range to {
		n := postgres.Event{About: about, Course: x.Course, Lecture: x.Lecture, Recording: id}
		if err := postgres.Notify(ctx, tx, n); err != nil {
			return err
		}
	}
	return nil
}
