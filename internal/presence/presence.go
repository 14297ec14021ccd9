// Package presence keeps who followed a lecture live: who was told that it is captured, and from when to when each was
// there.
package presence

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/doorway"
	"latelantern/internal/core/fault"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
)

// Service keeps who followed a lecture. All its fields are needed. It may be used by many at once. A call whose
// context ends gives its error and has changed nothing.
type Service struct {
	DB     *pgxpool.Pool
	Clock  clock.Clock
	Secret []byte // makes the codes of halls
}

// See keeps that a person has seen that a lecture is captured.
func (s *Service) See(ctx context.Context, person, lecture uuid.UUID) error {
	const keep = `insert into notice_seen (lecture_id, person_id, seen_at) values ($1, $2, $3) on conflict do nothing`
	if _, err := s.DB.Exec(ctx, keep, lecture, person, s.Clock.Now()); err != nil {
		return fmt.Errorf("keep who has seen the sign: %w", err)
	}
	return nil
}

// Seen reports whether a person has seen that a lecture is captured.
func (s *Service) Seen(ctx context.Context, person, lecture uuid.UUID) (bool, error) {
	seen, err := postgres.Value[bool](ctx, s.DB,
		`select exists (select 1 from notice_seen where lecture_id = $1 and person_id = $2)`, lecture, person)
	if err != nil {
		return false, fmt.Errorf("look who has seen the sign: %w", err)
	}
	return seen, nil
}

// playing is how long ago someone was last sent some of a lecture who still follows it.
const playing = 45 * time.Second

// ErrAbsent says that someone cannot be counted as present: nothing is captured now, they have not seen the sign that
// it is, or what is captured does not play for them.
var ErrAbsent = fault.Code("absent")

// Present keeps that a person follows a lecture now: the stretch in which they do goes on, or
// a new one begins. In the hall nothing has to play, if the lecture is held in one. Its error is ErrAbsent.
func (s *Service) Present(ctx context.Context, person, lecture uuid.UUID, inHall bool) error {
	now := s.Clock.Now()
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const there = `select exists (select 1 from lecture l where l.id = $1 and ($4 and l.hall_id is not null
				or exists (select 1 from following f
				where f.lecture_id = l.id and f.person_id = $2 and f.played_at > $5))
			and exists (select 1 from notice_seen n where n.lecture_id = l.id and n.person_id = $2)
			and exists (select 1 from live_capture c
			where c.lecture_id = l.id and not c.alone and c.started_at > $3::timestamptz - interval '12 hours'))`
		if ok, err := postgres.Value[bool](ctx, tx, there, lecture, person, now, inHall,
			now.Add(-playing)); err != nil {
			return fmt.Errorf("look who can follow: %w", err)
		} else if !ok {
			return ErrAbsent
		}
		const last = `select from_at from presence where lecture_id = $1 and person_id = $2 and until_at >= $3
			order by from_at desc limit 1 for no key update`
		from, err := postgres.Value[time.Time](ctx, tx, last, lecture, person, now.Add(-doorway.Lapse))
		if errors.Is(err, pgx.ErrNoRows) {
			from = now
		} else if err != nil {
			return fmt.Errorf("look who follows: %w", err)
		}
		const keep = `insert into presence (lecture_id, person_id, from_at, until_at) values ($1, $2, $3, $4)
			on conflict (lecture_id, person_id, from_at)
			do update set until_at = greatest(presence.until_at, excluded.until_at)`
		if _, err := tx.Exec(ctx, keep, lecture, person, from, now); err != nil {
			return fmt.Errorf("keep who follows: %w", err)
		}
		return nil
	})
}

// Stay is a stretch of time in which someone was in a lecture, as far as it is known.
type Stay struct {
	FromAt, UntilAt time.Time
	By              string // live, hall, or said: a moment without length
}

// Follower is somebody who followed a lecture live: a student of its course, or a guest.
type Follower struct {
	Name  string
	Guest bool
	Stays []Stay // in order
}

// Register is who followed a lecture live, and from when to when, in the order of their names.
func (s *Service) Register(ctx context.Context, lecture uuid.UUID) ([]Follower, error) {
	type row struct {
		PersonID        uuid.UUID
		Name            string
		Guest           bool
		FromAt, UntilAt time.Time
	}
	// A capture that was given up ended before that was noticed, and presence with it.
	const query = `select n.person_id, p.name, p.guest, n.from_at, greatest(n.from_at, least(n.until_at, (
			select case when bool_and(c.stopped_at is not null) then max(c.stopped_at) end from capture c
			where c.lecture_id = n.lecture_id and c.source <> 'file'))) as until_at
		from presence n join person p on p.id = n.person_id join lecture l on l.id = n.lecture_id
		where n.lecture_id = $1
		and (p.guest
		or exists (select 1 from membership m
		where m.course_id = l.course_id and m.person_id = p.id and m.role = 'student'))
		order by p.name, p.id, n.from_at`
	rows, err := postgres.All[row](ctx, s.DB, query, lecture)
	if err != nil {
		return nil, fmt.Errorf("read who followed: %w", err)
	}
	var out []Follower
	for i, r := range rows {
		if i == 0 || rows[i-1].PersonID != r.PersonID {
			out = append(out, Follower{Name: r.Name, Guest: r.Guest})
		}
		f := &out[len(out)-1]
		f.Stays = append(f.Stays, Stay{r.FromAt, r.UntilAt, "live"})
	}
	return out, nil
}

// Played keeps that someone who follows a lecture was just sent some of it.
func (s *Service) Played(ctx context.Context, person, lecture uuid.UUID) error {
	const keep = `insert into following (lecture_id, person_id, played_at) values ($1, $2, $3)
		on conflict (lecture_id, person_id) do update set played_at = excluded.played_at`
	if _, err := s.DB.Exec(ctx, keep, lecture, person, s.Clock.Now()); err != nil {
		return fmt.Errorf("keep that someone follows: %w", err)
	}
	return nil
}
