package news

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/news"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/platform/seal"
)

// Notice is a recording of which someone was told and that they have not seen.
type Notice struct {
	RecordingID uuid.UUID
	CourseID    uuid.UUID // that told them
	Code        string    // of the course
	Title       string
	At          time.Time // they were told
}

// Unseen are the recordings of which someone was told and that they have not seen, and can watch, those they were
// told of last first; two hundred at most.
func (s *Service) Unseen(ctx context.Context, person uuid.UUID) ([]Notice, error) {
	const query = `select x.recording_id, n.course_id, k.code, x.title, n.made_at as at
		from news_reader t join news n on n.id = t.news_id join course k on k.id = n.course_id
		join news_recording x on x.news_id = n.id and x.recording_id = any(t.unseen)
		join recording r on r.id = x.recording_id
		where t.person_id = $1 and r.deleted_at is null order by n.made_at desc, n.id, x.position limit 200`
	out, err := postgres.All[Notice](ctx, s.DB, query, person)
	if err != nil {
		return nil, fmt.Errorf("list what someone was told of: %w", err)
	}
	return out, nil
}

// Seen keeps that someone has seen that these recordings are there: they are no news to them any more.
func (s *Service) Seen(ctx context.Context, person uuid.UUID, recordings []uuid.UUID) error {
	const keep = `update news_reader set unseen = array(select x from unnest(unseen) x where x <> all($2))
		where person_id = $1 and unseen && $2`
	if _, err := s.DB.Exec(ctx, keep, person, recordings); err != nil {
		return fmt.Errorf("keep what someone has seen: %w", err)
	}
	return nil
}

// Unsee takes Seen back.
func (s *Service) Unsee(ctx context.Context, person uuid.UUID, recordings []uuid.UUID) error {
	const keep = `update news_reader set unseen = array(select x from unnest(recordings) x
			where x = any(unseen) or x = any($2))
		where person_id = $1 and recordings && $2`
	if _, err := s.DB.Exec(ctx, keep, person, recordings); err != nil {
		return fmt.Errorf("keep what someone has not seen: %w", err)
	}
	return nil
}

// Wish is how often someone wants mail of what is new.
func (s *Service) Wish(ctx context.Context, person uuid.UUID) (news.Often, error) {
	const query = `select coalesce((select often from news_wish where person_id = $1), 'daily')`
	often, err := postgres.Value[news.Often](ctx, s.DB, query, person)
	if err != nil {
		return "", fmt.Errorf("read how often someone wants mail: %w", err)
	}
	return often, nil
}

// SetWish changes it.
func (s *Service) SetWish(ctx context.Context, person uuid.UUID, often news.Often) error {
	const keep = `insert into news_wish (person_id, often) values ($1, $2)
		on conflict (person_id) do update set often = $2`
	if _, err := s.DB.Exec(ctx, keep, person, often); err != nil {
		return fmt.Errorf("keep how often someone wants mail: %w", err)
	}
	return nil
}

// StopKey is the secret part of the address at which someone says, without signing in, how often they want mail. It is
// computed, not kept.
func (s *Service) StopKey(person uuid.UUID) string {
	return seal.Key(s.Secret, "news", person[:])
}

// Behind is whose mail a key stops. Its error is ErrKey for a key that is none.
func (s *Service) Behind(ctx context.Context, key string) (person uuid.UUID, err error) {
	b, ok := seal.About(key, len(person))
	if !ok || !seal.Opens(key, s.Secret, "news", b) {
		return uuid.Nil, ErrKey
	}
	copy(person[:], b)
	id, err := postgres.Value[uuid.UUID](ctx, s.DB, `select id from person where id = $1`, person)
	if errors.Is(err, pgx.ErrNoRows) {
		return uuid.Nil, ErrKey
	}
	if err != nil {
		return uuid.Nil, fmt.Errorf("look up whose mail is stopped: %w", err)
	}
	return id, nil
}
