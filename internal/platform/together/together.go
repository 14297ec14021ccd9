// Package together asks once for what many ask for at the same moment.
//
// Nothing is remembered: what somebody is answered was read after they asked.
package together

import (
	"context"
	"errors"
	"time"

	"github.com/graph-gophers/dataloader/v7"
)

const (
	// wait is how long the first who asks waits for others.
	wait = 5 * time.Millisecond
	// within is how long it may take to answer all of them.
	within = 10 * time.Second
	// most is how many are asked for at once.
	most = 1000
)

// Question is asked of many things at once. It may be used by many at once.
type Question[K comparable, V any] struct {
	of *dataloader.Loader[K, V]
}

// New is a question that ask answers, with what it found of the things it is given; each is given once. What it does
// not find is the zero value.
func New[K comparable, V any](ask func(context.Context, []K) (map[K]V, error)) *Question[K, V] {
	batch := func(ctx context.Context, keys []K) []*dataloader.Result[V] {
		// The context is of whoever asked first; others wait for the answer too.
		ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), within)
		defer cancel()
		found, err := ask(ctx, each(keys))
		out := make([]*dataloader.Result[V], len(keys))
		for i, k := range keys {
			out[i] = &dataloader.Result[V]{Data: found[k], Error: err}
		}
		return out
	}
	return &Question[K, V]{dataloader.NewBatchedLoader(batch, dataloader.WithWait[K, V](wait),
		dataloader.WithBatchCapacity[K, V](most), dataloader.WithCache[K, V](&dataloader.NoCache[K, V]{}))}
}

// Ask is what is answered of k. An error is of all who asked together.
func (q *Question[K, V]) Ask(ctx context.Context, k K) (V, error) { return q.of.Load(ctx, k)() }

// All is what is answered of each of ks.
func (q *Question[K, V]) All(ctx context.Context, ks []K) (map[K]V, error) {
	answers, failed := q.of.LoadMany(ctx, ks)()
	if err := errors.Join(failed...); err != nil {
		return nil, err
	}
	out := make(map[K]V, len(ks))
	for i, k := range ks {
		out[k] = answers[i]
	}
	return out, nil
}

func each[K comparable](keys []K) []K {
	seen, out := make(map[K]bool, len(keys)), make([]K, 0, len(keys))
	for _, k := range keys {
		if !seen[k] {
			seen[k] = true
			out = append(out, k)
		}
	}
	return out
}
