// Package cuts keeps what is struck from recordings: every version of it, by whom and when.
package cuts

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/signal"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// Service keeps what is struck of recordings. All its fields are needed. It may be used by many at once. A call whose
// context ends gives its error and has changed nothing.
type Service struct {
	DB         *pgxpool.Pool
	Clock      clock.Clock
	Recordings *recordings.Reader
}

// Cut is what is done to a cut list.
type Cut string

const (
	Strike  Cut = "strike"  // take a stretch out
	Restore Cut = "restore" // put it back
	Move    Cut = "move"    // move an edge of what is struck, from the start of a stretch to its end
	Silence Cut = "silence" // move the edge at the start of a stretch to the nearest silence
	Lead    Cut = "lead"    // show the second picture first in a stretch
	Follow  Cut = "follow"  // show the first picture first again
	AsItIs  Cut = "as_is"   // say that the recording stays as it stands
	Undo    Cut = "undo"    // take the last change back
	Redo    Cut = "redo"    // make the change again that was taken back
)

// ErrInvalid says that something cannot be done to cuts at all.
var ErrInvalid = fault.Code("cut.invalid")

// ErrNoChange says that there is no change to take back or to make again.
var ErrNoChange = fault.Code("cut.no_change")

// Other says that someone else has changed a cut list meanwhile, so that a change to what it was
// has not been made.
type Other struct {
	By string // who
	At time.Time
}

// ErrOther is the code of Other.
const ErrOther fault.Code = "other_cut"

// Error implements error, for logs.
func (o Other) Error() string { return o.Text().Error() }

// Text says it to people.
func (o Other) Text() fault.Text { return fault.Say(ErrOther, "by", o.By, "at", o.At) }

// Change makes a new version of the cut list of a recording, or steps between versions.
// No version is ever lost. Its errors are those of package cutlist, ErrNoChange,
// ErrNotReady and ErrUnknown.
func (s *Service) Change(ctx context.Context, id, by uuid.UUID, cut Cut, at span.Span) error {
	return s.ChangeFrom(ctx, id, by, nil, cut, at)
}

// ChangeFrom is Change, if the cut list is still the version from, or that is nil; the zero UUID
// is the version before all. Its error is of type Other when it is not, and another made the change.
func (s *Service) ChangeFrom(ctx context.Context, id, by uuid.UUID, from *uuid.UUID, cut Cut, at span.Span) error {
	return s.newVersion(ctx, id, by, from,
		func(tx pgx.Tx, r recordings.Recording) (*uuid.UUID, error) { return s.version(ctx, tx, r, by, cut, at) })
}

// Keep makes a new version of the cut list that keeps what is given and nothing else. Its errors
// are those of Change.
func (s *Service) Keep(ctx context.Context, id, by uuid.UUID, from *uuid.UUID, kept span.Set) error {
	return s.newVersion(ctx, id, by, from, func(tx pgx.Tx, r recordings.Recording) (*uuid.UUID, error) {
		list, err := r.Cuts().Keep(kept)
		if err != nil {
			return nil, err
		}
		return s.insertVersion(ctx, tx, r, by, edit{list, r.Led})
	})
}

func (s *Service) newVersion(ctx context.Context, id, by uuid.UUID, from *uuid.UUID,
	make func(pgx.Tx, recordings.Recording) (*uuid.UUID, error)) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if err := recordings.Hold(ctx, tx, id); err != nil {
			return err
		}
		r, err := s.Recordings.In(ctx, tx, id)
		if err != nil {
			return err
		}
		if r.State != "ready" {
			return recordings.ErrNotReady
		}
		if err := s.refuseOther(ctx, tx, r, by, from); err != nil {
			return err
		}
		to, err := make(tx, r)
		if err != nil {
			return err
		}
		if err := now(ctx, tx, id, to); err != nil {
			return err
		}
		return recordings.Tell(ctx, tx, event.Cuts, id)
	})
}

