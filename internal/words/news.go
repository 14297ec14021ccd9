package words

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/news"
	"latelantern/internal/platform/postgres"
)

// Propositions are how much readers proposed for the captions of a recording.
type Propositions struct {
	RecordingID uuid.UUID
	Code        string // of its course
	Title       string
	N           int
	At          time.Time // the last of it was proposed
}

// ProposedOf is what was proposed in the last 60 days, and stands, for recordings of the courses that somebody teaches;
// that proposed last first.
func (s *Service) ProposedOf(ctx context.Context, person uuid.UUID) ([]Propositions, error) {
	const query = `select r.id as recording_id, k.code, coalesce(nullif(r.title, ''), l.topic) as title,
			count(distinct p.id)::int as n, max(p.made_at) as at
		from membership m join course k on k.id = m.course_id join release e on e.course_id = k.id and e.own
		join recording r on r.id = e.recording_id and r.deleted_at is null
		join lecture l on l.id = r.lecture_id join recording_capture rc on rc.recording_id = r.id
		join caption_proposal p on p.capture_id = rc.capture_id and p.left_at is null and p.made_at > $2
		join cue c on c.id = p.cue_id and c.text = p.seen
			and c.start_ms >= coalesce(rc.from_ms, 0) and (rc.until_ms is null or c.start_ms < rc.until_ms)
		where m.person_id = $1 and m.role <> 'student'
		group by r.id, l.id, k.code order by at desc, r.id limit 200`
	out, err := postgres.All[Propositions](ctx, s.DB, query, person, s.Clock.Now().Add(-news.Lasts))
	if err != nil {
		return nil, fmt.Errorf("count what readers propose: %w", err)
	}
	return out, nil
}
