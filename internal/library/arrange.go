package library

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// The ways in which splitting and joining can be refused.
var (
	ErrSplit     = fault.Code("arrange.split")
	ErrJoinSame  = fault.Code("arrange.same")
	ErrJoinShown = fault.Code("arrange.shown")
	ErrChanged   = fault.Code("arrange.changed")
)

// arranged is of what a recording is made, as it is kept to be undone.
type arranged struct {
	ID        uuid.UUID      `json:"id"`
	OriginAt  time.Time      `json:"origin_at"`
	DeletedAt *time.Time     `json:"deleted_at"`
	Parts     []arrangedPart `json:"parts"`
}

type arrangedPart struct {
	CaptureID uuid.UUID `json:"capture_id"`
	Position  int       `json:"position"`
	StartMs   int64     `json:"start_ms"`
	FromMs    *int64    `json:"from_ms"`
	UntilMs   *int64    `json:"until_ms"`
}

// arrangement holds recordings whose parts change places: what is struck and which picture leads
// is kept on the clocks of the captures meanwhile, and so follows.
type arrangement struct {
	s           *Service
	tx          pgx.Tx
	by          uuid.UUID
	was         []arranged
	struck, led map[uuid.UUID]span.Set // by capture, on its clock
	trimmed     bool                   // someone has looked at the cuts of one of them
}

func (s *Service) arrange(ctx context.Context, tx pgx.Tx, by uuid.UUID, ids ...uuid.UUID) (*arrangement, error) {
	if err := recordings.Hold(ctx, tx, ids...); err != nil {
		return nil, err
	}
	a := &arrangement{s: s, tx: tx, by: by, struck: map[uuid.UUID]span.Set{}, led: map[uuid.UUID]span.Set{}}
	for _, id := range ids {
		r, err := s.Recordings.In(ctx, tx, id)
		if err != nil {
			return nil, err
		}
		if r.State != "ready" {
			return nil, recordings.ErrNotReady
		}
		was, err := s.arranged(ctx, tx, id)
		if err != nil {
			return nil, err
		}
		a.was = append(a.was, was)
		a.trimmed = a.trimmed || r.CutListID != nil
		pieces, err := s.Recordings.Layout(ctx, tx, id)
		if err != nil {
			return nil, err
		}
		for _, p := range pieces {
			a.struck[p.Capture] = a.struck[p.Capture].Union(r.Struck.Intersect(span.Of(p.At)).Shift(-p.Start))
			a.led[p.Capture] = a.led[p.Capture].Union(r.Led.Intersect(span.Of(p.At)).Shift(-p.Start))
		}
	}
	return a, nil
}

func (s *Service) arranged(ctx context.Context, tx pgx.Tx, id uuid.UUID) (arranged, error) {
	var x arranged
	type row struct {
		OriginAt  time.Time
		DeletedAt *time.Time
	}
	r, err := postgres.One[row](ctx, tx, `select origin_at, deleted_at from recording where id = $1`, id)
	if err == nil {
		x = arranged{ID: id, OriginAt: r.OriginAt, DeletedAt: r.DeletedAt}
		x.Parts, err = postgres.All[arrangedPart](ctx, tx,
			`select capture_id, position, start_ms, from_ms, until_ms from recording_capture where recording_id = $1
				order by position`, id)
	}
	if err != nil {
		return x, fmt.Errorf("read of what a recording is made: %w", err)
	}
	return x, nil
}

