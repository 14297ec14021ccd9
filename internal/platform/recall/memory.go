package recall

import (
	"context"
	"sync/atomic"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"

	"latelantern/internal/platform/postgres"
)

const (
	// Enough is how long what was decided is gone by while the database is away.
	enough = time.Minute
	// While the database is away it is asked for no longer than askFor, and by one of all who ask every restFor.
	askFor  = time.Second
	restFor = time.Second
)

// Answer is what the database says, and how long that holds.
type Answer[V any] struct {
	Value    V
	Subjects []Subject // that it rests on
	Until    time.Time // the first moment at which it may be another by the clock alone; zero for none
}

// Memory remembers answers by what was asked. It may be used by many at once.
type Memory[K comparable, V any] struct {
	line *Line
	now  func() time.Time
	kept *lru.Cache[K, *remembered[V]]
	away atomic.Int64 // when the database was last asked in vain, by the clock of the line
}

type remembered[V any] struct {
	Answer[V]
	stamp stamp
}

// NewMemory is one for so many answers, whose ends are of the clock now. Without a line it remembers nothing.
func NewMemory[K comparable, V any](line *Line, size int, now func() time.Time) *Memory[K, V] {
	kept, err := lru.New[K, *remembered[V]](size)
	if err != nil {
		panic(err) // the size is positive
	}
	return &Memory[K, V]{line: line, now: now, kept: kept}
}

// Get is the answer to k: that which is remembered, while it is sure that it still holds, else that of ask. While the
// database is away what was answered before holds on, for a minute. Errors of ask are never remembered.
func (m *Memory[K, V]) Get(ctx context.Context, k K, ask func(context.Context) (Answer[V], error)) (V, error) {
	if m.line == nil {
		a, err := ask(ctx)
		return a.Value, err
	}
	before, there := m.kept.Get(k)
	if there = there && (before.Until.IsZero() || m.now().Before(before.Until)) && m.line.holds(&before.stamp); there {
		if m.line.Sure() {
			return before.Value, nil
		}
		if m.line.lostFor() < enough {
			return m.unsure(ctx, before, ask)
		}
	}
	heard, sure := m.line.heard.Load(), m.line.Sure()
	a, err := ask(ctx)
	if err != nil || !sure {
		return a.Value, err
	}
	// What was heard meanwhile may be about it.
	if s, ok := m.line.stamp(a.Subjects); ok && m.line.heard.Load() == heard {
		m.kept.Add(k, &remembered[V]{a, s})
	}
	return a.Value, nil
}

// unsure asks the database, which may be away: then what was answered before holds on.
func (m *Memory[K, V]) unsure(ctx context.Context, before *remembered[V], ask func(context.Context) (Answer[V], error),
) (V, error) {
	last := m.away.Load()
	if last > 0 && m.line.now()-last < int64(restFor) {
		return before.Value, nil
	}
	within, cancel := context.WithTimeout(ctx, askFor)
	defer cancel()
	a, err := ask(within)
	if postgres.Away(err) && ctx.Err() == nil {
		m.away.Store(m.line.now())
		return before.Value, nil
	}
	return a.Value, err
}
