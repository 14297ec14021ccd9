package capture

import (
	"sync"
	"testing"
	"testing/synctest"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/platform/postgres"
)

// TestMoreIsToldOnceASecond: however often something is appended, the last of it is told, and each track by itself.
func TestMoreIsToldOnceASecond(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		var all tellings
		var mu sync.Mutex
		heard := map[uuid.UUID][]uint64{}
		tell := func(n postgres.Event) {
			mu.Lock()
			defer mu.Unlock()
			heard[n.Track] = append(heard[n.Track], n.Number)
		}
		appended := func(track uuid.UUID, number uint64) {
			n := postgres.Event{Track: track, Number: number}
			if all.due(track, tell) {
				tell(n)
			} else {
				all.later(track, n, tell)
			}
		}
		one, other := uuid.New(), uuid.New()
		for n := range uint64(41) { // ten a second, for four seconds
			appended(one, n)
			if n == 20 {
				appended(other, n)
			}
			time.Sleep(100 * time.Millisecond)
		}
		time.Sleep(10 * time.Second)
		synctest.Wait()
		if got := heard[one]; len(got) < 5 || len(got) > 6 || got[0] != 0 || got[len(got)-1] != 40 {
			t.Errorf("of 41 in four seconds these are told: %v", got)
		}
		if got := heard[other]; len(got) != 1 || got[0] != 20 {
			t.Errorf("of the other is told %v", got)
		}
		if len(all.soon) != 0 {
			t.Errorf("%d tracks are still remembered", len(all.soon))
		}
	})
}
