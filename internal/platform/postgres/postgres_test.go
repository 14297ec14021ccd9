package postgres_test

import (
	"context"
	"errors"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/testdb"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func hear(t *testing.T, from <-chan postgres.Event) postgres.Event {
	t.Helper()
	select {
	case n := <-from:
		return n
	case <-time.After(10 * time.Second):
		t.Fatal("nothing is heard")
		return postgres.Event{}
	}
}

// TestNoticesComeWithTheirTransaction: after it commits, and never when it does not.
func TestNoticesComeWithTheirTransaction(t *testing.T) {
	ctx := context.Background()
	pool := testdb.Pool(t)
	events := postgres.Listen(ctx, pool)
	defer events.Close()
	heard, cancel := events.Subscribe()
	defer cancel()
	other, cancelOther := events.Subscribe()
	defer cancelOther()
	// The connection that listens is made in the background.
	for ready := false; !ready; {
		if err := postgres.Notify(ctx, pool, postgres.Event{About: "ready"}); err != nil {
			t.Fatal(err)
		}
		select {
		case <-heard:
			ready = true
			<-other
		case <-time.After(50 * time.Millisecond):
		}
	}
	broken := errors.New("changed my mind")
	if err := postgres.InTx(ctx, pool, func(tx pgx.Tx) error {
		if err := postgres.Notify(ctx, tx, postgres.Event{About: "never"}); err != nil {
			return err
		}
		return broken
	}); !errors.Is(err, broken) {
		t.Fatal(err)
	}
	course := uuid.New()
	if err := postgres.InTx(ctx, pool, func(tx pgx.Tx) error {
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Light, Course: course})
	}); err != nil {
		t.Fatal(err)
	}
	want := postgres.Event{About: event.Light, Course: course}
	for _, from := range []<-chan postgres.Event{heard, other} {
		n := hear(t, from)
		for n.About == "ready" {
			n = hear(t, from)
		}
		if n.Number == 0 {
			t.Error("it has no number")
		}
		if n.Number = 0; n != want {
			t.Errorf("heard %+v", n)
		}
	}
}

// TestListeningGoesOn after the database has cut the line.
func TestListeningGoesOn(t *testing.T) {
	ctx := context.Background()
	pool := testdb.Pool(t)
	events := postgres.Listen(ctx, pool)
	defer events.Close()
	heard, cancel := events.Subscribe()
	defer cancel()
	until := func(about event.Kind, before ...event.Kind) {
		t.Helper()
		var all []event.Kind
		deadline := time.Now().Add(10 * time.Second)
		for time.Now().Before(deadline) {
			if err := postgres.Notify(ctx, pool, postgres.Event{About: about}); err != nil {
				t.Fatal(err)
			}
			select {
			case n := <-heard:
				all = append(all, n.About)
				if n.About == about {
					if len(before) > 0 && !slices.Contains(all, before[0]) {
						t.Errorf("before %s only %v are heard", about, all)
					}
					return
				}
			case <-time.After(100 * time.Millisecond):
			}
		}
		t.Fatalf("%s is never heard", about)
	}
	until("before")
	cut, err := postgres.Value[[]int32](ctx, pool,
		`select array_agg(pid) from pg_stat_activity
			where datname = current_database() and query like 'listen%' and pg_terminate_backend(pid)`)
	if err != nil || len(cut) != 1 {
		t.Fatalf("%d listening connections were cut (%v)", len(cut), err)
	}
	// What is said before it is gone it may still hear.
	for gone := false; !gone; {
		if gone, err = postgres.Value[bool](ctx, pool,
			`select not exists (select 1 from pg_stat_activity where pid = any($1))`, cut); err != nil {
			t.Fatal(err)
		}
	}
	// Who hears again knows that something may have been said meanwhile.
	until("after", postgres.Missed)
}

// TestWhoIsBehindIsTold that events were lost, holds nobody up, and hears the next ones.
func TestWhoIsBehindIsTold(t *testing.T) {
	ctx := context.Background()
	pool := testdb.Pool(t)
	events := postgres.Listen(ctx, pool)
	defer events.Close()
	slow, cancel := events.Subscribe()
	defer cancel()
	quick, cancelQuick := events.Subscribe()
	defer cancelQuick()
	for range 100 {
		if err := postgres.Notify(ctx, pool, postgres.Event{About: event.Stored}); err != nil {
			t.Fatal(err)
		}
		if n := hear(t, quick); n.About != event.Stored {
			t.Fatalf("who is not behind hears %q", n.About)
		}
	}
	if err := postgres.Notify(ctx, pool, postgres.Event{About: event.Light}); err != nil {
		t.Fatal(err)
	}
	hear(t, quick) // it was handed to both
	var told []event.Kind
	for n := hear(t, slow); n.About != event.Light; n = hear(t, slow) {
		told = append(told, n.About)
	}
	if told[0] != postgres.Missed || slices.Contains(told[1:], postgres.Missed) || len(told) > 64 {
		t.Errorf("who was behind is told %d events, first of %q", len(told), told[0])
	}
}

func TestManyMigrateAtOnce(t *testing.T) {
	ctx := context.Background()
	pool := testdb.Pool(t)
	if _, err := pool.Exec(ctx, `drop schema public cascade; create schema public`); err != nil {
		t.Fatal(err)
	}
	var all sync.WaitGroup
	errs := make([]error, 4)
	for i := range errs {
		all.Go(func() { errs[i] = postgres.Migrate(ctx, pool) })
	}
	all.Wait()
	if err := errors.Join(errs...); err != nil {
		t.Fatal(err)
	}
	if n, err := postgres.Value[int](ctx, pool,
		`select count(*) from information_schema.tables
			where table_schema = 'public' and table_name in ('recording', 'river_job')`); err != nil || n != 2 {
		t.Errorf("%d tables (%v)", n, err)
	}
}

func TestReading(t *testing.T) {
	ctx := context.Background()
	pool := testdb.Pool(t)
	type row struct {
		N    int
		Text string
	}
	all, err := postgres.All[row](ctx, pool, `select n, 'x' || n as text from generate_series(1, 3) n`)
	if err != nil || len(all) != 3 || all[2] != (row{3, "x3"}) {
		t.Errorf("%+v %v", all, err)
	}
	if _, err := postgres.One[row](ctx, pool, `select 1 as n, 'x' as text where false`); !errors.Is(err,
		pgx.ErrNoRows) {
		t.Errorf("none: %v", err)
	}
	if _, err := postgres.One[row](ctx, pool, `select n, 'x' as text from generate_series(1, 2) n`); err == nil {
		t.Error("two rows are taken for one")
	}
	if _, err := postgres.Open(ctx, "this is no address"); err == nil {
		t.Error("a wrong address is taken")
	}
}
