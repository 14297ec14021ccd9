package bench

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/e2e/hand"
	"latelantern/internal/api/planning"
	"latelantern/internal/format/rosterfile"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/testhouse"
	"latelantern/web"
)

// A college of some size: each course has a lecture in each of its weeks, those of the past
// are recorded, published and lit.
const (
	manyCourses  = 400
	manyWeeks    = 15
	manyStudents = 60 // in each course
)

// crowd fills the term of the stage with courses, with what each lecture of the past left.
func crowd(b *testing.B, s *testhouse.Stage) {
	b.Helper()
	for _, sql := range []string{
		`update term set first_day = '2026-08-31', last_day = '2026-12-18'`,
		fmt.Sprintf(`insert into course (id, term_id, code, title)
			select gen_random_uuid(), t.id, 'CRS ' || n, 'Course number ' || n from term t, generate_series(1, %d) n`,
			manyCourses-2),
		`insert into hall (id, name) select gen_random_uuid(), 'Hall ' || n from generate_series(1, 80) n`,
		fmt.Sprintf(`insert into person (id, email, name)
			select gen_random_uuid(), 'p' || n || '@crowd.example', 'Person ' || n from generate_series(1, %d) n`,
			manyCourses*manyStudents/5),
		fmt.Sprintf(`with p as (select id, row_number() over (order by email) as n from person
			where email like '%%@crowd.example'), c as (select id, row_number() over (order by code) as n from course)
			insert into membership (course_id, person_id, role, group_name)
			select c.id, p.id, 'student', 'G' || (p.n / 80) %% 4 from c join p on p.n %% %[1]d = c.n %% %[1]d
			on conflict do nothing`, manyCourses/5),
		fmt.Sprintf(`with h as (select id, row_number() over (order by name) as n
			from hall), c as (select id, row_number() over (order by code) as n from course)
			insert into lecture (id, course_id, hall_id, starts_at, ends_at, topic)
			select gen_random_uuid(), c.id, h.id, s, s + interval '90 minutes', 'Topic of week ' || w from c
			join h on h.n = 1 + c.n %% 80, generate_series(0, %d) w,
			lateral (select '2026-08-31T08:15Z'::timestamptz + make_interval(days => (7 * w + c.n %% 5)::int,
			hours => (c.n / 80)::int) as s) x`, manyWeeks-1),
		`insert into capture (id, lecture_id, source, started_at, stopped_at)
			select gen_random_uuid(), l.id, 'desk', l.starts_at, l.ends_at from lecture l
			where l.ends_at < '2026-10-14' and l.topic like 'Topic%'`,
		`insert into track (id, capture_id, media_type, state, arrived_at)
			select gen_random_uuid(), id, 'video/webm', 'ready', stopped_at from capture`,
		`insert into recording (id, lecture_id, title, titled_at, created_at, origin_at)
			select gen_random_uuid(), lecture_id, 'A title', now(), now(), started_at from capture`,
		`insert into recording_capture (recording_id, capture_id, position, start_ms) select r.id, c.id, 0, 0
			from recording r join capture c on c.lecture_id = r.lecture_id`,
		`insert into cut_list (id, recording_id, struck, made_at) select gen_random_uuid(), id, '{}', now()
			from recording`,
		`insert into edition (id, recording_id, cut_list_id, state, asked_at)
			select gen_random_uuid(), recording_id, id, 'ready', now() from cut_list`,
		`insert into recording_cuts (recording_id, cut_list_id) select recording_id, cut_list_id from edition`,
		`insert into recording_edition (recording_id, edition_id) select recording_id, id from edition`,
		`insert into release (recording_id, course_id, own, made_at) select r.id, l.course_id, true, now()
			from recording r join lecture l on l.id = r.lecture_id`,
		`insert into lighting (id, recording_id, course_id, lit_at) select gen_random_uuid(), r.id, l.course_id, now()
			from recording r join lecture l on l.id = r.lecture_id`,
		`insert into playlist (id, course_id) select gen_random_uuid(), id from course`,
		`insert into playlist_entry (id, playlist_id, position, recording_id)
			select gen_random_uuid(), p.id, row_number() over (partition by p.id order by l.starts_at), r.id
			from recording r join lecture l on l.id = r.lecture_id join playlist p on p.course_id = l.course_id`,
		`insert into viewing_rule (id, course_id, audience, groups, download, from_kind, until_kind, made_at)
			select gen_random_uuid(), id, case when n % 4 = 0 then 'groups'
			else 'everyone' end, '{G0,G1,G2}', true, 'lecture', 'term', now()
			from (select id, row_number() over () as n from course) c`,
		`vacuum analyze`, // as the database does by itself after a while
	} {
		s.Do(sql)
	}
}

