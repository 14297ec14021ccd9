package toall

import (
	"context"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// CarryCourse has a course keep the questions of another, as a part of tx, unless it keeps some already.
func (s *Service) CarryCourse(ctx context.Context, tx pgx.Tx, from, to uuid.UUID) error {
	const carry = `insert into prepared_question (id, course_id, kind, text, choices, right_choices, made_by, made_at)
		select gen_random_uuid(), $2, kind, text, choices, right_choices, made_by, made_at from prepared_question
		where course_id = $1 and dropped_at is null
		and not exists (select 1 from prepared_question where course_id = $2 and dropped_at is null) order by position`
	if _, err := tx.Exec(ctx, carry, from, to); err != nil {
		return fmt.Errorf("carry the questions of a course: %w", err)
	}
	return nil
}
