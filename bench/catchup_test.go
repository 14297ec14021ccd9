package bench

import (
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/testhouse"
)

// hours is a course of 60 lectures of an hour, each lit, published in five stretches, with 40 slides, and watched by
// the student in some.
func hours(s *testhouse.Stage) []uuid.UUID {
	const many = 60
	s.Do(`insert into lecture (id, course_id, starts_at, ends_at, topic)
		select gen_random_uuid(), $1, $2::timestamptz - n * interval '1 day',
			$2::timestamptz - n * interval '1 day' + interval '1 hour', 'Lecture ' || n
		from generate_series(1, $3) n`, s.Course, testhouse.Now, many)
	ids, err := postgres.Values[uuid.UUID](context.Background(), s.DB,
		`select id from lecture where topic like 'Lecture %' order by starts_at`)
	s.Must(err)
	var out []uuid.UUID
	for _, l := range ids {
		out = append(out, s.Bare(l, true, &testhouse.Now))
	}
	s.Do(`update track set packed_ms = 3600000`)
	s.Do(`insert into lighting (id, recording_id, course_id, lit_at)
		select gen_random_uuid(), id, $1, $2 from recording`, s.Course, testhouse.Now)
	s.Do(`update edition set state = 'ready', length_ms = 3300000, stretches = (select jsonb_agg(jsonb_build_object(
		'Source', jsonb_build_object('Start', n * 720000000000, 'End', n * 720000000000 + 660000000000),
		'At', n * 660000000000))
		from generate_series(0, 4) n)`)
	s.Do(`insert into strip (track_id, done, measured_ms, made_at, peaks, levels, speech, slides)
		select id, true, 3600000, arrived_at, '', '',
		(select range_agg(int8range(n * 6000, n * 6000 + 5000)) from generate_series(0, 599) n),
		(select jsonb_agg(jsonb_build_object('at', n * 90000)) from generate_series(0, 39) n) from track`)
	s.Do(`insert into playlist_entry (id, playlist_id, position, recording_id)
		select gen_random_uuid(), p.id, row_number() over (order by r.created_at), r.id
		from playlist p, recording r where p.main and p.course_id = $1`, s.Course)
	s.Do(`insert into watched (person_id, capture_id, ranges, kept_at) select $1, id,
		(select range_agg(int8range(n * 300000, n * 300000 + 100000)) from generate_series(0, 9) n), $2 from capture`,
		s.Student, testhouse.Now)
	rule := &viewing.Rule{Audience: viewing.Everyone, Uses: viewing.AllUses,
		Window: viewing.Window{From: viewing.FromDate, FromAt: testhouse.Now.Add(-time.Hour), Until: viewing.UntilEver}}
	s.Must(s.Audience.SetRule(context.Background(), audience.Scope{Course: s.Course}, s.Lecturer, rule))
	s.Do(`analyze`)
	return out
}

// spent is how much processor this process and the database have taken so far.
func spent(s *testhouse.Stage) time.Duration {
	sum := cpu()
	pids, err := postgres.Values[int](context.Background(), s.DB, `select pid from pg_stat_activity`)
	s.Must(err)
	for _, pid := range pids {
		own, _ := process{pid}.cpu()
		sum += own
	}
	return sum
}

// signedIn asks the server as somebody.
func signedIn(b *testing.B, s *testhouse.Stage, who string) func(method, path, body string) {
	front, cookie := s.Edge(nil), ""
	send := func(method, path, body string) {
		asked := httptest.NewRequest(method, path, strings.NewReader(body))
		asked.Header.Set("Content-Type", "application/json")
		asked.Header.Set("Cookie", cookie)
		answer := httptest.NewRecorder()
		front.ServeHTTP(answer, asked)
		if answer.Code >= 300 {
			b.Fatalf("%s: %d %s", path, answer.Code, answer.Body)
		}
		cookie += answer.Header().Get("Set-Cookie")
	}
	send(http.MethodPost, "/api/sign-in", `{"email":"`+who+`@college.example","password":"`+testhouse.Password+`"}`)
	return send
}

// BenchmarkCatchingUp asks for the catch-up page of a student of 60 lectures (floor: the bare rows of what they
// watched), and has players tell what they play: what that takes of a core, in percent, at 100 words a second, which is
// what a thousand who watch tell. Its floor is to write the bare rows.
func BenchmarkCatchingUp(b *testing.B) {
	ctx := context.Background()
	s := testhouse.New(b, true)
	all := hours(s)
	send := signedIn(b, s, "student")
	edition, err := postgres.Values[uuid.UUID](ctx, s.DB,
		`select edition_id from recording_edition order by array_position($1::uuid[], recording_id)`, all)
	s.Must(err)
	const words = 2000
	for b.Loop() {
		timed(b, "rows", func() {
			_, err := postgres.Values[postgres.Multirange](ctx, s.DB, `select ranges from watched where person_id = $1`,
				s.Student)
			s.Must(err)
		})
		var took []time.Duration
		for range 300 {
			begun := time.Now()
			send(http.MethodGet, "/api/catch-up", "")
			took = append(took, time.Since(begun))
		}
		slices.Sort(took)
		b.ReportMetric(median(took).Seconds()*1000, "page-ms")
		b.ReportMetric(took[len(took)*99/100].Seconds()*1000, "page-p99-ms")

		before := spent(s)
		for n := range words {
			_, err := s.DB.Exec(ctx, `insert into watched (person_id, capture_id, ranges, kept_at)
				select $1, capture_id, int8multirange(int8range($3::bigint, $3::bigint + 10000)), $4
				from recording_capture where recording_id = $2 on conflict (person_id, capture_id)
				do update set ranges = watched.ranges + excluded.ranges, kept_at = excluded.kept_at`,
				s.Second, all[n%len(all)], n/len(all)*10000, testhouse.Now)
			s.Must(err)
		}
		rows := spent(s)
		for n := range words {
			at := n / len(all) * 10000
			send(http.MethodPut, "/api/watch/"+all[n%len(all)].String()+"/place", fmt.Sprintf(
				`{"edition":%q,"at":%d,"played":[{"start":%d,"end":%d}],"took_ms":10000}`, edition[n%len(all)],
				at+10000, at, at+10000))
		}
		share := func(d time.Duration) float64 { return 100 * d.Seconds() / words * 100 }
		b.ReportMetric(share(rows-before), "rows-%-of-a-core")
		b.ReportMetric(share(spent(s)-rows), "words-%-of-a-core")
	}
}