func (s *Service) version(ctx context.Context, tx pgx.Tx, r recordings.Recording, by uuid.UUID, cut Cut,
	at span.Span) (*uuid.UUID, error) {
	list, led := r.Cuts(), r.Led
	var err error
	switch cut {
	case Undo:
		if r.CutListID == nil {
			return nil, ErrNoChange
		}
		return postgres.Value[*uuid.UUID](ctx, tx, `select parent_id from cut_list where id = $1`, r.CutListID)
	case Redo:
		const newest = `select id from cut_list where recording_id = $1 and parent_id is not distinct from $2
			order by made_at desc, id desc limit 1`
		next, err := postgres.Value[*uuid.UUID](ctx, tx, newest, r.ID, r.CutListID)
		if errors.Is(err, pgx.ErrNoRows) {
			return nil, ErrNoChange
		}
		return next, err
	case Strike:
		list, err = list.Strike(round(at))
	case Restore:
		list, err = list.Restore(round(at))
	case Move:
		at = round(at)
		list, err = list.Move(at.Start, at.End)
	case Silence:
		list, err = s.toSilence(ctx, r, list, at.Start.Round(time.Millisecond))
	case Lead, Follow:
		if at = round(at).Intersect(span.Span{End: r.Length}); at.Len() < cutlist.Shortest {
			return nil, cutlist.ErrTooShort
		}
		if !r.SecondVideo {
			return nil, ErrOnePicture
		}
		if cut == Lead {
			led = led.Union(span.Of(at))
		} else {
			led = led.Subtract(span.Of(at))
		}
	case AsItIs:
	default:
		err = fmt.Errorf("%w: %q is nothing that can be done", ErrInvalid, cut)
	}
	if err != nil {
		return nil, err
	}
	return s.insertVersion(ctx, tx, r, by, edit{list, led})
}

// refuseOther refuses a change to a version that is not the newest any more, unless the newest
// is one's own.
func (s *Service) refuseOther(ctx context.Context, tx pgx.Tx, r recordings.Recording, by uuid.UUID,
	from *uuid.UUID) error {
	now := uuid.Nil
	if r.CutListID != nil {
		now = *r.CutListID
	}
	if from == nil || *from == now {
		return nil
	}
	type newest struct {
		Person *uuid.UUID
		Name   string
		MadeAt time.Time
	}
	const query = `select c.made_by as person, coalesce(p.name, '') as name, c.made_at from cut_list c left
		join person p on p.id = c.made_by where c.recording_id = $1 order by c.made_at desc, c.id desc limit 1`
	x, err := postgres.One[newest](ctx, tx, query, r.ID)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil
	}
	if err != nil {
		return fmt.Errorf("read who changed a cut list: %w", err)
	}
	if x.Person != nil && *x.Person == by {
		return nil
	}
	return Other{x.Name, x.MadeAt}
}

// edit is a version of a cut list: what is struck, and where the second picture leads.
type edit struct {
	cutlist.List
	led span.Set
}

func (s *Service) insertVersion(ctx context.Context, tx pgx.Tx, r recordings.Recording, by uuid.UUID,
	e edit) (*uuid.UUID, error) {
	id := uuid.Must(uuid.NewV7())
	const insert = `insert into cut_list (id, recording_id, parent_id, struck, led, made_by, made_at)
		values ($1, $2, $3, $4, $5, $6, $7)`
	if _, err := tx.Exec(ctx, insert, id, r.ID, r.CutListID, postgres.Kept(e.Struck()), postgres.Kept(e.led),
		postgres.OrNil(by), s.Clock.Now()); err != nil {
		return nil, fmt.Errorf("write a cut list: %w", err)
	}
	return &id, nil
}

// ErrOnePicture says that there is no second picture that could lead.
var ErrOnePicture = fault.Code("cut.one_picture")

// ErrLoud says that there is no silence to which an edge could move.
var ErrLoud = fault.Code("cut.loud")

// ErrQuiet says that an edge need not move to a silence.
var ErrQuiet = fault.Code("cut.quiet")

func (s *Service) toSilence(ctx context.Context, r recordings.Recording, list cutlist.List,
	edge time.Duration) (cutlist.List, error) {
	strip, err := s.Recordings.Strip(ctx, r.ID, r.Length)
	if err != nil {
		return list, err
	}
	to, ok := signal.Quiet(strip.Peaks, edge)
	if !ok {
		return list, ErrLoud
	}
	if to == edge {
		return list, ErrQuiet
	}
	return list.Move(edge, to)
}

// round is s on whole milliseconds, as cut lists are kept.
func round(s span.Span) span.Span {
	return span.Span{Start: s.Start.Round(time.Millisecond), End: s.End.Round(time.Millisecond)}
}
