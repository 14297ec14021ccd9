package watching

import (
	"sync"
	"time"

	"github.com/google/uuid"
	lru "github.com/hashicorp/golang-lru/v2"
)

// playedEach is how often at most it is kept that someone follows a lecture, in this process.
const playedEach = 10 * time.Second

// played remembers of whom it was kept just now that they follow. Its zero value remembers none.
type played struct {
	once sync.Once
	last *lru.Cache[[2]uuid.UUID, time.Time]
}

// due reports whether it should be kept again that a person follows a recording; it is asked once for that.
func (p *played) due(person, recording uuid.UUID, now time.Time) bool {
	p.once.Do(func() { p.last, _ = lru.New[[2]uuid.UUID, time.Time](10_000) }) // the size is positive
	key := [2]uuid.UUID{person, recording}
	if at, ok := p.last.Get(key); ok && now.Sub(at) < playedEach {
		return false
	}
	p.last.Add(key, now)
	return true
}
