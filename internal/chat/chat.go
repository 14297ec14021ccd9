// Package chat keeps what is said in lectures, and asked of their recordings afterwards: each line with its moment, and
// each question until it is answered.
package chat

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/chat"
	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// Service keeps the chat of lectures. All its fields are needed. It may be used by many at once. A call whose context
// ends gives its error and has changed nothing.
type Service struct {
	DB         *pgxpool.Pool
	Clock      clock.Clock
	Recordings *recordings.Reader
	Secret     []byte // makes marks of who is lost
}

var (
	// ErrUnknown says that there is no such line.
	ErrUnknown = fault.Code("chat.unknown")
	// ErrOff says that the chat of a lecture is turned off.
	ErrOff = fault.Code("chat.off")
	// ErrTaken says that another said something by this id.
	ErrTaken = fault.Code("chat.taken")
	// ErrClosed says that a lecture has ended, or has not begun.
	ErrClosed = fault.Code("chat.closed")
)

// Slow says that someone said much in a short time, and after how long they can say the next.
type Slow struct{ Wait time.Duration }

// Error implements error, for logs.
func (s Slow) Error() string { return s.Text().Error() }

// Text says it to people.
func (s Slow) Text() fault.Text { return fault.Say("chat.slow", "seconds", int(s.After()/time.Second)) }

// After is when to try again, in whole seconds.
func (s Slow) After() time.Duration { return s.Wait.Truncate(time.Second) + time.Second }

// mostAgo is how long ago a line can have been written: it waits in a browser until its line is back.
const mostAgo = 12 * time.Hour

// Heard is where in a recording somebody was who said something, on its clock.
type Heard struct {
	Recording uuid.UUID
	At        time.Duration
}

// Saying is something that is said.
type Saying struct {
	ID       uuid.UUID // which whoever says it makes, so that it is kept once
	Lecture  uuid.UUID
	Person   uuid.UUID
	Teaches  bool // the course, or coordinates the college
	Text     string
	Question bool
	Ago      time.Duration // how long ago it was written, if it could not be said at once
	Heard    *Heard        // nil for who follows no player: then the clock on the wall says the moment
	Later    bool          // it is asked of the recording, which Heard names
}

// Say keeps a line; one with the same id that the same person said is the same. Its error is ErrOff, Slow, of type
// fault.Faults about the text, or ErrTaken.
func (s *Service) Say(ctx context.Context, x Saying) error {
	text, err := chat.Clean("text", x.Text)
	if err != nil {
		return err
	}
	now := s.Clock.Now()
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `insert into chat (lecture_id) values ($1) on conflict do nothing`,
			x.Lecture); err != nil {
			return fmt.Errorf("begin a chat: %w", err)
		}
		way, err := postgres.Value[chat.Way](ctx, tx, `select way from chat where lecture_id = $1 for update`,
			x.Lecture)
		if err != nil {
			return fmt.Errorf("hold a chat: %w", err)
		}
		if done, err := kept(ctx, tx, x); done || err != nil {
			return err
		}
		if way == chat.Off && !x.Later {
			return ErrOff
		}
		if err := paced(ctx, tx, x, now); err != nil {
			return err
		}
		return s.put(ctx, tx, x, text, way == chat.Teachers && !x.Teaches || x.Later, now)
	})
}

// kept reports whether a line is kept already.
func kept(ctx context.Context, tx pgx.Tx, x Saying) (bool, error) {
	who, err := postgres.Value[uuid.UUID](ctx, tx, `select person_id from chat_line where id = $1`, x.ID)
	switch {
	case errors.Is(err, pgx.ErrNoRows):
		return false, nil
	case err != nil:
		return false, fmt.Errorf("look for a line: %w", err)
	case who != x.Person:
		return false, ErrTaken
	}
	return true, nil
}

// paced refuses who says too much in a short time.
func paced(ctx context.Context, tx pgx.Tx, x Saying, now time.Time) error {
	last, err := postgres.Values[time.Time](ctx, tx, `select kept_at from chat_line
		where lecture_id = $1 and person_id = $2 and kept_at > $3 order by kept_at desc limit $4`,
		x.Lecture, x.Person, now.Add(-chat.Within), chat.Burst)
	if err != nil {
		return fmt.Errorf("read what someone said last: %w", err)
	}
	if wait := chat.Wait(last, now); wait > 0 {
		return Slow{wait}
	}
	return nil
}

// put keeps a line in a chat that is held.
func (s *Service) put(ctx context.Context, tx pgx.Tx, x Saying, text string, toTeachers bool, now time.Time) error {
	said := now.Add(-max(0, min(x.Ago, mostAgo)))
	capture, at, err := s.moment(ctx, tx, x, said)
	if err != nil {
		return err
	}
	state := chat.None
	if x.Question || x.Later {
		state = chat.Open
	}
	const keep = `with n as (update chat set changes = changes + 1 where lecture_id = $2 returning changes)
		insert into chat_line (id, lecture_id, person_id, said_at, kept_at, text, to_teachers, later, capture_id, at_ms,
			state, change)
		select $1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, n.changes from n`
	if _, err := tx.Exec(ctx, keep, x.ID, x.Lecture, x.Person, said, now, text, toTeachers, x.Later, capture, at,
		state); err != nil {
		return fmt.Errorf("keep a line: %w", err)
	}
	return s.tell(ctx, tx, x.Lecture, toTeachers, x.Person)
}

// tell tells those who follow a lecture that something was said; of what is for those who teach only them and who
// wrote it.
func (s *Service) tell(ctx context.Context, tx pgx.Tx, lecture uuid.UUID, toTeachers bool, writer uuid.UUID) error {
	course, err := postgres.Value[uuid.UUID](ctx, tx, `select course_id from lecture where id = $1`, lecture)
	if err != nil {
		return fmt.Errorf("find whom to tell: %w", err)
	}
	n := postgres.Event{About: event.Chat, Course: course, Lecture: lecture}
	if toTeachers {
		n.About, n.Person = event.Asked, writer
	}
	return postgres.Notify(ctx, tx, n)
}

// Way is for whom the chat of a lecture is.
func (s *Service) Way(ctx context.Context, lecture uuid.UUID) (chat.Way, error) {
	way, err := postgres.Value[chat.Way](ctx, s.DB,
		`select coalesce((select way from chat where lecture_id = $1), 'all')`, lecture)
	if err != nil {
		return "", fmt.Errorf("read for whom a chat is: %w", err)
	}
	return way, nil
}

// SetWay says for whom the chat of a lecture is from now on. Its error is of type fault.Faults.
func (s *Service) SetWay(ctx context.Context, lecture uuid.UUID, way chat.Way) error {
	if !way.Valid() {
		return fault.One("way", "chat.way")
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const keep = `insert into chat (lecture_id, way) values ($1, $2)
			on conflict (lecture_id) do update set way = excluded.way`
		if _, err := tx.Exec(ctx, keep, lecture, way); err != nil {
			return fmt.Errorf("keep for whom a chat is: %w", err)
		}
		return s.tell(ctx, tx, lecture, false, uuid.Nil)
	})
}
