package release

import (
	"context"
	"errors"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// Again lights those of some recordings for a course that another course lights now, as a part of tx, in one step, and
// says how many and by which step; uuid.Nil for none. Only with foreign those of other courses than that one.
func (s *Service) Again(ctx context.Context, tx pgx.Tx, from, to, by uuid.UUID,
	of []uuid.UUID, foreign bool) (n int, step uuid.UUID, err error) {
	const query = `select e.recording_id as recording, $2::uuid as course from released e
		join recording r on r.id = e.recording_id and r.deleted_at is null
		where e.course_id = $1 and e.lit and e.recording_id = any($3) and (e.own or $4)
		order by 1`
	pairs, err := postgres.All[Pair](ctx, tx, query, from, to, of, foreign)
	if err != nil {
		return 0, step, fmt.Errorf("list what a course lights: %w", err)
	}
	if len(pairs) == 0 {
		return 0, step, nil
	}
	lit := true
	step = uuid.Must(uuid.NewV7())
	if err := s.keep(ctx, tx, step, by, &lit); err != nil {
		return 0, step, err
	}
	err = s.change(ctx, tx, step, by, Many{Pairs: pairs, Giving: viewing.Giving{Lit: &lit}})
	if errors.Is(err, ErrNothing) {
		err = nil
	}
	return len(pairs), step, err
}
