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

	"latelantern/demo"
	"latelantern/internal/api/planning"
	"latelantern/internal/format/rosterfile"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/testhouse"
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
	s.Do(`update term set first_day = '2026-08-31', last_day = '2026-12-18'`)
	s.Do(`delete from term_break`)
	s.Must(demo.Fill(context.Background(), s.House, demo.Size{Courses: manyCourses, Students: manyStudents}))
}

// asCoordinator asks the server as a coordinator: what it answers, and how long that took it, packed as a browser asks
// for it.
func asCoordinator(b *testing.B, s *testhouse.Stage) func(method, path, body string) ([]byte, time.Duration) {
	b.Helper()
	edge := s.Edge(nil)
	cookie := ""
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
	return read
}

// BenchmarkBoard asks for the term board of a large college, as a coordinator does. Its floor
// is to read the bare rows of the lectures and to write an answer of that size.
func BenchmarkBoard(b *testing.B) {
	s := testhouse.New(b, true)
	crowd(b, s)
	read := asCoordinator(b, s)
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
	if len(board.Courses) != manyCourses || lectures < (manyCourses-2)*manyWeeks || lit == 0 || part == 0 {
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
