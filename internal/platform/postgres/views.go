package postgres

import (
	"context"
	"crypto/sha256"
	_ "embed"
	"encoding/hex"
	"fmt"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
)

//go:embed views.sql
var views string

// viewsLock is the advisory lock of whoever makes the views.
const viewsLock = 4_170_233_001

// makeViews makes the views of views.sql, unless they are those already. Of several processes that come at once one
// makes them, and the others wait for it.
func makeViews(ctx context.Context, pool *pgxpool.Pool) error {
	sum := sha256.Sum256([]byte(views))
	digest := hex.EncodeToString(sum[:])
	return InTx(ctx, pool, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `select pg_advisory_xact_lock($1)`, viewsLock); err != nil {
			return fmt.Errorf("hold the views: %w", err)
		}
		const made = `select coalesce(obj_description(to_regclass('recorded'), 'pg_class'), '')`
		if is, err := Value[string](ctx, tx, made); err != nil || is == digest {
			return err
		}
		if err := dropAll(ctx, tx); err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, views); err != nil {
			return fmt.Errorf("make the views: %w", err)
		}
		if _, err := tx.Exec(ctx, `comment on view recorded is '`+digest+`'`); err != nil {
			return fmt.Errorf("sign the views: %w", err)
		}
		return nil
	})
}

// dropViews removes all views, before tables are changed of which they read.
func dropViews(ctx context.Context, pool *pgxpool.Pool) error {
	return InTx(ctx, pool, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `select pg_advisory_xact_lock($1)`, viewsLock); err != nil {
			return fmt.Errorf("hold the views: %w", err)
		}
		return dropAll(ctx, tx)
	})
}

func dropAll(ctx context.Context, tx pgx.Tx) error {
	const all = `select coalesce(string_agg(format('drop view if exists %I cascade', viewname), ';'), '') from pg_views
		where schemaname = 'public'`
	drop, err := Value[string](ctx, tx, all)
	if err == nil {
		_, err = tx.Exec(ctx, drop)
	}
	if err != nil {
		return fmt.Errorf("remove the views: %w", err)
	}
	return nil
}
