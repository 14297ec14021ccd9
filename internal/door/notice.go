package door

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/fault"
	"latelantern/internal/platform/postgres"
)

// MaxNotice is how many characters the sentence of a college may have.
const MaxNotice = 400

// Notice is what the college says to everyone who is captured; "" while it has no sentence of
// its own.
func (s *Service) Notice(ctx context.Context) (string, error) {
	text, err := postgres.Value[string](ctx, s.DB, `select capture_notice from college`)
	if err != nil {
		return "", fmt.Errorf("read what the college says: %w", err)
	}
	return text, nil
}

// SetNotice keeps what the college says. Its error can be fault.Faults.
func (s *Service) SetNotice(ctx context.Context, text string) error {
	text = strings.Join(strings.Fields(text), " ")
	var wrong fault.Faults
	wrong.When(utf8.RuneCountInString(text) > MaxNotice, "capture_notice", "This may have %d characters.", MaxNotice)
	if err := wrong.Err(); err != nil {
		return err
	}
	if _, err := s.DB.Exec(ctx, `update college set capture_notice = $1`, text); err != nil {
		return fmt.Errorf("keep what the college says: %w", err)
	}
	return nil
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
	seen, err := postgres.Value[bool](ctx, s.DB, `select exists (select 1 from notice_seen where lecture_id = $1 and person_id = $2)`, lecture, person)
	if err != nil {
		return false, fmt.Errorf("look who has seen the sign: %w", err)
	}
	return seen, nil
}

// lapse is how long someone who follows a lecture may not be heard of and still be there.
const lapse = 45 * time.Second

// playing is how long ago someone was last sent some of a lecture who still follows it.
const playing = 45 * time.Second

// ErrAbsent says that someone cannot be counted as present: nothing is captured now, they have not seen the sign that
// it is, or what is captured does not play for them.
var ErrAbsent = errors.New("who is there is counted while a lecture is captured, for those who have seen the sign and for whom it plays")

// Present keeps that a person follows a lecture now: the stretch in which they do goes on, or
// a new one begins. In the hall nothing has to play, if the lecture is held in one. Its error is ErrAbsent.
func (s *Service) Present(ctx context.Context, person, lecture uuid.UUID, inHall bool) error {
	now := s.Clock.Now()
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const there = `select exists (select 1 from lecture l where l.id = $1 and ($4 and l.hall_id is not null
				or exists (select 1 from following f where f.lecture_id = l.id and f.person_id = $2 and f.played_at > $5))
			and exists (select 1 from notice_seen n where n.lecture_id = l.id and n.person_id = $2)
			and exists (select 1 from capture c where c.lecture_id = l.id and not c.alone and ` + capturedNow + `))`
		if ok, err := postgres.Value[bool](ctx, tx, there, lecture, person, now, inHall, now.Add(-playing)); err != nil {
			return fmt.Errorf("look who can follow: %w", err)
		} else if !ok {
			return ErrAbsent
		}
		const last = `select from_at from presence where lecture_id = $1 and person_id = $2 and until_at >= $3 order by from_at desc limit 1 for update`
		from, err := postgres.Value[time.Time](ctx, tx, last, lecture, person, now.Add(-lapse))
		if errors.Is(err, pgx.ErrNoRows) {
			from = now
		} else if err != nil {
			return fmt.Errorf("look who follows: %w", err)
		}
		const keep = `insert into presence (lecture_id, person_id, from_at, until_at) values ($1, $2, $3, $4)
			on conflict (lecture_id, person_id, from_at) do update set until_at = greatest(presence.until_at, excluded.until_at)`
		if _, err := tx.Exec(ctx, keep, lecture, person, from, now); err != nil {
			return fmt.Errorf("keep who follows: %w", err)
		}
		return nil
	})
}

// Stay is a stretch of time in which someone followed a lecture live.
type Stay struct {
	FromAt, UntilAt time.Time
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
		where n.lecture_id = $1 and (p.guest or exists (select 1 from membership m where m.course_id = l.course_id and m.person_id = p.id and m.part = 'student'))
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
		f.Stays = append(f.Stays, Stay{r.FromAt, r.UntilAt})
	}
	return out, nil
}
