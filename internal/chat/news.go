package chat

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/news"
	"latelantern/internal/platform/postgres"
)

// Asked is how many questions wait in a course.
type Asked struct {
	CourseID uuid.UUID
	Code     string // of the course
	N        int
	At       time.Time // the last of them was asked
}

// AskedOf are the questions of the last 60 days that wait in the courses that somebody teaches, by course; those asked
// last first.
func (s *Service) AskedOf(ctx context.Context, person uuid.UUID) ([]Asked, error) {
	const query = `select k.id as course_id, k.code, count(*)::int as n, max(x.said_at) as at
		from membership m join course k on k.id = m.course_id join lecture l on l.course_id = k.id
		join chat_line x on x.lecture_id = l.id
		where m.person_id = $1 and m.role <> 'student' and ` + waitsSQL + ` and x.said_at > $2
		group by k.id order by at desc, k.code`
	out, err := postgres.All[Asked](ctx, s.DB, query, person, s.Clock.Now().Add(-news.Lasts))
	if err != nil {
		return nil, fmt.Errorf("count questions that wait: %w", err)
	}
	return out, nil
}

// Reply is an answer that was written to a question.
type Reply struct {
	ID          uuid.UUID // of the question
	LectureID   uuid.UUID
	RecordingID *uuid.UUID // in which its moment lies; nil for none
	Code        string     // of the course of the lecture
	Text        string     // of the question
	Of          bool       // who asked is in that course
	At          time.Time  // it was answered
}

// Replies are the answers of the last 60 days to what somebody asked and that they have not seen; the last first.
func (s *Service) Replies(ctx context.Context, person uuid.UUID) ([]Reply, error) {
	const query = `select x.id, x.lecture_id, w.recording_id, k.code, x.text, x.answered_at as at,
			exists (select 1 from membership m where m.course_id = k.id and m.person_id = x.person_id) as of
		from chat_line x join lecture l on l.id = x.lecture_id join course k on k.id = l.course_id
		left join lateral (` + holdsSQL + `) w on true
		where x.person_id = $1 and x.answer <> '' and not x.answer_seen and x.state = 'answered'
			and x.withdrawn_at is null and x.taken_down_at is null and x.answered_at > $2
		order by x.answered_at desc, x.id limit 200`
	out, err := postgres.All[Reply](ctx, s.DB, query, person, s.Clock.Now().Add(-news.Lasts))
	if err != nil {
		return nil, fmt.Errorf("list answers that nobody has seen: %w", err)
	}
	return out, nil
}

// SeeReplies keeps that who asked has seen the answers to those questions, or with seen false takes that back. What
// another asked stays as it is.
func (s *Service) SeeReplies(ctx context.Context, person uuid.UUID, questions []uuid.UUID, seen bool) error {
	const keep = `update chat_line set answer_seen = $3 where person_id = $1 and id = any($2) and answer <> ''`
	if _, err := s.DB.Exec(ctx, keep, person, questions, seen); err != nil {
		return fmt.Errorf("keep which answers someone has seen: %w", err)
	}
	return nil
}