// put makes a recording of other parts, which are brought into order and put together where one
// goes on where another ends.
func (a *arrangement) put(ctx context.Context, id uuid.UUID, origin time.Time, deleted *time.Time,
	parts []arrangedPart) error {
	parts = merged(parts)
	if _, err := a.tx.Exec(ctx, `delete from recording_capture where recording_id = $1`, id); err != nil {
		return fmt.Errorf("take a recording apart: %w", err)
	}
	for n, p := range parts {
		const insert = `insert into recording_capture (recording_id, capture_id, position, start_ms, from_ms, until_ms)
			values ($1, $2, $3, $4, $5, $6)`
		if _, err := a.tx.Exec(ctx, insert, id, p.CaptureID, n, p.StartMs, p.FromMs, p.UntilMs); err != nil {
			return fmt.Errorf("put a recording together: %w", err)
		}
	}
	const update = `update recording set origin_at = $2, deleted_at = $3, deleted_by = case
		when $3::timestamptz is null then null else deleted_by end where id = $1`
	if _, err := a.tx.Exec(ctx, update, id, origin, deleted); err != nil {
		return fmt.Errorf("put a recording together: %w", err)
	}
	return nil
}

// merged puts stretches of one capture together that adjoin and lie alike.
func merged(parts []arrangedPart) []arrangedPart {
	from := func(p arrangedPart) int64 {
		if p.FromMs == nil {
			return 0
		}
		return *p.FromMs
	}
	slices.SortStableFunc(parts, func(a, b arrangedPart) int {
		return int((a.StartMs + from(a)) - (b.StartMs + from(b)))
	})
	var out []arrangedPart
	for _, p := range parts {
		if n := len(out) - 1; n >= 0 && out[n].CaptureID == p.CaptureID && out[n].StartMs == p.StartMs &&
			out[n].UntilMs != nil && *out[n].UntilMs == from(p) {
			out[n].UntilMs = p.UntilMs
			continue
		}
		out = append(out, p)
	}
	return out
}

// done carries the cuts over to the recordings as they are now, sets editions aside that no
// longer hold what they should, and keeps how it was under kind.
func (a *arrangement) done(ctx context.Context, kind string, first, second uuid.UUID) error {
	var now []arranged
	for _, id := range []uuid.UUID{first, second} {
		is, err := a.s.arranged(ctx, a.tx, id)
		if err != nil {
			return err
		}
		now = append(now, is)
		if is.DeletedAt != nil || len(is.Parts) == 0 {
			continue
		}
		if err := a.carry(ctx, id); err != nil {
			return err
		}
		if err := a.s.Editions.Outdate(ctx, a.tx, id); err != nil {
			return err
		}
		if err := a.s.Cuts.TrimByItself(ctx, a.tx, id); err != nil {
			return err
		}
		for _, about := range []event.Kind{event.Recording, event.Cuts, event.Strip} {
			if err := recordings.Tell(ctx, a.tx, about, id); err != nil {
				return err
			}
		}
	}
	if kind == "" {
		return nil
	}
	was, err := json.Marshal(rearranged{a.was, now})
	if err != nil {
		return fmt.Errorf("write how recordings were: %w", err)
	}
	const insert = `insert into rearrangement (id, kind, recording_id, other_id, was, made_by, made_at)
		values ($1, $2, $3, $4, $5, $6, $7)`
	if _, err := a.tx.Exec(ctx, insert, uuid.Must(uuid.NewV7()), kind, first, second, was, a.by,
		a.s.Clock.Now()); err != nil {
		return fmt.Errorf("keep how recordings were: %w", err)
	}
	return nil
}

type rearranged struct {
	Was []arranged `json:"was"`
	Now []arranged `json:"now"`
}

// carry gives a recording the cuts that are kept on the clocks of its captures.
func (a *arrangement) carry(ctx context.Context, id uuid.UUID) error {
	if !a.trimmed {
		return nil
	}
	pieces, err := a.s.Recordings.Layout(ctx, a.tx, id)
	if err != nil {
		return err
	}
	var struck, led span.Set
	for _, p := range pieces {
		struck = struck.Union(a.struck[p.Capture].Shift(p.Start).Intersect(span.Of(p.At)))
		led = led.Union(a.led[p.Capture].Shift(p.Start).Intersect(span.Of(p.At)))
	}
	return a.s.Cuts.Carry(ctx, a.tx, id, a.by, struck, led)
}
