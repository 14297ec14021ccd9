package jobs_test

import (
	"context"
	"errors"
	"sync/atomic"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/testdb"
)

func TestMain(m *testing.M) { testdb.Main(m) }

type knock struct {
	Door int `json:"door"`
}

func (knock) Kind() string { return "knock" }
func (knock) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Making, MaxAttempts: 3}
}

func wait(t *testing.T, done func() bool) {
	t.Helper()
	for limit := time.Now().Add(time.Minute); !done(); time.Sleep(10 * time.Millisecond) {
		if time.Now().After(limit) {
			t.Fatal("it does not happen")
		}
	}
}

// TestJobsComeWithTheirTransaction and only with it.
func TestJobsComeWithTheirTransaction(t *testing.T) {
	ctx := context.Background()
	pool := testdb.Pool(t)
	queue, err := jobs.NewQueue(pool)
	if err != nil {
		t.Fatal(err)
	}
	var done atomic.Int64
	kinds := river.NewWorkers()
	jobs.Register(kinds, jobs.Kind[knock]{Limit: time.Minute, Do: func(_ context.Context, k knock, _ bool) error {
		done.Add(int64(k.Door))
		return nil
	}})
	workers, err := jobs.Work(ctx, pool, "test", kinds)
	if err != nil {
		t.Fatal(err)
	}
	defer workers.Stop()
	broken := errors.New("changed my mind")
	if err := postgres.InTx(ctx, pool,
		func(tx pgx.Tx) error { return errors.Join(queue.Add(ctx, tx, knock{100}), broken) }); !errors.Is(err, broken) {
		t.Fatal(err)
	}
	for door := range 3 {
		if err := postgres.InTx(ctx, pool,
			func(tx pgx.Tx) error { return queue.Add(ctx, tx, knock{door + 1}) }); err != nil {
			t.Fatal(err)
		}
	}
	wait(t, func() bool { return done.Load() == 6 })
}

// TestUnfinishedJobsAreTakenUpAtOnce by the worker of the same name, after it died in the
// middle of one, and not by another that is alive.
func TestUnfinishedJobsAreTakenUpAtOnce(t *testing.T) {
	ctx := context.Background()
	pool := testdb.Pool(t)
	queue, err := jobs.NewQueue(pool)
	if err != nil {
		t.Fatal(err)
	}
	var begun, finished atomic.Int64
	release := make(chan struct{})
	work := func() *jobs.Workers {
		kinds := river.NewWorkers()
		jobs.Register(kinds, jobs.Kind[knock]{Limit: time.Minute, Do: func(ctx context.Context, _ knock, _ bool) error {
			begun.Add(1)
			select {
			case <-release:
				finished.Add(1)
				return nil
			case <-ctx.Done():
				return ctx.Err()
			}
		}})
		w, err := jobs.Work(ctx, pool, "hall", kinds)
		if err != nil {
			t.Fatal(err)
		}
		return w
	}
	first := work()
	if err := postgres.InTx(ctx, pool, func(tx pgx.Tx) error { return queue.Add(ctx, tx, knock{1}) }); err != nil {
		t.Fatal(err)
	}
	wait(t, func() bool { return begun.Load() == 1 })
	if err := first.Stop(); err != nil {
		t.Fatal(err)
	}
	// As after a kill: the job is still marked as running by this worker.
	if _, err := pool.Exec(ctx,
		`update river_job
			set state = 'running', attempted_by = array['hall'], finalized_at = null, attempt = 1`); err != nil {
		t.Fatal(err)
	}
	close(release)
	second := work()
	defer second.Stop()
	wait(t, func() bool { return finished.Load() == 1 })
}

// TestAnAttemptKnowsThatItIsTheLast, has its limit, and comes as soon after another as it is said.
func TestAnAttemptKnowsThatItIsTheLast(t *testing.T) {
	ctx := context.Background()
	pool := testdb.Pool(t)
	queue, err := jobs.NewQueue(pool)
	if err != nil {
		t.Fatal(err)
	}
	lasts := make(chan bool, 3)
	kinds := river.NewWorkers()
	jobs.Register(kinds,
		jobs.Kind[knock]{Limit: 50 * time.Millisecond, Do: func(ctx context.Context, _ knock, last bool) error {
			<-ctx.Done()
			lasts <- last
			return ctx.Err()
		}, After: func(n int) time.Duration { return time.Duration(n) * 10 * time.Millisecond }})
	workers, err := jobs.Work(ctx, pool, "test", kinds)
	if err != nil {
		t.Fatal(err)
	}
	defer workers.Stop()
	if err := postgres.InTx(ctx, pool, func(tx pgx.Tx) error { return queue.Add(ctx, tx, knock{1}) }); err != nil {
		t.Fatal(err)
	}
	for n := range 3 {
		select {
		case last := <-lasts:
			if last != (n == 2) {
				t.Errorf("attempt %d of 3 is the last: %v", n+1, last)
			}
		case <-time.After(20 * time.Second):
			t.Fatalf("attempt %d does not come", n+1)
		}
	}
}
