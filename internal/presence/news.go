package presence

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/news"
	"latelantern/internal/platform/postgres"
)

// Objections are how many students say something of their line in the register of a lecture.
type Objections struct {
	LectureID uuid.UUID
	Code      string // of its course
	Topic     string // of the lecture
	StartsAt  time.Time
	N         int
	At        time.Time // the last of them said it
}

// ObjectionsOf is what students said in the last 60 days, and nobody has looked at, in the registers of the courses
// that somebody teaches; what was said last first.
func (s *Service) ObjectionsOf(ctx context.Context, person uuid.UUID) ([]Objections, error) {
	const query = `select l.id as lecture_id, k.code, l.topic, l.starts_at, count(*)::int as n, max(w.said_at) as at
		from membership m join course k on k.id = m.course_id join lecture l on l.course_id = k.id
		join register_word w on w.lecture_id = l.id and w.settled_at is null and w.said_at > $2
		join membership s on s.course_id = k.id and s.person_id = w.person_id and s.role = 'student'
		where m.person_id = $1 and m.role <> 'student' group by l.id, k.code order by at desc, l.id limit 200`
	out, err := postgres.All[Objections](ctx, s.DB, query, person, s.Clock.Now().Add(-news.Lasts))
	if err != nil {
		return nil, fmt.Errorf("count what students say of registers: %w", err)
	}
	return out, nil
}
