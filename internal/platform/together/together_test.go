package together_test

import (
	"context"
	"errors"
	"slices"
	"sync"
	"sync/atomic"
	"testing"

	"latelantern/internal/platform/together"
)

// TestManyAreAskedForAtOnce: each is answered what is theirs, a thing is asked for once however many ask for it, and
// what is not found is nothing.
func TestManyAreAskedForAtOnce(t *testing.T) {
	var batches, things atomic.Int32
	square := together.New(func(_ context.Context, keys []int) (map[int]int, error) {
		batches.Add(1)
		things.Add(int32(len(keys)))
		out := map[int]int{}
		for _, k := range keys {
			if k != 7 {
				out[k] = k * k
			}
		}
		return out, nil
	})
	var all sync.WaitGroup
	for i := range 300 {
		all.Go(func() {
			k := i % 10
			want := k * k
			if k == 7 {
				want = 0
			}
			if got, err := square.Ask(t.Context(), k); err != nil || got != want {
				t.Errorf("%d of %d, %v; want %d", got, k, err, want)
			}
		})
	}
	all.Wait()
	if b, n := batches.Load(), things.Load(); b > 50 || n > 10*b {
		t.Errorf("%d things asked for in %d questions, of 300 who asked for 10", n, b)
	}
}

// TestNothingIsRemembered: whoever asks is answered by what was read after they asked.
func TestNothingIsRemembered(t *testing.T) {
	var now atomic.Int64
	q := together.New(func(_ context.Context, keys []int) (map[int]int64, error) {
		n := now.Load()
		out := map[int]int64{}
		for _, k := range keys {
			out[k] = n
		}
		return out, nil
	})
	for range 20 {
		least := now.Add(1)
		if got, err := q.Ask(t.Context(), 1); err != nil || got < least {
			t.Fatalf("%d, %v; it is %d already", got, err, least)
		}
	}
}

// TestWhoAskedFirstMayLeave: those who asked with them are answered all the same, and what fails fails for each.
func TestWhoAskedFirstMayLeave(t *testing.T) {
	entered := make(chan struct{})
	broken := errors.New("broken")
	q := together.New(func(ctx context.Context, keys []int) (map[int]int, error) {
		<-entered
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if slices.Contains(keys, -1) {
			return nil, broken
		}
		return map[int]int{2: 4}, nil
	})
	first, leave := context.WithCancel(t.Context())
	var all sync.WaitGroup
	all.Go(func() { _, _ = q.Ask(first, 1) })
	all.Go(func() {
		if got, err := q.Ask(t.Context(), 2); got != 4 || err != nil {
			t.Errorf("%d, %v", got, err)
		}
	})
	leave()
	close(entered)
	all.Wait()
	if _, err := q.Ask(t.Context(), -1); !errors.Is(err, broken) {
		t.Errorf("%v, want %v", err, broken)
	}
}
