package library

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// Rearrangement is the last split or join of a recording, which can be undone.
type Rearrangement struct {
	ID     uuid.UUID
	Kind   string // split, join
	First  uuid.UUID
	Second uuid.UUID // what was split off, or joined
	By     string
	MadeAt time.Time
}

// Rearranged is the last split or join that a recording took part in and that can be undone; nil
// for none.
func (s *Service) Rearranged(ctx context.Context, id uuid.UUID) (*Rearrangement, error) {
	const query = `select a.id, a.kind, a.recording_id as first, coalesce(j.recording_id, a.other_id) as second,
		coalesce(p.name, '') as by, a.made_at
		from rearrangement a left join person p on p.id = a.made_by left
		join rearrangement j on j.kind = 'join' and j.other_id = a.other_id and j.id > a.id and j.undone_at is null
		where (a.recording_id = $1 or a.other_id = $1) and a.undone_at is null
		and not exists (select 1 from rearrangement n where n.id > a.id and n.id is distinct
		from j.id and n.undone_at is null
		and (n.recording_id in (a.recording_id, a.other_id) or n.other_id in (a.recording_id, a.other_id)))
		order by a.id desc limit 1`
	x, err := postgres.One[Rearrangement](ctx, s.DB, query, id)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("read what was split or joined: %w", err)
	}
	return &x, nil
}

// holdAll holds the recordings that a query names. Its error is ErrChanged when it named others meanwhile: to hold
// these too would be out of order.
func holdAll(ctx context.Context, tx pgx.Tx, query string, args ...any) error {
	named := func() ([]uuid.UUID, error) {
		all, err := postgres.Values[uuid.UUID](ctx, tx, query, args...)
		if err != nil {
			return nil, fmt.Errorf("find what is to be held: %w", err)
		}
		return all, nil
	}
	all, err := named()
	if err != nil {
		return err
	}
	if err := recordings.Hold(ctx, tx, all...); err != nil {
		return err
	}
	now, err := named()
	if err == nil && slices.ContainsFunc(now, func(id uuid.UUID) bool { return !slices.Contains(all, id) }) {
		err = ErrChanged
	}
	return err
}

// UndoArrangement makes recordings again what they were before they were split or joined; their
// cuts are those of now. Its error is ErrChanged when they were split or joined again since.
func (s *Service) UndoArrangement(ctx context.Context, recording, id, by uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const part = `select unnest(array[recording_id, other_id]) from rearrangement
			where id = $1 or kind = 'join' and other_id = (select other_id from rearrangement where id = $1)`
		if err := holdAll(ctx, tx, part, id); err != nil {
			return err
		}
		// What was split off and joined to another comes back from there first.
		const later = `select j.id from rearrangement a
			join rearrangement j on j.kind = 'join' and j.other_id = a.other_id and j.id > a.id and j.undone_at is null
			where a.id = $1 and a.kind = 'split' and a.recording_id = $2`
		joined, err := postgres.Value[uuid.UUID](ctx, tx, later, id, recording)
		if err == nil {
			err = s.undoOne(ctx, tx, joined, by)
		}
		if err != nil && !errors.Is(err, pgx.ErrNoRows) {
			return err
		}
		const of = `select exists (select 1 from rearrangement where id = $1 and (recording_id = $2 or other_id = $2))`
		if ok, err := postgres.Value[bool](ctx, tx, of, id, recording); err != nil || !ok {
			return errors.Join(err, recordings.ErrUnknown)
		}
		return s.undoOne(ctx, tx, id, by)
	})
}

func (s *Service) undoOne(ctx context.Context, tx pgx.Tx, id, by uuid.UUID) error {
	const query = `update rearrangement set undone_at = $2 where id = $1 and undone_at is null
		returning recording_id as first, other_id as second, was`
	x, err := postgres.One[struct {
		First, Second uuid.UUID
		Was           []byte
	}](ctx, tx, query, id, s.Clock.Now())
	if errors.Is(err, pgx.ErrNoRows) {
		return ErrChanged
	}
	if err != nil {
		return fmt.Errorf("undo what was split or joined: %w", err)
	}
	var then rearranged
	if err := json.Unmarshal(x.Was, &then); err != nil {
		return fmt.Errorf("read how recordings were: %w", err)
	}
	return s.undo(ctx, tx, by, x.First, x.Second, then)
}

func (s *Service) undo(ctx context.Context, tx pgx.Tx, by, first, second uuid.UUID, then rearranged) error {
	var whole []uuid.UUID // those that hold something now
	for _, x := range then.Now {
		is, err := s.arranged(ctx, tx, x.ID)
		if err != nil {
			return err
		}
		if !slices.EqualFunc(is.Parts, x.Parts, samePart) || (is.DeletedAt == nil) != (x.DeletedAt == nil) {
			return ErrChanged
		}
		if len(is.Parts) > 0 {
			whole = append(whole, x.ID)
		}
	}
	a, err := s.arrange(ctx, tx, by, whole...)
	if err != nil {
		return err
	}
	now := s.Clock.Now()
	for _, x := range then.Now {
		i := slices.IndexFunc(then.Was, func(w arranged) bool { return w.ID == x.ID })
		if i < 0 { // it was made by splitting
			if shown, err := recordings.Shown(ctx, tx, x.ID); err != nil || shown {
				return errors.Join(err, ErrJoinShown)
			}
			if err := a.put(ctx, x.ID, x.OriginAt, &now, nil); err != nil {
				return err
			}
			continue
		}
		was := then.Was[i]
		if d := was.OriginAt.Sub(x.OriginAt); d != 0 {
			if err := s.beginEarlier(ctx, tx, x.ID, was.OriginAt, -d); err != nil {
				return err
			}
		}
		if err := a.put(ctx, x.ID, was.OriginAt, was.DeletedAt, was.Parts); err != nil {
			return err
		}
	}
	return a.done(ctx, "", first, second)
}

func samePart(a, b arrangedPart) bool {
	same := func(x, y *int64) bool { return x == nil && y == nil || x != nil && y != nil && *x == *y }
	return a.CaptureID == b.CaptureID && a.StartMs == b.StartMs && same(a.FromMs, b.FromMs) &&
		same(a.UntilMs, b.UntilMs)
}
