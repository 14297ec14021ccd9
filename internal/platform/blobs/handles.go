package blobs

import (
	"sync"
	"time"
)

// Handles keeps blobs of a store open between their uses, each for one use at a time, so that whoever reads one may
// move in it. What nobody used for a while is closed when another is given back; until then what was deleted takes
// its room.
type Handles struct {
	store  Store
	most   int
	mu     sync.Mutex
	idle   map[string][]handle
	n      int // of idle
	pruned time.Time
}

type handle struct {
	Blob
	since time.Time
}

// unused is after how long an open blob is closed.
const unused = 30 * time.Second

// NewHandles keeps at most so many blobs open that are not used.
func NewHandles(store Store, most int) *Handles {
	return &Handles{store: store, most: most, idle: map[string][]handle{}, pruned: time.Now()}
}

// Take is a blob for reading, anywhere in it, until done is called. Its errors are those of Store.Open.
func (h *Handles) Take(key string) (b Blob, done func(), err error) {
	h.mu.Lock()
	list := h.idle[key]
	if n := len(list); n > 0 {
		b = list[n-1].Blob
		h.keep(key, list[:n-1])
		h.n--
	}
	h.mu.Unlock()
	if b == nil {
		if b, err = h.store.Open(key); err != nil {
			return nil, nil, err
		}
	}
	return b, func() { h.give(key, b) }, nil
}

func (h *Handles) keep(key string, list []handle) {
	if len(list) == 0 {
		delete(h.idle, key)
		return
	}
	h.idle[key] = list
}

func (h *Handles) give(key string, b Blob) {
	now := time.Now()
	h.mu.Lock()
	h.idle[key] = append(h.idle[key], handle{b, now})
	h.n++
	var closed []Blob
	if now.Sub(h.pruned) > unused {
		h.pruned = now
		closed = h.prune(now.Add(-unused))
	}
	for other, list := range h.idle { // any makes room, but what was given back just now
		if h.n <= h.most {
			break
		}
		if other != key || len(list) > 1 {
			closed = append(closed, list[0].Blob)
			h.keep(other, list[1:])
			h.n--
		}
	}
	h.mu.Unlock()
	for _, b := range closed {
		_ = b.Close() // it was only read
	}
}

// prune takes out those that nobody has used since.
func (h *Handles) prune(since time.Time) (out []Blob) {
	for key, list := range h.idle {
		rest := list[:0]
		for _, x := range list {
			if x.since.Before(since) {
				out = append(out, x.Blob)
				h.n--
			} else {
				rest = append(rest, x)
			}
		}
		h.keep(key, rest)
	}
	return out
}

// Idle is how many are open and not used.
func (h *Handles) Idle() int {
	h.mu.Lock()
	defer h.mu.Unlock()
	return h.n
}
