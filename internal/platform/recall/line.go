// Package recall remembers answers of the database until what they rest on changes, in whatever process.
//
// Whoever writes need not think of it: triggers send the subject of each change when it is committed (migration
// 00026). A Line hears them; a Memory asks the database again for what rests on them.
package recall

import (
	"context"
	"hash/maphash"
	"log/slog"
	"sync/atomic"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
)

// Subject is what an answer rests on: one person, one recording, one course or one session.
type Subject string

// The subjects, as triggers name them.
func Person(id uuid.UUID) Subject    { return Subject("p" + id.String()) }
func Recording(id uuid.UUID) Subject { return Subject("r" + id.String()) }
func Course(id uuid.UUID) Subject    { return Subject("c" + id.String()) }

// Session is a session by the digest of its token, as it is kept.
func Session(digest string) Subject { return Subject("s" + digest) }

// everything is what is sent when answers about anything may be others.
const everything = "*"

const (
	channel = "latelantern_rights"
	// lease is for how long a line is sure of what it heard.
	lease = 1500 * time.Millisecond
	// beat is after how long without a word the database is asked whether it is there.
	beat = 400 * time.Millisecond
	// again is after how long a line that was lost is tried anew.
	again = 250 * time.Millisecond
)

// slots is how many counters there are. Subjects that share one are only asked for once too often.
const slots = 1 << 16

// Line hears what changes. Its zero value hears nothing, and is sure of nothing.
type Line struct {
	seed     maphash.Seed
	of       [slots]atomic.Uint32 // changes of the subjects of a slot
	all      atomic.Uint32        // changes of everything
	heard    atomic.Uint64        // words in all, counted before they are
	last     atomic.Int64         // when the database last said that nothing is missing, in nanoseconds since begun
	begun    time.Time
	stop     context.CancelFunc
	done     chan struct{}
	firstTry chan struct{}
}

// Listen begins to hear what changes and goes on until Close, over lost connections. What is committed after it
// returns is heard, if the database could be reached.
func Listen(ctx context.Context, pool *pgxpool.Pool) *Line {
	ctx, stop := context.WithCancel(context.WithoutCancel(ctx))
	l := &Line{seed: maphash.MakeSeed(), begun: time.Now(), stop: stop, done: make(chan struct{}),
		firstTry: make(chan struct{})}
	l.last.Store(-int64(time.Hour))
	config := pool.Config().ConnConfig.Copy()
	config.ConnectTimeout = lease
	go func() {
		defer close(l.done)
		for first := true; ctx.Err() == nil; first = false {
			err := l.receive(ctx, config)
			if ctx.Err() != nil {
				return
			}
			if first || time.Since(l.begun)-time.Duration(l.last.Load()) < lease {
				slog.Warn("what changes cannot be heard", "error", err)
			}
			if first {
				l.tried()
			}
			select {
			case <-ctx.Done():
			case <-time.After(again):
			}
		}
	}()
	<-l.firstTry
	return l
}

func (l *Line) tried() {
	select {
	case <-l.firstTry:
	default:
		close(l.firstTry)
	}
}

func (l *Line) receive(ctx context.Context, config *pgx.ConnConfig) error {
	conn, err := pgx.ConnectConfig(ctx, config)
	if err != nil {
		return err
	}
	defer func() {
		last, cancel := context.WithTimeout(context.WithoutCancel(ctx), lease)
		defer cancel()
		_ = conn.Close(last)
	}()
	at := l.now()
	within, cancel := context.WithTimeout(ctx, lease)
	_, err = conn.Exec(within, "listen "+channel)
	cancel()
	if err != nil {
		return err
	}
	l.hear(everything) // what was committed while nobody listened
	l.last.Store(at)
	l.tried()
	for {
		// What was committed before the question is heard before its answer.
		within, cancel := context.WithTimeout(ctx, beat)
		word, err := conn.WaitForNotification(within)
		cancel()
		if err == nil {
			l.hear(word.Payload)
			if l.now()-l.last.Load() < int64(beat) {
				continue // many words are no answer: it is asked all the same
			}
		} else if ctx.Err() != nil || conn.IsClosed() {
			return err
		}
		at := l.now()
		within, cancel = context.WithTimeout(ctx, lease)
		err = conn.Ping(within)
		cancel()
		if err != nil {
			return err
		}
		l.last.Store(at)
	}
}

// now is how long the line has been there, by a clock that nobody sets.
func (l *Line) now() int64 { return int64(time.Since(l.begun)) }

// hear counts a change. It is counted as heard first: whoever sees the new count of a subject sees that too.
func (l *Line) hear(word string) {
	l.heard.Add(1)
	if word == everything {
		l.all.Add(1)
		return
	}
	l.of[l.slot(Subject(word))].Add(1)
}

func (l *Line) slot(s Subject) uint32 { return uint32(maphash.String(l.seed, string(s)) % slots) }

// Sure reports whether everything that was committed lease ago has been heard.
func (l *Line) Sure() bool { return !l.begun.IsZero() && l.now()-l.last.Load() < int64(lease) }

// lostFor is how long nothing was heard.
func (l *Line) lostFor() time.Duration { return time.Duration(l.now() - l.last.Load()) }

// Close ends the line and waits for it.
func (l *Line) Close() {
	l.stop()
	<-l.done
}

// most is how many subjects an answer rests on; one that rests on more is not remembered.
const most = 12

// stamp is what had been heard of the subjects of an answer.
type stamp struct {
	all   uint32
	n     int
	slots [most]uint32
	count [most]uint32
}

// stamp is what has been heard of subjects until now; ok is false for too many.
func (l *Line) stamp(subjects []Subject) (s stamp, ok bool) {
	if len(subjects) > most {
		return s, false
	}
	s.all, s.n = l.all.Load(), len(subjects)
	for i, x := range subjects {
		s.slots[i] = l.slot(x)
		s.count[i] = l.of[s.slots[i]].Load()
	}
	return s, true
}

// holds reports whether nothing has been heard of them since.
func (l *Line) holds(s *stamp) bool {
	if s.all != l.all.Load() {
		return false
	}
	for i := range s.n {
		if s.count[i] != l.of[s.slots[i]].Load() {
			return false
		}
	}
	return true
}
