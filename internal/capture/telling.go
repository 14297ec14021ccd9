package capture

import (
	"context"
	"errors"
	"log/slog"
	"sync"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/puddle/v2"

	"latelantern/internal/platform/postgres"
)

// tellEach is how often at most it is told that more of a track is stored.
const tellEach = time.Second

// tellings are the tracks of which something was told less than tellEach ago, in this process, and what is to be told
// of them after that. Its zero value is none. What a process that dies had still to tell, the next append tells.
type tellings struct {
	mu   sync.Mutex
	soon map[uuid.UUID]*postgres.Event // nil while nothing waits
}

// due reports whether something may be told of a track now, and counts it as told.
func (t *tellings) due(track uuid.UUID, tell func(postgres.Event)) bool {
	t.mu.Lock()
	defer t.mu.Unlock()
	if _, waits := t.soon[track]; waits {
		return false
	}
	if t.soon == nil {
		t.soon = map[uuid.UUID]*postgres.Event{}
	}
	t.soon[track] = nil
	time.AfterFunc(tellEach, func() { t.pass(track, tell) })
	return true
}

// later has an event told once it is due; a later one takes its place.
func (t *tellings) later(track uuid.UUID, n postgres.Event, tell func(postgres.Event)) {
	t.mu.Lock()
	if _, waits := t.soon[track]; waits {
		t.soon[track] = &n
		t.mu.Unlock()
		return
	}
	t.mu.Unlock()
	if t.due(track, tell) {
		tell(n)
	}
}

// pass tells what waits, or forgets a track of which nothing does.
func (t *tellings) pass(track uuid.UUID, tell func(postgres.Event)) {
	t.mu.Lock()
	n := t.soon[track]
	delete(t.soon, track)
	t.mu.Unlock()
	if n != nil && t.due(track, tell) {
		tell(*n)
	}
}

// tellLate tells what could not be told with the append that it is about.
func (s *Service) tellLate(n postgres.Event) {
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	err := postgres.Notify(ctx, s.DB, n)
	if err != nil && !errors.Is(err, puddle.ErrClosedPool) { // the house was closed meanwhile: nobody hears by it
		slog.Warn("it was not told that more is stored", "track", n.Track, "error", err)
	}
}
