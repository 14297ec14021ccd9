package library

import (
	"context"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// Join adds the parts of another recording to one: by the clock when both were captured as they
// happened and belong recordings.Together, else after its end. The other is gone then; undoing brings it
// back. Its errors are ErrJoinSame, ErrJoinShown, ErrNotReady and ErrUnknown.
func (s *Service) Join(ctx context.Context, id, other, by uuid.UUID) error {
	if id == other {
		return ErrJoinSame
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		a, err := s.arrange(ctx, tx, by, id, other)
		if err != nil {
			return err
		}
		return a.join(ctx, id, other)
	})
}

func (a *arrangement) join(ctx context.Context, id, other uuid.UUID) error {
	shown, err := recordings.Shown(ctx, a.tx, other)
	if err != nil {
		return err
	}
	if shown {
		return ErrJoinShown
	}
	one, err := a.s.Recordings.In(ctx, a.tx, id)
	if err != nil {
		return err
	}
	two, err := a.s.Recordings.In(ctx, a.tx, other)
	if err != nil {
		return err
	}
	var here, there arranged
	for _, x := range a.was {
		if x.ID == id {
			here = x
		} else {
			there = x
		}
	}
	// On the clock of the one: where the other begins.
	begins := there.OriginAt.Sub(here.OriginAt).Round(time.Millisecond)
	byClock := one.Source != "file" && two.Source != "file" && begins < one.Length+recordings.Together &&
		begins > -two.Length-recordings.Together
	if !byClock {
		begins = one.Length.Truncate(time.Millisecond) + time.Millisecond
	}
	parts := slices.Clone(here.Parts)
	for _, p := range there.Parts {
		p.StartMs += begins.Milliseconds()
		parts = append(parts, p)
	}
	origin := here.OriginAt
	if begins < 0 {
		if err := a.s.beginEarlier(ctx, a.tx, id, there.OriginAt, -begins); err != nil {
			return err
		}
		origin = there.OriginAt
		for i := range parts {
			parts[i].StartMs -= begins.Milliseconds()
		}
	}
	if err := a.put(ctx, id, origin, nil, parts); err != nil {
		return err
	}
	now := a.s.Clock.Now()
	if err := a.put(ctx, other, there.OriginAt, &now, nil); err != nil {
		return err
	}
	return a.done(ctx, "join", id, other)
}
