package door

import (
	"context"
	"errors"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/doorway"
	"latelantern/internal/core/event"
	"latelantern/internal/platform/postgres"
)

// Answer lets someone in who asked or was sent out, or does not. Someone who is in is sent out by it: they stay out
// of this lecture, whatever its doorway, until they are let in again. Its error is ErrNotAsked for somebody who neither
// asked nor is in.
func (s *Service) Answer(ctx context.Context, lecture, person, by uuid.UUID, letIn bool) error {
	now := s.Clock.Now()
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const answer = `update doorway_ask a set answered_at = $3, answered_by = $4, let_in = $5,
				sent_out_at = case when $5 then null when a.let_in
				or a.sent_out_at is not null then coalesce(a.sent_out_at, $3) end
			from lecture l where a.lecture_id = $1 and a.person_id = $2 and l.id = a.lecture_id returning l.course_id`
		course, err := postgres.Value[uuid.UUID](ctx, tx, answer, lecture, person, now, by, letIn)
		if errors.Is(err, pgx.ErrNoRows) && !letIn {
			// Who walked in never asked.
			const out = `insert into doorway_ask (lecture_id, person_id, asked_at, answered_at, answered_by,
				sent_out_at)
				select l.id, p.id, $3, $3, $4, $3 from lecture l join person p on p.id = $2 where l.id = $1
				and (exists (select 1 from following f where f.lecture_id = l.id and f.person_id = p.id)
				or exists (select 1 from presence n where n.lecture_id = l.id and n.person_id = p.id))
				returning (select course_id from lecture where id = $1)`
			course, err = postgres.Value[uuid.UUID](ctx, tx, out, lecture, person, now, by)
		}
		if errors.Is(err, pgx.ErrNoRows) {
			return ErrNotAsked
		}
		if err != nil {
			return fmt.Errorf("answer at a door: %w", err)
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Doorway, Course: course, Lecture: lecture})
	})
}

// LetAllIn lets everyone in who waits at the door of a lecture.
func (s *Service) LetAllIn(ctx context.Context, lecture, by uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const answer = `update doorway_ask set answered_at = $2, answered_by = $3, let_in = true
			where lecture_id = $1 and answered_at is null`
		tag, err := tx.Exec(ctx, answer, lecture, s.Clock.Now(), by)
		if err != nil {
			return fmt.Errorf("let everyone in: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return nil
		}
		course, err := postgres.Value[uuid.UUID](ctx, tx, `select course_id from lecture where id = $1`, lecture)
		if err != nil {
			return fmt.Errorf("let everyone in: %w", err)
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Doorway, Course: course, Lecture: lecture})
	})
}

// Inside is somebody who follows a lecture now.
type Inside struct {
	PersonID uuid.UUID
	Name     string
	Guest    bool
}

// Insiders lists who follows a lecture now, or sits in its hall, but for those who teach it, by name.
func (s *Service) Insiders(ctx context.Context, lecture uuid.UUID) ([]Inside, error) {
	const query = `select p.id as person_id, p.name, p.guest from person p join lecture l on l.id = $1
		where not p.coordinator
		and not exists (select 1 from membership m
		where m.course_id = l.course_id and m.person_id = p.id and m.role <> 'student')
		and not exists (select 1 from doorway_ask a
		where a.lecture_id = l.id and a.person_id = p.id and a.sent_out_at is not null)
		and (exists (select 1 from following f where f.lecture_id = l.id and f.person_id = p.id and f.played_at > $2)
			or exists (select 1 from presence n where n.lecture_id = l.id and n.person_id = p.id and n.until_at > $2))
		order by p.name, p.id`
	out, err := postgres.All[Inside](ctx, s.DB, query, lecture, s.Clock.Now().Add(-doorway.Lapse))
	if err != nil {
		return nil, fmt.Errorf("list who is in: %w", err)
	}
	return out, nil
}

// Waiting is how many wait at the doors of lectures, for those at which anyone does.
func (s *Service) Waiting(ctx context.Context, lectures []uuid.UUID) (map[uuid.UUID]int, error) {
	type row struct {
		LectureID uuid.UUID
		Waiting   int
	}
	rows, err := postgres.All[row](ctx, s.DB,
		`select lecture_id, count(*)::int as waiting from doorway_ask where lecture_id = any($1) and answered_at is null
			group by lecture_id`, lectures)
	if err != nil {
		return nil, fmt.Errorf("count who waits at doors: %w", err)
	}
	out := map[uuid.UUID]int{}
	for _, r := range rows {
		out[r.LectureID] = r.Waiting
	}
	return out, nil
}
