// Package jobs queues work in the database, in the transaction of whatever asks for it,
// and does it in any process that runs workers.
package jobs

import (
	"context"
	"fmt"
	"log/slog"
	"runtime"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivertype"
)

// The queues, by how long their jobs hold a worker.
const (
	Live     = "live"     // as long as a lecture
	Packing  = "packing"  // minutes: files made elsewhere
	Reading  = "reading"  // seconds to minutes: measuring a recording
	Making   = "making"   // seconds, and someone waits
	Post     = "post"     // letters
	Small    = "small"    // minutes to hours, when there is nothing better to do
	Drafting = "drafting" // minutes to hours: drafting captions
	Slides   = "slides"   // minutes: reading what stands on slides, with the least right to the processor
	Watch    = "watch"    // milliseconds, again and again: looking after what was forgotten
)

// OneAtATime keeps a job that is still to be done, or being done, from being queued again.
var OneAtATime = river.UniqueOpts{ByArgs: true, ByState: []rivertype.JobState{
	rivertype.JobStateAvailable, rivertype.JobStatePending, rivertype.JobStateRunning, rivertype.JobStateRetryable,
	rivertype.JobStateScheduled}}

// Looking is how a job is queued that looks after something again and again.
var Looking = river.InsertOpts{Queue: Watch, MaxAttempts: 1, UniqueOpts: OneAtATime}

// each is how often jobs that look after something are done.
const each = 15 * time.Second

// Queue takes jobs.
type Queue struct {
	client *river.Client[pgx.Tx]
}

// NewQueue is a queue that only takes jobs.
func NewQueue(pool *pgxpool.Pool) (*Queue, error) {
	client, err := river.NewClient(riverpgxv5.New(pool), &river.Config{Logger: quiet()})
	if err != nil {
		return nil, fmt.Errorf("open the queue of jobs: %w", err)
	}
	return &Queue{client}, nil
}

// Add puts a job into the queue named in its options when tx commits.
func (q *Queue) Add(ctx context.Context, tx pgx.Tx, args river.JobArgs) error {
	if _, err := q.client.InsertTx(ctx, tx, args, nil); err != nil {
		return fmt.Errorf("queue a job %s: %w", args.Kind(), err)
	}
	return nil
}

// AddAll is Add for many jobs of one kind.
func (q *Queue) AddAll(ctx context.Context, tx pgx.Tx, list []river.JobArgs) error {
	if len(list) == 0 {
		return nil
	}
	many := make([]river.InsertManyParams, len(list))
	for i, args := range list {
		many[i].Args = args
	}
	if _, err := q.client.InsertManyFastTx(ctx, tx, many); err != nil {
		return fmt.Errorf("queue %d jobs %s: %w", len(list), list[0].Kind(), err)
	}
	return nil
}

func quiet() *slog.Logger { return slog.New(slog.DiscardHandler) }

// Workers does jobs until it is stopped.
type Workers struct {
	client *river.Client[pgx.Tx]
}

// Work begins to do jobs as the worker named id, which must stay the same over restarts:
// jobs that it left unfinished are taken up again at once.
// Those in again are done again and again, in one of all processes that work.
func Work(ctx context.Context, pool *pgxpool.Pool, id string, kinds *river.Workers,
	again ...river.JobArgs) (*Workers, error) {
	var periodic []*river.PeriodicJob
	for _, args := range again {
		periodic = append(periodic,
			river.NewPeriodicJob(river.PeriodicInterval(each), func() (river.JobArgs, *river.InsertOpts) {
				return args,
					nil
			}, &river.PeriodicJobOpts{RunOnStart: true}))
	}
	const free = `update river_job set state = 'available', scheduled_at = now()
		where state = 'running' and attempted_by[array_upper(attempted_by, 1)] = $1`
	if _, err := pool.Exec(ctx, free, id); err != nil {
		return nil, fmt.Errorf("free the jobs of an earlier run: %w", err)
	}
	client, err := river.NewClient(riverpgxv5.New(pool), &river.Config{
		ID:                   id,
		Workers:              kinds,
		Logger:               slog.New(levelHandler{slog.Default().Handler()}),
		FetchCooldown:        50 * time.Millisecond,
		FetchPollInterval:    500 * time.Millisecond,
		RescueStuckJobsAfter: 13 * time.Hour,
		PeriodicJobs:         periodic,
		Queues: map[string]river.QueueConfig{
			Live: {MaxWorkers: liveAtOnce()}, Packing: {MaxWorkers: 2}, Reading: {MaxWorkers: 2},
			Making: {MaxWorkers: 4}, Post: {MaxWorkers: 2}, Small: {MaxWorkers: 1}, Drafting: {MaxWorkers: 1},
			Slides: {MaxWorkers: 1}, Watch: {MaxWorkers: 1},
		},
	})
	if err != nil {
		return nil, fmt.Errorf("prepare the workers: %w", err)
	}
	if err := client.Start(context.WithoutCancel(ctx)); err != nil {
		return nil, fmt.Errorf("start the workers: %w", err)
	}
	return &Workers{client}, nil
}

// liveAtOnce is how many tracks are cut into segments while they are captured. Each takes some
// hundredths of a processor and some tens of megabytes; what comes beyond that is stored first
// and cut when there is room.
func liveAtOnce() int { return max(4, 8*runtime.NumCPU()) }

// Stop cancels what runs and waits for it; unfinished jobs are taken up at the next start.
func (w *Workers) Stop() error {
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	if err := w.client.StopAndCancel(ctx); err != nil {
		return fmt.Errorf("stop the workers: %w", err)
	}
	return nil
}

// levelHandler keeps only warnings and errors of the queue's own log.
type levelHandler struct{ slog.Handler }

func (h levelHandler) Enabled(ctx context.Context, l slog.Level) bool {
	return l >= slog.LevelWarn && h.Handler.Enabled(ctx, l)
}
