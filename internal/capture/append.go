package capture

import (
	"context"
	"errors"
	"fmt"
	"io"
	"sync"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/core/watchdog"
	"latelantern/internal/platform/postgres"
)

// logKey is where the bytes of a track are kept, as they came.
func logKey(track uuid.UUID) string { return "log/" + track.String() }

// gulp is the most that is read before it is made durable: more than a second of a usual
// capture. The buffers are used again, since dozens of captures come in at once.
const gulp = 512 << 10

var buffers = sync.Pool{New: func() any { b := make([]byte, gulp); return &b }}

// Append adds the bytes of body to a track, from offset on, which must be what is stored.
// A length that is not nil becomes the length of the track. Whatever of body arrived is
// durable and counted before Append returns, even if body breaks off: the bytes are on
// the disk before the database says so. It returns how much is stored then.
func (s *Service) Append(ctx context.Context, track uuid.UUID, offset int64, length *int64,
	body io.Reader) (int64, error) {
	lent := buffers.Get().(*[]byte)
	defer buffers.Put(lent)
	buffer := *lent
	for first := true; ; first = false {
		n, readErr := io.ReadFull(body, buffer)
		ended := errors.Is(readErr, io.EOF) || errors.Is(readErr, io.ErrUnexpectedEOF)
		if n > 0 || first {
			stored, err := s.store(context.WithoutCancel(ctx), track, offset, length, buffer[:n])
			if err != nil {
				return stored, fmt.Errorf("append to a track: %w", err)
			}
			offset = stored
		}
		if ended {
			return offset, nil
		}
		if readErr != nil {
			return offset, fmt.Errorf("receive bytes: %w", readErr)
		}
	}
}

// fill is how far a track is, and what it belongs to.
type fill struct {
	Stored    int64
	Length    *int64
	Lecture   uuid.UUID
	Course    uuid.UUID
	Recording uuid.UUID
	By        uuid.UUID
	GivenUp   bool
	Last      time.Time
}

// takes says why bytes until after cannot be added at offset, with the length that is said of all of it; nil when they
// can.
func (t fill) takes(offset, after int64, length *int64) error {
	switch {
	case offset != t.Stored:
		return ErrOffset
	case t.Length != nil && t.Stored == *t.Length && (after > offset || length != nil && *length != *t.Length):
		return ErrComplete
	case t.Length != nil && length != nil && *length != *t.Length,
		t.Length != nil && after > *t.Length, length != nil && after > *length:
		return ErrLength
	case after > MaxLength, length != nil && *length > MaxLength:
		return ErrTooLarge
	}
	return nil
}

// event is what is told of it.
func (t fill) event(track uuid.UUID, about event.Kind) postgres.Event {
	n := postgres.Event{About: about, Course: t.Course, Lecture: t.Lecture, Recording: t.Recording, Track: track}
	if t.Lecture == uuid.Nil {
		n.About, n.Person = event.File, t.By
	}
	return n
}

// filled reads how far a track is, and holds it. Its error is ErrUnknown.
func filled(ctx context.Context, tx pgx.Tx, track uuid.UUID) (fill, error) {
	const query = `select t.stored, t.length, t.given_up, t.arrived_at as last, coalesce(l.id, $2) as lecture,
			coalesce(l.course_id, $2) as course, coalesce(rc.recording_id, $2) as recording,
			coalesce(c.started_by, $2) as by
			from track t join capture c on c.id = t.capture_id left join lecture l on l.id = c.lecture_id
			left join recording_capture rc on rc.capture_id = c.id and rc.from_ms is null
			where t.id = $1 for no key update of t`
	t, err := postgres.One[fill](ctx, tx, query, track, uuid.Nil)
	if errors.Is(err, pgx.ErrNoRows) {
		return t, ErrUnknown
	}
	return t, err
}

// store makes b durable at offset. Only one process stores at a time, since it holds the row.
func (s *Service) store(ctx context.Context, track uuid.UUID, offset int64, length *int64,
	b []byte) (stored int64, err error) {
	var later *postgres.Event
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		t, err := filled(ctx, tx, track)
		if err != nil {
			return err
		}
		stored = t.Stored
		after := offset + int64(len(b))
		if t.GivenUp && offset == t.Stored && len(b) > 0 {
			if err := s.resume(ctx, tx, track); err != nil {
				return err
			}
			t.Length = nil
		}
		if err := t.takes(offset, after, length); err != nil {
			return err
		}
		if len(b) > 0 {
			if err := s.Blobs.Append(logKey(track), offset, b); err != nil {
				return err
			}
		}
		const update = `update track set stored = $2, length = coalesce(length, $3), arrived_at = $4 where id = $1
			returning length is not null and stored = length`
		complete, err := postgres.Value[bool](ctx, tx, update, track, after, length, s.Clock.Now())
		if err != nil {
			return err
		}
		about := event.Stored
		if len(b) > 0 && s.Clock.Now().Sub(t.Last) >= watchdog.BrokenAfter {
			about = event.Capture // what was told to be broken off goes on
		}
		if complete {
			about = event.Capture
			if err := s.complete(ctx, tx, track); err != nil {
				return err
			}
		}
		n := t.event(track, about)
		stored = after
		if about == event.Stored && !s.told.due(track, s.tellLate) {
			later = &n
			return nil
		}
		return postgres.Notify(ctx, tx, n)
	})
	if err == nil && later != nil { // not before it can be read
		s.told.later(track, *later, s.tellLate)
	}
	return stored, err
}

// complete marks the capture of a track as stopped once all its tracks are complete. A file
// is packaged from now on, or matched to its lecture first.
func (s *Service) complete(ctx context.Context, tx pgx.Tx, track uuid.UUID) error {
	// Two tracks that end at once each see the other's end only if they take turns.
	if _, err := tx.Exec(ctx,
		`select 1 from capture where id = (select capture_id from track where id = $1) for no key update`,
		track); err != nil {
		return err
	}
	const query = `update capture c set stopped_at = $2, paused_at = null from track t
		where t.id = $1 and c.id = t.capture_id and c.stopped_at is null
		and not exists (select 1 from track o
		where o.capture_id = c.id and o.id <> t.id and (o.length is null or o.stored < o.length))
		returning c.source, c.lecture_id is not null as placed`
	c, err := postgres.One[struct {
		Source Source
		Placed bool
	}](ctx, tx, query, track, s.Clock.Now())
	if errors.Is(err, pgx.ErrNoRows) {
		return nil
	}
	if err != nil {
		return err
	}
	if c.Source != File {
		return nil
	}
	if err := s.keepFingerprint(ctx, tx, track); err != nil {
		return err
	}
	if !c.Placed {
		return s.Queue.Add(ctx, tx, sortFile{Track: track})
	}
	return s.Queue.Add(ctx, tx, packFile{Track: track})
}