// BenchmarkBoard asks for the term board of a large college, as a coordinator does. Its floor
// is to read the bare rows of the lectures and to write an answer of that size.
func BenchmarkBoard(b *testing.B) {
	s := testhouse.New(b, true)
	crowd(b, s)
	edge := s.Edge(nil)
	cookie := ""
	// What the server does for an answer, packed as a browser asks for it.
	read := func(method, path, body string) ([]byte, time.Duration) {
		asked := httptest.NewRequest(method, path, strings.NewReader(body))
		asked.Header.Set("Content-Type", "application/json")
		asked.Header.Set("Accept-Encoding", "gzip")
		asked.Header.Set("Cookie", cookie)
		answer := httptest.NewRecorder()
		begun := time.Now()
		edge.ServeHTTP(answer, asked)
		took := time.Since(begun)
		if answer.Code != http.StatusOK {
			b.Fatalf("%s: %d %s", path, answer.Code, answer.Body)
		}
		cookie += answer.Header().Get("Set-Cookie")
		plain, err := gzip.NewReader(answer.Body)
		s.Must(err)
		text, err := io.ReadAll(plain)
		s.Must(err)
		return text, took
	}
	read(http.MethodPost, "/api/sign-in", `{"email":"coordinator@college.example","password":"`+testhouse.Password+`"}`)
	var took, floor, sheet, found []time.Duration
	var board planning.Board
	for range 21 {
		body, d := read(http.MethodGet, "/api/board", "")
		took = append(took, d)
		s.Must(json.Unmarshal(body, &board))
		_, d = read(http.MethodGet, "/api/run-sheet", "")
		sheet = append(sheet, d)
		_, d = read(http.MethodGet, "/api/find?words=topic+week+7", "")
		found = append(found, d)
		begun := time.Now()
		type bare struct {
			ID       uuid.UUID
			CourseID uuid.UUID
			StartsAt time.Time
			EndsAt   time.Time
			Topic    string
		}
		_, err := postgres.All[bare](context.Background(), s.DB,
			`select id, course_id, starts_at, ends_at, topic from lecture order by starts_at`)
		s.Must(err)
		_, err = json.Marshal(board)
		s.Must(err)
		floor = append(floor, time.Since(begun))
	}
	lectures, lit, part := 0, 0, 0
	for _, c := range board.Courses {
		lectures += len(c.Lectures)
		for _, l := range c.Lectures {
			switch l.State {
			case "lit":
				lit++
			case "part_lit":
				part++
			}
		}
	}
	if len(board.Courses) != manyCourses || lectures < manyCourses*manyWeeks || lit == 0 || part == 0 {
		b.Fatalf("%d courses with %d lectures, %d lit, %d part-lit", len(board.Courses), lectures, lit, part)
	}
	b.ReportMetric(float64(median(took).Milliseconds()), "ms/board")
	b.ReportMetric(float64(median(floor).Milliseconds()), "ms/floor")
	b.ReportMetric(float64(median(sheet).Milliseconds()), "ms/run-sheet")
	b.ReportMetric(float64(median(found).Milliseconds()), "ms/find")
	b.Logf("%d courses, %d lectures (%d lit, %d part-lit), %d students in each", len(board.Courses), lectures, lit,
		part, board.Courses[10].Students)
}

