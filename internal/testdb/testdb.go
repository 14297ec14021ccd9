// Package testdb gives tests a real PostgreSQL: a migrated database of its own for each test.
package testdb

import (
	"context"
	"fmt"
	"os"
	"strings"
	"sync"
	"testing"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/platform/cluster"
	"latelantern/internal/platform/postgres"
)

// Server names the environment variable with the address of a server for the whole run.
// Without it each package starts its own.
const Server = "LATE_LANTERN_TEST_SERVER"

const template = "late_lantern_template"

var own struct {
	once    sync.Once
	cluster *cluster.Cluster
	folder  string
	dsn     string
	err     error
}

// Main runs the tests of a package, does what is left to do, and ends the server that they started, if any.
func Main(m *testing.M, last ...func()) {
	code := m.Run()
	for _, do := range last {
		do()
	}
	if own.cluster != nil {
		_ = own.cluster.Stop()
		_ = os.RemoveAll(own.folder)
	}
	os.Exit(code)
}

// Start runs a server with a migrated template database.
func Start(ctx context.Context, folder string) (*cluster.Cluster, error) {
	c, err := cluster.Start(ctx, folder, true)
	if err != nil {
		return nil, err
	}
	if err := prepare(ctx, c.DSN); err != nil {
		_ = c.Stop()
		return nil, err
	}
	return c, nil
}

func prepare(ctx context.Context, dsn string) error {
	if err := command(ctx, dsn, "create database "+template); err != nil {
		return err
	}
	pool, err := postgres.Open(ctx, at(dsn, template))
	if err != nil {
		return err
	}
	defer pool.Close()
	return postgres.Migrate(ctx, pool)
}

// at is the address of another database of the same server.
func at(dsn, name string) string { return strings.Replace(dsn, "/latelantern?", "/"+name+"?", 1) }

func command(ctx context.Context, dsn, sql string) error {
	conn, err := pgx.Connect(ctx, dsn)
	if err != nil {
		return fmt.Errorf("reach the server for tests: %w", err)
	}
	defer conn.Close(ctx)
	if _, err := conn.Exec(ctx, sql); err != nil {
		return fmt.Errorf("%s: %w", sql, err)
	}
	return nil
}

func server(ctx context.Context) (string, error) {
	if dsn := os.Getenv(Server); dsn != "" {
		return dsn, nil
	}
	own.once.Do(func() {
		if own.folder, own.err = os.MkdirTemp("/var/tmp", "late-lantern-test-"); own.err != nil {
			return
		}
		if own.err = os.Chmod(own.folder, 0o755); own.err != nil {
			return
		}
		if own.cluster, own.err = Start(ctx, own.folder); own.err == nil {
			own.dsn = own.cluster.DSN
		}
	})
	return own.dsn, own.err
}

// DSN is the address of a new, migrated database for one test.
func DSN(t testing.TB) string {
	t.Helper()
	return Copy(t, template)
}

// Lasting makes a migrated database that stays until the server ends, and gives its address, and its name for Copy.
func Lasting(ctx context.Context) (address, name string, err error) {
	dsn, err := server(ctx)
	if err != nil {
		return "", "", err
	}
	name = newName()
	return at(dsn, name), name, command(ctx, dsn, "create database "+name+" template "+template)
}

func newName() string { return "test_" + strings.ReplaceAll(uuid.NewString(), "-", "") }

// Copy is the address of a new database for one test, as the one of that name is, to which nobody may be connected.
func Copy(t testing.TB, of string) string {
	t.Helper()
	ctx := context.Background()
	dsn, err := server(ctx)
	if err != nil {
		t.Fatal(err)
	}
	name := newName()
	if err := command(ctx, dsn, "create database "+name+" template "+of); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = command(ctx, dsn, "drop database if exists "+name+" with (force)") })
	return at(dsn, name)
}

// Pool is a pool on a new, migrated database for one test.
func Pool(t testing.TB) *pgxpool.Pool {
	t.Helper()
	pool, err := postgres.Open(context.Background(), DSN(t))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(pool.Close)
	return pool
}
