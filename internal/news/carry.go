package news

import (
	"context"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// CarryCourse has a course write to its students what another writes, as a part of tx, unless it writes something
// already.
func (s *Service) CarryCourse(ctx context.Context, tx pgx.Tx, from, to uuid.UUID) error {
	const carry = `insert into course_news (course_id, template) select $2, template from course_news
		where course_id = $1 on conflict do nothing`
	if _, err := tx.Exec(ctx, carry, from, to); err != nil {
		return fmt.Errorf("carry what a course writes: %w", err)
	}
	return nil
}
