package cluster

import (
	"context"
	"os"
	"testing"

	"github.com/jackc/pgx/v5"
)

// TestAClusterKeepsItsData over a stop and a start, on loopback alone.
func TestAClusterKeepsItsData(t *testing.T) {
	ctx := context.Background()
	folder, err := os.MkdirTemp("/var/tmp", "late-lantern-cluster-")
	if err != nil {
		t.Fatal(err)
	}
	defer os.RemoveAll(folder)
	if err := os.Chmod(folder, 0o755); err != nil {
		t.Fatal(err)
	}
	ask := func(first, sql string) string {
		t.Helper()
		c, err := Start(ctx, folder, true)
		if err != nil {
			t.Fatal(err)
		}
		defer func() {
			if err := c.Stop(); err != nil {
				t.Error(err)
			}
		}()
		conn, err := pgx.Connect(ctx, c.DSN)
		if err != nil {
			t.Fatal(err)
		}
		defer conn.Close(ctx)
		if _, err := conn.Exec(ctx, first); err != nil {
			t.Fatal(err)
		}
		var out string
		if err := conn.QueryRow(ctx, sql).Scan(&out); err != nil {
			t.Fatal(err)
		}
		return out
	}
	if at := ask(`create table kept as select 'here'::text as x`,
		`select current_setting('listen_addresses')`); at != "127.0.0.1" {
		t.Errorf("it listens on %s", at)
	}
	if got := ask(``, `select x from kept`); got != "here" {
		t.Errorf("kept is %q", got)
	}
}
