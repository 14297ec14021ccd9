// Package frames keeps which other sites may show what is here in a frame of their pages.
package frames

import (
	"context"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/embedding"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
)

// Service keeps sites. All its fields are needed. It may be used by many at once. A call whose context ends gives its
// error and has changed nothing.
type Service struct {
	DB    *pgxpool.Pool
	Clock clock.Clock
}

// Sites are the sites that may, in order.
func (s *Service) Sites(ctx context.Context) ([]string, error) {
	out, err := postgres.Values[string](ctx, s.DB, `select site from embed_site order by site`)
	if err != nil {
		return nil, fmt.Errorf("list the sites that may show what is here: %w", err)
	}
	return out, nil
}

// SetSites says which sites may from now on, and no others. Its error is of type fault.Faults for what is no site.
func (s *Service) SetSites(ctx context.Context, by uuid.UUID, sites []string) error {
	sites, err := embedding.Sites(sites)
	if err != nil {
		return err
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `delete from embed_site where site <> all($1)`, sites); err != nil {
			return fmt.Errorf("take sites off: %w", err)
		}
		const add = `insert into embed_site (site, made_by, made_at) select x, $2, $3 from unnest($1::text[]) x
			on conflict do nothing`
		if _, err := tx.Exec(ctx, add, sites, by, s.Clock.Now()); err != nil {
			return fmt.Errorf("let sites show what is here: %w", err)
		}
		return nil
	})
}
