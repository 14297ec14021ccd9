package recordings

import (
	"context"
	"fmt"

	"github.com/google/uuid"
	"golang.org/x/sync/errgroup"

	"latelantern/internal/platform/postgres"
)

// Facts are what is known of recordings beside their lectures. A recording that is in none of them has none of it.
type Facts struct {
	Seen      map[uuid.UUID]int // by how many people who do not teach its course
	Elsewhere map[uuid.UUID]int // to how many other courses it gives light
	Captioned map[uuid.UUID]int // in how many languages its students are shown captions
}

// Facts are those of the recordings of courses.
func (s *Reader) Facts(ctx context.Context, courses []uuid.UUID) (Facts, error) {
	const (
		of = ` join recording r on r.id = x.recording_id
			join lecture l on l.id = r.lecture_id and l.course_id = any($1)`
		seen = `select x.recording_id as id, count(*)::int as n from resume_position x` + of + `
			where not exists (select 1 from membership m where m.course_id = l.course_id and m.person_id = x.person_id
				and m.role in ('lecturer', 'assistant'))
			group by 1`
		elsewhere = `select x.recording_id as id, count(*)::int as n from released x` + of + `
			where x.lit and not x.own group by 1`
		captioned = `select x.recording_id as id, count(distinct q.language)::int as n
			from recording_capture x` + of + `
			join caption q on q.capture_id = x.capture_id where q.shown_at is not null group by 1`
	)
	var out Facts
	all, within := errgroup.WithContext(ctx)
	for query, counts := range map[string]*map[uuid.UUID]int{seen: &out.Seen, elsewhere: &out.Elsewhere,
		captioned: &out.Captioned} {
		all.Go(func() (err error) {
			*counts, err = s.counted(within, query, courses)
			return err
		})
	}
	if err := all.Wait(); err != nil {
		return out, fmt.Errorf("count what is known of recordings: %w", err)
	}
	return out, nil
}

// counted are the counts that a query gives by id.
func (s *Reader) counted(ctx context.Context, query string, args ...any) (map[uuid.UUID]int, error) {
	type row struct {
		ID uuid.UUID
		N  int
	}
	rows, err := postgres.All[row](ctx, s.DB, query, args...)
	out := make(map[uuid.UUID]int, len(rows))
	for _, r := range rows {
		out[r.ID] = r.N
	}
	return out, err
}
