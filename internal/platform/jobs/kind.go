package jobs

import (
	"context"
	"time"

	"github.com/riverqueue/river"
)

// Kind is how jobs with arguments of type T are done.
type Kind[T river.JobArgs] struct {
	// Limit is how long one attempt may take.
	Limit time.Duration
	// Do does one. last tells that it is not tried again after this.
	Do func(ctx context.Context, args T, last bool) error
	// After is how long after the nth attempt, from 1, the next one comes. Nil is the way of the
	// queue, ever longer.
	After func(n int) time.Duration
}

// Register adds a kind of jobs to kinds.
func Register[T river.JobArgs](kinds *river.Workers, k Kind[T]) {
	river.AddWorker(kinds, worker[T]{kind: k})
}

type worker[T river.JobArgs] struct {
	river.WorkerDefaults[T]
	kind Kind[T]
}

func (w worker[T]) Timeout(*river.Job[T]) time.Duration { return w.kind.Limit }

func (w worker[T]) Work(ctx context.Context, job *river.Job[T]) error {
	return w.kind.Do(ctx, job.Args, job.Attempt >= job.MaxAttempts)
}

func (w worker[T]) NextRetry(job *river.Job[T]) time.Time {
	if w.kind.After == nil {
		return time.Time{} // the way of the queue
	}
	return time.Now().Add(w.kind.After(job.Attempt))
}
