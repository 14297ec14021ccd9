package bench

import (
	"context"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/demo"
	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/testhouse"
)

// rightsSQL give the recordings of a large college what it takes until it has 200,000 rules and openings: rules of
// single recordings, openings to two people each or to whoever has a link, some to everyone; and every two-hundredth
// student is shut out of something.
var rightsSQL = []string{
	`insert into viewing_rule (id, course_id, recording_id, audience, groups, uses, from_kind, until_kind,
			days_after_term, made_at)
		select gen_random_uuid(), course_id, recording_id, case when n % 3 = 0 then 'groups' else 'everyone' end,
			'{G0,G2}', '{watch,read}', case when n % 5 = 0 then 'once' else 'lecture' end, 'term', 14, made_at
		from (select *, row_number() over (order by recording_id) as n from release) e where n <= 100000`,
	`insert into opening (id, recording_id, kind, uses, from_kind, until_kind, made_at)
		select gen_random_uuid(), id,
			case when n % 1000 = 0 then 'everyone' when n % 3 = 0 then 'link' else 'people' end,
			'{watch}', 'once', 'term', created_at
		from (select *, row_number() over (order by id) as n from recording) r where n <= 98000`,
	`insert into opening_person (opening_id, person_id)
		select distinct o.id, p.id
		from (select *, row_number() over (order by id) as n from opening where kind = 'people') o
		cross join unnest(array[7, 13]) f
		join (select id, row_number() over (order by id) - 1 as n from person) p
			on p.n = o.n * f % (select count(*) from person)`,
	`insert into shut_out (id, person_id, course_id, until_at, made_at)
		select gen_random_uuid(), person_id, course_id, now() + interval '1 year', now()
		from (select *, row_number() over (order by person_id, course_id) as n from membership where role = 'student') m
		where n % 200 = 0`,
	`vacuum analyze`,
}

// BenchmarkRights asks a college of 100,000 people in 2,000 courses with 100,000 recordings and 200,000 rules and
// openings who can watch what. Its floor is one answer of the database to a question about nothing.
func BenchmarkRights(b *testing.B) {
	ctx := context.Background()
	s := testhouse.New(b, true)
	s.Do(`update term set first_day = '2026-08-31', last_day = '2026-12-18'`)
	s.Do(`delete from term_break`)
	s.Must(demo.Fill(ctx, s.House, demo.Size{Courses: 2000, Students: 250, AWeek: 9}))
	for _, statement := range rightsSQL {
		s.Do(statement)
	}
	count := func(of string) float64 {
		n, err := postgres.Value[int](ctx, s.DB, `select count(*) from `+of)
		s.Must(err)
		return float64(n)
	}
	b.Logf("%.0f people, %.0f courses, %.0f recordings, %.0f lit, %.0f rules, %.0f openings, %.0f shut out",
		count("person"), count("course"), count("recording"), count("released where lit"), count("viewing_rule"),
		count("opening"), count("shut_out"))
	chance := rand.New(rand.NewPCG(1, 2))
	ids := func(query string, args ...any) []uuid.UUID {
		out, err := postgres.Values[uuid.UUID](ctx, s.DB, query, args...)
		s.Must(err)
		return out
	}
	students := ids(`select id from person
		where exists (select 1 from membership where person_id = id and role = 'student')`)
	courses := ids(`select id from course order by id`)
	lit := ids(`select distinct recording_id from released where lit`)
	any := func(of []uuid.UUID) uuid.UUID { return of[chance.IntN(len(of))] }
	sample := func(n int, do func()) (all []float64) {
		for range n {
			begun := time.Now()
			do()
			all = append(all, float64(time.Since(begun).Microseconds())/1000)
		}
		slices.Sort(all)
		return all
	}
	report := func(name string, all []float64) {
		b.ReportMetric(all[len(all)/2], "ms/"+name)
		b.ReportMetric(all[len(all)*99/100], "ms/"+name+"-p99")
	}
	report("floor", sample(400, func() { ids(`select $1::uuid`, any(students)) }))

	open := 0
	report("student", sample(400, func() {
		open += len(watchable(ctx, s, any(students)))
	}))
	report("board", sample(100, func() {
		from := chance.IntN(len(courses) - 400)
		_, err := s.Audience.Reaches(ctx, courses[from:from+400])
		s.Must(err)
	}))
	report("preview", sample(100, func() {
		change, err := s.Audience.PreviewGiving(ctx, slices.Repeat([]uuid.UUID{any(lit)}, 3),
			[]uuid.UUID{any(courses), any(courses), any(courses)}, viewing.Giving{Lit: new(true)},
			time.Time{})
		s.Must(err)
		open += len(change.Gain)
	}))
	report("rule", sample(100, func() {
		change, err := s.Audience.Preview(ctx, audience.Scope{Course: any(courses)}, viewing.Rule{
			Audience: viewing.Everyone, Uses: viewing.WatchRead,
			Window: viewing.Window{From: viewing.FromLecture, Until: viewing.UntilTerm}})
		s.Must(err)
		open += change.Can
	}))
	report("one", sample(400, func() {
		_, err := s.Audience.Decide(ctx, any(students), any(lit))
		s.Must(err)
	}))
	if open == 0 {
		b.Fatal("nobody can watch anything")
	}
}

// watchable are the recordings that a student can watch now.
func watchable(ctx context.Context, s *testhouse.Stage, student uuid.UUID) []uuid.UUID {
	ids, err := postgres.Values[uuid.UUID](ctx, s.DB, `select e.recording_id from released e join membership m
		on m.course_id = e.course_id where m.person_id = $1 and e.lit`, student)
	s.Must(err)
	all, err := s.Audience.DecideAll(ctx, student, ids)
	s.Must(err)
	out, err := s.Audience.Opened(ctx, student)
	s.Must(err)
	for id, access := range all {
		if access.Reason == viewing.ByRule {
			out = append(out, id)
		}
	}
	return out
}
