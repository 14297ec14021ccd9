package recordings

import (
	"context"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// Hold keeps others who hold recordings waiting until tx ends. Whoever changes what belongs to several holds them all
// at once, before anything else of them, so that two who do the same wait for each other and never in a circle. What
// only refers to a recording can be made all the same. One that is not there is none that is held.
func Hold(ctx context.Context, tx pgx.Tx, ids ...uuid.UUID) error {
	const inOrder = `select 1 from recording where id = any($1) order by id for no key update`
	if _, err := tx.Exec(ctx, inOrder, ids); err != nil {
		return fmt.Errorf("hold a recording: %w", err)
	}
	return nil
}
