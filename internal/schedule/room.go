package schedule

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/timetable"
	"latelantern/internal/platform/postgres"
)

// Room makes ready a lecture for the unplanned: what someone captures in the standing room
// of a course. One that was never captured is used again.
func (s *Service) Room(ctx context.Context, course uuid.UUID, topic string) (uuid.UUID, error) {
	now := s.Clock.Now()
	return s.makeReady(ctx, course, topic, now, now.Add(2*time.Hour), false)
}

// Lesson makes ready a lesson that is recorded ahead for the week of a day. One that was never
// captured is used again. Its error is of type fault.Faults for a week outside the term.
func (s *Service) Lesson(ctx context.Context, course uuid.UUID, of timetable.Day, topic string) (uuid.UUID, error) {
	term, err := s.TermOf(ctx, course)
	if err != nil {
		return uuid.Nil, err
	}
	week, ok := term.Plan.WeekOf(of)
	if of.IsZero() || !ok {
		return uuid.Nil, fault.One("week", "room.week")
	}
	from, to := timetable.On(week.Monday, 0, term.Zone), timetable.On(week.Monday.AddDate(0, 0, 7), 0, term.Zone)
	return s.makeReady(ctx, course, topic, from, to, true)
}

func (s *Service) makeReady(ctx context.Context, course uuid.UUID, topic string, from, to time.Time,
	ahead bool) (id uuid.UUID, err error) {
	topic = strings.Join(strings.Fields(topic), " ")
	if len([]rune(topic)) > 200 {
		return id, fault.One("topic", "lecture.topic")
	}
	now := s.Clock.Now()
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `select 1 from course where id = $1 for no key update`, course); err != nil {
			return fmt.Errorf("hold a course: %w", err)
		}
		const unused = `select l.id from lecture l
			where l.course_id = $1 and l.unplanned and l.ahead = $2
			and not exists (select 1 from capture c where c.lecture_id = l.id) limit 1`
		id, err = postgres.Value[uuid.UUID](ctx, tx, unused, course, ahead)
		if err != nil && !errors.Is(err, pgx.ErrNoRows) {
			return fmt.Errorf("look for an unplanned lecture: %w", err)
		}
		if errors.Is(err, pgx.ErrNoRows) {
			id = uuid.Must(uuid.NewV7())
		}
		const keep = `insert into lecture (id, course_id, starts_at, ends_at, topic, unplanned, ahead, doorway,
			changed_at) values ($1, $2, $3, $4, $5, true, $6, case when $6 then 'closed' else 'walk_in' end, $7)
			on conflict (id)
			do update
			set starts_at = excluded.starts_at, ends_at = excluded.ends_at, topic = excluded.topic,
			changed_at = excluded.changed_at`
		if _, err := tx.Exec(ctx, keep, id, course, from, to, topic, ahead, now); err != nil {
			return fmt.Errorf("make ready an unplanned lecture: %w", err)
		}
		return nil
	})
	return id, err
}