// BenchmarkRosterImport brings in 100,000 enrolments: first the look, then the application.
// Its floor is to read the file as CSV and to copy its rows into a bare table.
func BenchmarkRosterImport(b *testing.B) {
	const people, each = 20_000, 5
	s := testhouse.New(b, true)
	var file bytes.Buffer
	fmt.Fprintln(&file, "email,name,course,part,group")
	for i := range people {
		for j := range each {
			fmt.Fprintf(&file, "student%d@crowd.example,Student Number %d,CRS %d,student,Group %d\n", i, i,
				(i*7+j*61)%400, i%6)
		}
	}
	term, err := s.Schedule.CurrentTerm(context.Background())
	s.Must(err)
	by, err := s.Roster.Person(context.Background(), s.Coordinator)
	s.Must(err)
	files := []rosterfile.File{{Name: "roster.csv", Data: file.Bytes()}}
	begun := time.Now()
	look, err := s.Roster.PreviewImport(context.Background(), term.ID, by, files)
	s.Must(err)
	looked := time.Since(begun)
	if len(look.Faults) > 0 || len(look.AddSeats) != people*each {
		b.Fatalf("%d seats, %v", len(look.AddSeats), look.Faults)
	}
	begun = time.Now()
	_, err = s.Roster.ApplyImport(context.Background(), term.ID, by, files, look.Digest)
	s.Must(err)
	applied := time.Since(begun)
	kept, err := postgres.Value[int](context.Background(), s.DB,
		`select count(*) from membership m join person p on p.id = m.person_id where p.email like '%@crowd.example'`)
	if err != nil || kept != people*each {
		b.Fatalf("%d are kept (%v)", kept, err)
	}
	begun = time.Now()
	rows, err := csv.NewReader(bytes.NewReader(file.Bytes())).ReadAll()
	s.Must(err)
	s.Do(`create table bare (email text, name text, course text, part text, group_name text)`)
	values := make([][]any, len(rows))
	for i, r := range rows {
		values[i] = []any{r[0], r[1], r[2], r[3], r[4]}
	}
	_, err = s.DB.CopyFrom(context.Background(), pgx.Identifier{"bare"},
		[]string{"email", "name", "course", "part", "group_name"}, pgx.CopyFromRows(values))
	s.Must(err)
	b.ReportMetric(looked.Seconds(), "s/look")
	b.ReportMetric(applied.Seconds(), "s/apply")
	b.ReportMetric(time.Since(begun).Seconds(), "s/floor")
	// Most imports change little.
	begun = time.Now()
	again, err := s.Roster.PreviewImport(context.Background(), term.ID, by, files)
	s.Must(err)
	if !again.Empty() {
		b.Fatal("the same file once more would change something")
	}
	b.ReportMetric(time.Since(begun).Seconds(), "s/look-again")
}

// BenchmarkBoardScroll scrolls the board of a large college through in a browser, at three
// screens a second. Its floor is the same scroll over a page that has nothing but height.
func BenchmarkBoardScroll(b *testing.B) {
	s := testhouse.New(b, true)
	crowd(b, s)
	server := httptest.NewServer(s.Edge(web.Files()))
	defer server.Close()
	browser, err := hand.Open(context.Background(), b.TempDir())
	s.Must(err)
	defer browser.Close()
	p, err := browser.Page(server.URL)
	s.Must(err)
	defer p.Close()
	s.Must(p.SignIn("coordinator@college.example", testhouse.Password), p.Go("/board"),
		p.Wait(`document.querySelectorAll('.lantern').length > 50`))
	const scroll = `new Promise(done => {
		const frames = [], begun = performance.now();
		let last = begun, most = 0;
		const step = now => {
			frames.push(now - last);
			last = now;
			most = Math.max(most, document.querySelectorAll('[role=listitem]').length);
			if (now - begun > 5000) return done({median: frames.sort((a, b) => a - b)[frames.length >> 1],
				late: frames[Math.floor(frames.length * 0.95)], rows: most, at: scrollY});
			scrollTo(0, (now - begun) / 1000 * 3 * innerHeight);
			requestAnimationFrame(step);
		};
		requestAnimationFrame(step);
	})`
	type smooth struct{ Median, Late, Rows, At float64 }
	got, err := hand.Ask[smooth](p, scroll)
	s.Must(err)
	if got.At < 5000 || got.Rows > 60 {
		b.Fatalf("%+v", got)
	}
	_, err = hand.Ask[bool](p,
		`(document.body.innerHTML = '<div style="height: 40000px; background: linear-gradient(white, teal)"></div>', true)`)
	s.Must(err)
	floor, err := hand.Ask[smooth](p, scroll)
	s.Must(err)
	b.ReportMetric(got.Median, "ms/frame")
	b.ReportMetric(got.Late, "ms/frame-p95")
	b.ReportMetric(floor.Late, "ms/floor-p95")
	b.ReportMetric(got.Rows, "rows")
}
