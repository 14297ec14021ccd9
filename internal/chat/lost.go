package chat

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/layout"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/platform/seal"
)

// Lose keeps that somebody is lost now. Who they are is not kept; once a minute they count once.
func (s *Service) Lose(ctx context.Context, lecture, person uuid.UUID) error {
	minute := s.Clock.Now().Truncate(time.Minute)
	mark := seal.Of(s.Secret, "lost", lecture[:], person[:])
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, `insert into lost_sign (lecture_id, minute, mark) values ($1, $2, $3)
			on conflict do nothing`, lecture, minute, mark)
		if err != nil {
			return fmt.Errorf("keep that someone is lost: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return nil
		}
		return s.tell(ctx, tx, lecture, true, uuid.Nil)
	})
}

// Lost is how many were lost in a minute.
type Lost struct {
	Minute time.Time
	People int
}

// LostIn is how many were lost when in a lecture, in order; minutes in which nobody was are left out.
func (s *Service) LostIn(ctx context.Context, lecture uuid.UUID) ([]Lost, error) {
	out, err := postgres.All[Lost](ctx, s.DB, `select minute, count(*)::int as people from lost_sign
		where lecture_id = $1 group by minute order by minute`, lecture)
	if err != nil {
		return nil, fmt.Errorf("read who is lost: %w", err)
	}
	return out, nil
}

// LostAt is how many were lost about a moment of a recording, on its clock.
type LostAt struct {
	At     time.Duration
	People int
}

// LostOf is how many were lost when while a recording of a lecture was captured, in order: about the middle of each
// minute, or where in it something was captured.
func (s *Service) LostOf(ctx context.Context, lecture, recording uuid.UUID) ([]LostAt, error) {
	minutes, err := s.LostIn(ctx, lecture)
	if err != nil || len(minutes) == 0 {
		return nil, err
	}
	pieces, err := s.Recordings.Layout(ctx, s.DB, recording)
	if err != nil {
		return nil, err
	}
	var out []LostAt
	for _, m := range minutes {
		for _, into := range []time.Duration{30 * time.Second, 59 * time.Second, time.Second} {
			capture, at, err := s.Recordings.Running(ctx, s.DB, lecture, m.Minute.Add(into))
			if err != nil {
				return nil, err
			}
			if at, ok := layout.Place(pieces, capture, at); ok {
				out = append(out, LostAt{at, m.People})
				break
			}
		}
	}
	return out, nil
}
