package door

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/chat"
	"latelantern/internal/core/doorway"
	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/platform/postgres"
)

// insideSQL are those who are in the lecture $2 since $1, or said something in it of late, or answered what was put to
// all: those who follow nothing that plays are there too.
const insideSQL = `(select f.person_id from following f where f.lecture_id = $2 and f.played_at > $1
	union select n.person_id from presence n where n.lecture_id = $2 and n.until_at > $1
	union select x.person_id from chat_line x where x.lecture_id = $2 and not x.later
		and x.said_at > $1::timestamptz - interval '10 minutes'
	union select g.person_id from asked_question q join given_answer g on g.asked_id = q.id
		where q.lecture_id = $2 and not g.later and g.given_at > $1::timestamptz - interval '10 minutes')`

// Answer lets someone in who asked or was sent out, or does not, with a word to them if there is one to say. Someone
// who is in is sent out by it: they stay out of this lecture, whatever its doorway, until they are let in again. Its
// error is ErrNotAsked for somebody who neither asked nor is in, and of type fault.Faults for a word that is too long.
func (s *Service) Answer(ctx context.Context, lecture, person, by uuid.UUID, letIn bool, word string) error {
	now := s.Clock.Now()
	word, err := cleaned(word)
	if err != nil {
		return err
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const answer = `update doorway_ask a set answered_at = $3, answered_by = $4, let_in = $5,
				word = case when $5 then '' else $6 end, sent_out_at = case when $5 then null when a.let_in
				or a.sent_out_at is not null then coalesce(a.sent_out_at, $3) end
			from lecture l where a.lecture_id = $1 and a.person_id = $2 and l.id = a.lecture_id returning l.course_id`
		course, err := postgres.Value[uuid.UUID](ctx, tx, answer, lecture, person, now, by, letIn, word)
		if errors.Is(err, pgx.ErrNoRows) && !letIn {
			// Who walked in never asked, and may be gone for a moment.
			const out = `insert into doorway_ask (lecture_id, person_id, asked_at, answered_at, answered_by,
				sent_out_at, word)
				select l.id, p.id, $4, $4, $5, $4, $6 from lecture l join person p on p.id = $3 where l.id = $2
				and p.id in ` + insideSQL + ` returning (select course_id from lecture where id = $2)`
			course, err = postgres.Value[uuid.UUID](ctx, tx, out, time.Time{}, lecture, person, now, by, word)
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

// cleaned is a word to someone on one line; nothing is one too.
func cleaned(word string) (string, error) {
	if strings.TrimSpace(word) == "" {
		return "", nil
	}
	word, err := chat.Clean("word", word)
	if err != nil {
		return "", err
	}
	word = strings.Join(strings.Fields(word), " ")
	if len([]rune(word)) > chat.MaxWhy {
		return "", fault.One("word", "doorway.word", "most", chat.MaxWhy)
	}
	return word, nil
}

// Inside is somebody who follows a lecture now.
type Inside struct {
	PersonID uuid.UUID
	Name     string
	Guest    bool
}

// Insiders lists who follows a lecture now, or sits in its hall, but for those who teach it, by name.
func (s *Service) Insiders(ctx context.Context, lecture uuid.UUID) ([]Inside, error) {
	const query = `select p.id as person_id, p.name, p.guest from person p join lecture l on l.id = $2
		where not p.coordinator
		and not exists (select 1 from membership m
		where m.course_id = l.course_id and m.person_id = p.id and m.role <> 'student')
		and not exists (select 1 from doorway_ask a
		where a.lecture_id = l.id and a.person_id = p.id and a.sent_out_at is not null)
		and p.id in ` + insideSQL + ` order by p.name, p.id`
	out, err := postgres.All[Inside](ctx, s.DB, query, s.Clock.Now().Add(-doorway.Lapse), lecture)
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
