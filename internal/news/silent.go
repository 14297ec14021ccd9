package news

import (
	"context"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/platform/postgres"
)

// SetSilent says that the students of a course need not be told of recordings that it has, or that they are to be after
// all. They can still be told.
func (s *Service) SetSilent(ctx context.Context, course, by uuid.UUID, list []uuid.UUID, silent bool) error {
	change := `insert into news_silent (course_id, recording_id, made_by, made_at)
		select course_id, recording_id, $3, $4 from release where course_id = $1 and recording_id = any($2)
		on conflict do nothing`
	args := []any{course, list, by, s.Clock.Now()}
	if !silent {
		change, args = `delete from news_silent where course_id = $1 and recording_id = any($2)`, args[:2]
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, change, args...); err != nil {
			return fmt.Errorf("keep of what students need not be told: %w", err)
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.News, Course: course})
	})
}
