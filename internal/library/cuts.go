package library

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/postgres"
)

// Cut is what is done to a cut list.
type Cut string

const (
	Strike  Cut = "strike"  // take a stretch out
	Restore Cut = "restore" // put it back
	AsItIs  Cut = "as_is"   // say that the recording stays as it stands
	Undo    Cut = "undo"    // take the last change back
	Redo    Cut = "redo"    // make the change again that was taken back
)

// ErrNoChange says that there is no change to take back or to make again.
var ErrNoChange = errors.New("there is no further change")

// Change makes a new version of the cut list of a recording, or steps between versions.
// No version is ever lost. Its errors are those of package cutlist, ErrNoChange,
// ErrNotReady and ErrUnknown.
func (s *Service) Change(ctx context.Context, id, by uuid.UUID, cut Cut, at span.Span) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `select 1 from recording where id = $1 for update`, id); err != nil {
			return fmt.Errorf("hold a recording: %w", err)
		}
		r, err := s.recording(ctx, tx, id)
		if err != nil {
			return err
		}
		if r.State != "ready" {
			return ErrNotReady
		}
		to, err := s.version(ctx, tx, r, by, cut, at)
		if err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, `update recording set cut_list_id = $2 where id = $1`, id, to); err != nil {
			return fmt.Errorf("keep a cut: %w", err)
		}
		return s.notify(ctx, tx, "cuts", id)
	})
}

func (s *Service) version(ctx context.Context, tx pgx.Tx, r Recording, by uuid.UUID, cut Cut, at span.Span) (*uuid.UUID, error) {
	list := r.Cuts()
	var err error
	switch cut {
	case Undo:
		if r.CutListID == nil {
			return nil, ErrNoChange
		}
		return postgres.Value[*uuid.UUID](ctx, tx, `select parent_id from cut_list where id = $1`, r.CutListID)
	case Redo:
		const newest = `select id from cut_list where recording_id = $1 and parent_id is not distinct from $2 order by made_at desc, id desc limit 1`
		next, err := postgres.Value[*uuid.UUID](ctx, tx, newest, r.ID, r.CutListID)
		if errors.Is(err, pgx.ErrNoRows) {
			return nil, ErrNoChange
		}
		return next, err
	case Strike:
		list, err = list.Strike(round(at))
	case Restore:
		list, err = list.Restore(round(at))
	case AsItIs:
	default:
		err = fmt.Errorf("%w: %q is nothing that can be done", ErrInvalid, cut)
	}
	if err != nil {
		return nil, err
	}
	id := uuid.Must(uuid.NewV7())
	const insert = `insert into cut_list (id, recording_id, parent_id, struck, made_by, made_at) values ($1, $2, $3, $4, $5, $6)`
	if _, err := tx.Exec(ctx, insert, id, r.ID, r.CutListID, toSQL(list.Struck()), by, s.Clock.Now()); err != nil {
		return nil, fmt.Errorf("write a cut list: %w", err)
	}
	return &id, nil
}

// round is s on whole milliseconds, as cut lists are kept.
func round(s span.Span) span.Span {
	return span.Span{Start: s.Start.Round(time.Millisecond), End: s.End.Round(time.Millisecond)}
}

// CutError reports whether err is one that says in plain words why a cut cannot be made.
func CutError(err error) (error, bool) {
	for _, e := range []error{cutlist.ErrTurned, cutlist.ErrTooShort, cutlist.ErrOutside, cutlist.ErrNothingLeft, ErrNoChange, ErrNotReady} {
		if errors.Is(err, e) {
			return e, true
		}
	}
	return nil, false
}
