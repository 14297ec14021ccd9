package roster

import (
	"context"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/platform/postgres"
)

// CarryStaff has those who teach a course teach another too, as a part of tx, and says how many that are. Who is in it
// already stays what they are there.
func (s *Service) CarryStaff(ctx context.Context, tx pgx.Tx, from, to uuid.UUID) (int, error) {
	const carry = `insert into membership (course_id, person_id, role, group_name)
		select $2, person_id, role, group_name from membership
		where course_id = $1 and role in ('lecturer', 'assistant')
		on conflict do nothing`
	tag, err := tx.Exec(ctx, carry, from, to)
	if err != nil {
		return 0, fmt.Errorf("carry who teaches a course: %w", err)
	}
	return int(tag.RowsAffected()), postgres.Notify(ctx, tx, postgres.Event{About: event.Roster, Course: to})
}

// Students says how many are enrolled in a course.
func (s *Service) Students(ctx context.Context, tx pgx.Tx, course uuid.UUID) (int, error) {
	const query = `select count(*)::int from membership where course_id = $1 and role = 'student'`
	n, err := postgres.Value[int](ctx, tx, query, course)
	if err != nil {
		return 0, fmt.Errorf("count the students of a course: %w", err)
	}
	return n, nil
}
