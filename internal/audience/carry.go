package audience

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// CarryRule gives a course that has no rule the rule of another, as a part of tx: its dates become what near makes of
// them. It gives the rule and its id; nil when the other has none or this one has one. Rules of single recordings, who
// is shut out and what is open beside courses stay behind.
func (s *Service) CarryRule(ctx context.Context, tx pgx.Tx, from, to, by uuid.UUID,
	near func(time.Time) time.Time) (r *viewing.Rule, id uuid.UUID, err error) {
	if err := holdScope(ctx, tx, Scope{Course: to}); err != nil {
		return nil, id, err
	}
	is, err := held(ctx, tx, Scope{Course: to})
	if err != nil || is.Version != "" {
		return nil, id, err
	}
	if r, err = ruleIn(ctx, tx, Scope{Course: from}); err != nil || r == nil {
		return nil, id, err
	}
	if r.From == viewing.FromDate {
		r.FromAt = near(r.FromAt)
	}
	if r.Until == viewing.UntilDate {
		r.UntilAt = near(r.UntilAt)
	}
	if id, err = keepRule(ctx, tx, Scope{Course: to}, by, s.Clock.Now(), *r); err != nil {
		return nil, id, err
	}
	return r, id, postgres.Notify(ctx, tx, postgres.Event{About: event.Rule, Course: to})
}

// Uncarry takes a rule of a course away as if it had never been, as a part of tx.
func (s *Service) Uncarry(ctx context.Context, tx pgx.Tx, course, rule uuid.UUID) error {
	if _, err := tx.Exec(ctx, `delete from viewing_rule where course_id = $1 and id = $2`, course, rule); err != nil {
		return fmt.Errorf("remove the rule that was carried to a course: %w", err)
	}
	return postgres.Notify(ctx, tx, postgres.Event{About: event.Rule, Course: course})
}
