package recordings

import (
	"context"
	"fmt"
	"slices"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// Hold keeps others who hold recordings waiting until tx ends. Whoever changes what belongs to several holds them all
// at once, before anything else of them, so that two who do the same wait for each other and never in a circle. What
// only refers to a recording can be made all the same. One that is not there is none that is held.
func Hold(ctx context.Context, tx pgx.Tx, ids ...uuid.UUID) error {
	ids = slices.Clone(ids)
	slices.SortFunc(ids, func(a, b uuid.UUID) int { return slices.Compare(a[:], b[:]) })
	for _, id := range slices.Compact(ids) {
		if _, err := tx.Exec(ctx, `select 1 from recording where id = $1 for no key update`, id); err != nil {
			return fmt.Errorf("hold a recording: %w", err)
		}
	}
	return nil
}
