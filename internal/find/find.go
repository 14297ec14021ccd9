// Package find looks for courses, lectures, recordings, halls and people by their names. It writes nothing.
package find

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/finding"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
)

// Service finds by name. All its fields are needed. It may be used by many at once.
type Service struct {
	DB    *pgxpool.Pool
	Clock clock.Clock
}

// most is how many of a kind are weighed: of lectures those that are nearest in time, of all else the first by name.
const most = 500

// Words are what someone looks for, as Folded gives them.
type Words struct {
	list     []string
	patterns []string // of LIKE, one for each
}

// None reports whether there is nothing to look for.
func (w Words) None() bool { return len(w.list) == 0 }

// Weight is how well a folded text answers the words; 0 when a word is not in it.
func (w Words) Weight(folded string) int { return finding.Weight(w.list, folded) }

// Folded are the words of a query, without case and accents.
func (s *Service) Folded(ctx context.Context, query string) (Words, error) {
	folded, err := postgres.Value[string](ctx, s.DB, `select folded($1)`, query)
	if err != nil {
		return Words{}, fmt.Errorf("fold what is looked for: %w", err)
	}
	w := Words{list: finding.Words(folded), patterns: []string{}}
	for _, x := range w.list {
		w.patterns = append(w.patterns, "%"+x+"%") // letters and digits: nothing of a pattern
	}
	return w, nil
}

// Found is the folded text that was looked at, and how well it answers.
type Found struct {
	Folded string
	Weight int `db:"-"`
}

// Course is a course that was found.
type Course struct {
	ID          uuid.UUID
	Code, Title string
	Term        string // its name
	Found
}

// Courses are the courses that answer the words, the best first and then those of later terms. Only those in within
// are looked at; all when it is nil.
func (s *Service) Courses(ctx context.Context, w Words, within []uuid.UUID) ([]Course, error) {
	const query = `select k.id, k.code, k.title, t.name as term, folded(k.code || ' ' || k.title) as folded
		from course k join term t on t.id = k.term_id
		where folded(k.code || ' ' || k.title) like all ($1) and ($2::uuid[] is null or k.id = any($2))
		order by t.first_day desc, k.code, k.id limit $3`
	list, err := postgres.All[Course](ctx, s.DB, query, w.patterns, within, most)
	if err != nil {
		return nil, fmt.Errorf("find courses: %w", err)
	}
	return best(w, list, func(x *Course) *Found { return &x.Found }), nil
}

// Held is a lecture with one of its recordings, if it has any, that was found.
type Held struct {
	Lecture   uuid.UUID
	Recording *uuid.UUID
	StartsAt  time.Time
	Planned   string // folded: what everyone of its course may know of it
	Found            // both together
}

// Lectures are the lectures, each with each of its recordings, that answer the words, the best first and then those
// nearest in time. Only those of the courses in within, and recordings that are released there, are looked at; all
// when it is nil. What somebody may know of them is for the caller to say.
func (s *Service) Lectures(ctx context.Context, w Words, within []uuid.UUID) ([]Held, error) {
	// Each text is folded once, and what is told of it only for those that are found.
	const query = `select x.lecture, x.recording, x.starts_at, folded(x.planned) as planned,
			folded(x.planned || ' ' || x.recorded) as folded from (
		select l.id as lecture, r.id as recording, l.starts_at, k.code || ' ' || l.topic as planned,
			coalesce(r.title || ' ' || r.subject || codes.list, '') as recorded
		from lecture l join course k on k.id = l.course_id
		left join recorded r on r.lecture_id = l.id and r.deleted_at is null
		left join lateral (select coalesce(string_agg(' ' || o.code, ''), '') as list
			from release e join course o on o.id = e.course_id
			where e.recording_id = r.id and not e.own and ($2::uuid[] is null or o.id = any($2))) codes on true
		where ($2::uuid[] is null or l.course_id = any($2)
			or exists (select 1 from release e where e.recording_id = r.id and e.course_id = any($2)))
		and (not l.unplanned or r.id is not null) offset 0) x
	where folded(x.planned || ' ' || x.recorded) like all ($1)
	order by abs(extract(epoch from x.starts_at - $4)), x.lecture, x.recording limit $3`
	list, err := postgres.All[Held](ctx, s.DB, query, w.patterns, within, most, s.Clock.Now())
	if err != nil {
		return nil, fmt.Errorf("find lectures: %w", err)
	}
	return best(w, list, func(x *Held) *Found { return &x.Found }), nil
}

// Hall is a hall that was found.
type Hall struct {
	ID   uuid.UUID
	Name string
	Found
}

// Halls are the halls that answer the words, the best first.
func (s *Service) Halls(ctx context.Context, w Words) ([]Hall, error) {
	const query = `select id, name, folded(name) as folded from hall where folded(name) like all ($1)
		order by name, id limit $2`
	list, err := postgres.All[Hall](ctx, s.DB, query, w.patterns, most)
	if err != nil {
		return nil, fmt.Errorf("find halls: %w", err)
	}
	return best(w, list, func(x *Hall) *Found { return &x.Found }), nil
}

// Person is someone who was found, and the first by code of the courses that were looked at in which they are.
type Person struct {
	ID          uuid.UUID
	Name, Email string
	Course      *uuid.UUID
	Code        string
	Found
}

// People are those whose name or address answers the words, the best first; guests are not among them. Only those in
// the courses in within are looked at; everyone when it is nil.
func (s *Service) People(ctx context.Context, w Words, within []uuid.UUID) ([]Person, error) {
	const query = `select p.id, p.name, p.email, m.course_id as course, coalesce(m.code, '') as code,
			folded(p.name || ' ' || p.email) as folded
		from person_account p
		left join lateral (select m.course_id, k.code from membership m join course k on k.id = m.course_id
			where m.person_id = p.id and m.course_id = any($2) order by k.code, k.id limit 1) m on true
		where not p.guest and folded(p.name || ' ' || p.email) like all ($1)
		and ($2::uuid[] is null or m.course_id is not null)
		order by p.name, p.email limit $3`
	list, err := postgres.All[Person](ctx, s.DB, query, w.patterns, within, most)
	if err != nil {
		return nil, fmt.Errorf("find people: %w", err)
	}
	return best(w, list, func(x *Person) *Found { return &x.Found }), nil
}

// best are those that answer, the best first and else in their order.
func best[T any](w Words, list []T, found func(*T) *Found) []T {
	for i := range list {
		f := found(&list[i])
		f.Weight = w.Weight(f.Folded)
	}
	list = slices.DeleteFunc(list, func(x T) bool { return found(&x).Weight == 0 })
	slices.SortStableFunc(list, func(a, b T) int { return cmp.Compare(found(&b).Weight, found(&a).Weight) })
	return list
}
