// Package postgres connects to the database: a pool, transactions, migrations, and
// events from one process to all.
package postgres

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Open connects to the database at dsn and waits up to ten seconds for it to answer.
func Open(ctx context.Context, dsn string) (*pgxpool.Pool, error) {
	config, err := pgxpool.ParseConfig(dsn)
	if err != nil {
		return nil, fmt.Errorf("read the address of the database: %w", err)
	}
	config.MaxConns = max(config.MaxConns, 16)
	// Our queries last milliseconds: compiling them would last longer. Planning them anew does
	// not, and knows how many courses are asked for.
	config.ConnConfig.RuntimeParams["jit"] = "off"
	config.ConnConfig.RuntimeParams["plan_cache_mode"] = "force_custom_plan"
	config.ConnConfig.RuntimeParams["work_mem"] = "16MB" // what is put together of a large college needs no disk
	config.AfterConnect = func(_ context.Context, c *pgx.Conn) error {
		registerUUID(c.TypeMap())
		return nil
	}
	pool, err := pgxpool.NewWithConfig(ctx, config)
	if err != nil {
		return nil, fmt.Errorf("open the database: %w", err)
	}
	deadline := time.Now().Add(10 * time.Second)
	for {
		if err = pool.Ping(ctx); err == nil {
			return pool, nil
		}
		if time.Now().After(deadline) || ctx.Err() != nil {
			pool.Close()
			return nil, fmt.Errorf("reach the database: %w", err)
		}
		time.Sleep(100 * time.Millisecond)
	}
}

// Often opens further connections to the database of a pool, for statements that are asked again and again: they are
// planned once and for all where that costs less than planning them each time.
func Often(ctx context.Context, of *pgxpool.Pool) (*pgxpool.Pool, error) {
	config := of.Config()
	config.MaxConns = 8
	config.ConnConfig.RuntimeParams["plan_cache_mode"] = "auto"
	pool, err := pgxpool.NewWithConfig(ctx, config)
	if err != nil {
		return nil, fmt.Errorf("open the database once more: %w", err)
	}
	return pool, nil
}

// migrating is the advisory lock of whoever migrates.
const migrating = 4_170_233_002

// alone waits until nobody else migrates this database, and keeps others waiting until done is called. The lock lies on
// a connection of its own: those who wait take none that whoever goes on needs.
func alone(ctx context.Context, pool *pgxpool.Pool) (done func(), err error) {
	conn, err := pgx.ConnectConfig(ctx, pool.Config().ConnConfig.Copy())
	if err != nil {
		return nil, fmt.Errorf("connect to migrate: %w", err)
	}
	done = func() { _ = conn.Close(context.WithoutCancel(ctx)) }
	if _, err := conn.Exec(ctx, `select pg_advisory_lock($1)`, migrating); err != nil {
		done()
		return nil, fmt.Errorf("wait for whoever migrates: %w", err)
	}
	return done, nil
}

// Migrate brings the tables to the newest version. Any number of processes may call it at once: each waits for the one
// before it.
func Migrate(ctx context.Context, pool *pgxpool.Pool) error {
	free, err := alone(ctx, pool)
	if err != nil {
		return err
	}
	defer free()
	steps, done, err := migrationsOf(pool)
	if err != nil {
		return err
	}
	defer done()
	pending, err := steps.HasPending(ctx)
	if err != nil {
		return fmt.Errorf("look for migrations: %w", err)
	}
	if pending {
		if err := dropViews(ctx, pool); err != nil {
			return err
		}
	}
	if _, err := steps.Up(ctx); err != nil {
		return fmt.Errorf("migrate the database: %w", err)
	}
	jobs, err := rivermigrate.New(riverpgxv5.New(pool), nil)
	if err != nil {
		return fmt.Errorf("prepare the tables of the jobs: %w", err)
	}
	if _, err := jobs.Migrate(ctx, rivermigrate.DirectionUp, nil); err != nil {
		return fmt.Errorf("migrate the tables of the jobs: %w", err)
	}
	return makeViews(ctx, pool)
}

// migrationsOf are the steps from the first version of our tables to the newest, until done is called.
func migrationsOf(pool *pgxpool.Pool) (steps *goose.Provider, done func(), err error) {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, nil, fmt.Errorf("find the migrations: %w", err)
	}
	locker, err := lock.NewPostgresSessionLocker()
	if err != nil {
		return nil, nil, fmt.Errorf("prepare the migrations: %w", err)
	}
	db := stdlib.OpenDBFromPool(pool)
	steps, err = goose.NewProvider(goose.DialectPostgres, db, files, goose.WithSessionLocker(locker))
	if err != nil {
		return nil, nil, errors.Join(fmt.Errorf("prepare the migrations: %w", err), db.Close())
	}
	return steps, func() { _ = db.Close() }, nil
}

// InTx runs do in one transaction, which is committed when do returns nil, and else undone. When ctx ends before that
// is done its error is given, and nothing was changed unless the answer to the commit was lost on its way.
func InTx(ctx context.Context, pool *pgxpool.Pool, do func(pgx.Tx) error) error {
	return pgx.BeginFunc(ctx, pool, do)
}

// Querier is a pool or a transaction.
type Querier interface {
	Query(ctx context.Context, sql string, args ...any) (pgx.Rows, error)
}

// All reads every row of a query into a T by the names of its columns.
func All[T any](ctx context.Context, q Querier, sql string, args ...any) ([]T, error) {
	rows, err := q.Query(ctx, sql, args...)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByName[T])
}

// One reads the only row of a query. Its error is pgx.ErrNoRows when there is none.
func One[T any](ctx context.Context, q Querier, sql string, args ...any) (T, error) {
	rows, err := q.Query(ctx, sql, args...)
	if err != nil {
		var none T
		return none, err
	}
	return pgx.CollectExactlyOneRow(rows, pgx.RowToStructByName[T])
}

// Value reads the one column of the only row of a query.
func Value[T any](ctx context.Context, q Querier, sql string, args ...any) (T, error) {
	rows, err := q.Query(ctx, sql, args...)
	if err != nil {
		var none T
		return none, err
	}
	return pgx.CollectExactlyOneRow(rows, pgx.RowTo[T])
}

// Values reads the one column of every row of a query.
func Values[T any](ctx context.Context, q Querier, sql string, args ...any) ([]T, error) {
	rows, err := q.Query(ctx, sql, args...)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[T])
}

// Taken reports whether err says that something is there already that can be there once.
func Taken(err error) bool {
	var refused *pgconn.PgError
	return errors.As(err, &refused) && refused.Code == "23505" // unique_violation
}
