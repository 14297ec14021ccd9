package postgres

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"sync"
	"time"

	"latelantern/internal/core/event"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"
)

// Event says that something changed, never what: whoever cares asks again. It reaches
// every process that shares the database.
type Event struct {
	About     event.Kind `json:"about"`
	Course    uuid.UUID  `json:"course"`
	Lecture   uuid.UUID  `json:"lecture"`
	Recording uuid.UUID  `json:"recording"`
	Track     uuid.UUID  `json:"track"`
	Person    uuid.UUID  `json:"person"` // whom a file without a lecture belongs to

	// Number is another for each event that this process hears, so that what it is about is read once for all who
	// listen.
	Number uint64 `json:"-" db:"-"`
}

// Missed is what a listener is told when events may have been lost: because it was behind, or
// because the database could not be heard for a while. It should look at everything again.
const Missed event.Kind = "missed"

// channel is what events are sent on.
const channel = "latelantern"

// execer is a pool or a transaction.
type execer interface {
	Exec(ctx context.Context, sql string, args ...any) (pgconn.CommandTag, error)
}

// Notify sends an event; within a transaction it is sent when that commits.
func Notify(ctx context.Context, x execer, n Event) error {
	b, err := json.Marshal(n)
	if err != nil {
		return fmt.Errorf("write an event: %w", err)
	}
	if _, err := x.Exec(ctx, "select pg_notify($1, $2)", channel, string(b)); err != nil {
		return fmt.Errorf("send an event: %w", err)
	}
	return nil
}

// Events hands the events of the database to all who listen in this process.
type Events struct {
	mu        sync.Mutex
	listeners map[chan Event]struct{}
	done      chan struct{}
	stop      context.CancelFunc
	ready     chan struct{} // closed when the first connection listens, or could not
	once      sync.Once
	heard     uint64 // so many events
}

// Listen begins to receive events and goes on until Close, over lost connections. What is
// sent after it returns is received, if the database could be reached.
func Listen(ctx context.Context, pool *pgxpool.Pool) *Events {
	ctx, stop := context.WithCancel(context.WithoutCancel(ctx))
	n := &Events{listeners: map[chan Event]struct{}{}, done: make(chan struct{}), stop: stop,
		ready: make(chan struct{})}
	config := pool.Config().ConnConfig.Copy()
	go func() {
		defer close(n.done)
		for ctx.Err() == nil {
			if err := n.receive(ctx, config); err != nil && ctx.Err() == nil {
				slog.Warn("events interrupted", "error", err)
				n.once.Do(func() { close(n.ready) })
				select {
				case <-ctx.Done():
				case <-time.After(500 * time.Millisecond):
				}
			}
		}
	}()
	select {
	case <-n.ready:
	case <-n.done:
	}
	return n
}

func (n *Events) receive(ctx context.Context, config *pgx.ConnConfig) error {
	conn, err := pgx.ConnectConfig(ctx, config)
	if err != nil {
		return err
	}
	defer conn.Close(context.WithoutCancel(ctx))
	if _, err := conn.Exec(ctx, "listen "+channel); err != nil {
		return err
	}
	n.hand(Event{About: Missed}) // what was sent while the line was down
	n.once.Do(func() { close(n.ready) })
	for {
		got, err := conn.WaitForNotification(ctx)
		if err != nil {
			return err
		}
		var told Event
		if err := json.Unmarshal([]byte(got.Payload), &told); err != nil {
			slog.Warn("an event that cannot be read", "error", err)
			continue
		}
		n.hand(told)
	}
}

// hand gives an event to all who listen. Nobody waits for one who is behind: in place of what is
// not heard yet they find that they missed something.
func (n *Events) hand(told Event) {
	n.mu.Lock()
	defer n.mu.Unlock()
	n.heard++
	told.Number = n.heard
	for l := range n.listeners {
		select {
		case l <- told:
			continue
		default:
		}
		for len(l) > 0 {
			select {
			case <-l:
			default:
			}
		}
		l <- Event{About: Missed} // only this fills the channel, and it is empty
	}
}

// Subscribe gives a channel of all events until cancel is called. A listener that falls 64
// behind loses them, and is told Missed.
func (n *Events) Subscribe() (events <-chan Event, cancel func()) {
	l := make(chan Event, 64)
	n.mu.Lock()
	n.listeners[l] = struct{}{}
	n.mu.Unlock()
	return l, func() {
		n.mu.Lock()
		delete(n.listeners, l)
		n.mu.Unlock()
	}
}

// Close stops receiving and waits for it.
func (n *Events) Close() {
	n.stop()
	<-n.done
}
