package edge

import (
	"sync"

	"github.com/google/uuid"
)

// Places are few, and each person has only some of them.
type Places struct {
	all, each int // at most, of all and of each person; 0 for all is any number

	mu    sync.Mutex
	taken int
	by    map[uuid.UUID]int
}

// NewPlaces are this many at most, of all and of each person; 0 for all is any number.
func NewPlaces(all, each int) *Places { return &Places{all: all, each: each} }

// Enter takes a place for a person until leave is called; ok is false when there is none for them.
func (x *Places) Enter(person uuid.UUID) (leave func(), ok bool) {
	x.mu.Lock()
	defer x.mu.Unlock()
	if x.by[person] >= x.each || x.all > 0 && x.taken >= x.all {
		return nil, false
	}
	if x.by == nil {
		x.by = map[uuid.UUID]int{}
	}
	x.by[person]++
	x.taken++
	return func() {
		x.mu.Lock()
		defer x.mu.Unlock()
		x.taken--
		if x.by[person]--; x.by[person] <= 0 {
			delete(x.by, person)
		}
	}, true
}
