package bench

import (
	"context"
	"encoding/json"
	"net/http"
	"testing"
	"time"

	"latelantern/demo"
	"latelantern/internal/api/trimming"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/testhouse"
)

// shelves has a term of the stage hold 10,000 recordings, in 530 courses with 20 weeks of the past.
func shelves(b *testing.B, s *testhouse.Stage) {
	b.Helper()
	s.Do(`update term set first_day = '2026-05-25', last_day = '2026-12-18'`)
	s.Do(`delete from term_break`)
	s.Must(demo.Fill(context.Background(), s.House, demo.Size{Courses: 530, Students: 30}))
}

// BenchmarkAllRecordings asks for the table of 10,000 recordings: all of them, and a few by a word. Its floor is to
// read the bare rows of the recordings and to write an answer of that size.
func BenchmarkAllRecordings(b *testing.B) {
	s := testhouse.New(b, true)
	shelves(b, s)
	read := asCoordinator(b, s)
	var all trimming.AllRecordings
	timed(b, "all", func() {
		body, _ := read(http.MethodGet, "/api/recordings?by=title", "")
		s.Must(json.Unmarshal(body, &all))
	})
	timed(b, "few", func() { read(http.MethodGet, "/api/recordings?words=topic+7&light=lit", "") })
	timed(b, "floor", func() {
		type bare struct {
			ID    string
			Title string
			At    time.Time
		}
		_, err := postgres.All[bare](context.Background(), s.DB,
			`select r.id::text, r.title, l.starts_at as at from recording r join lecture l on l.id = r.lecture_id
				order by r.title`)
		s.Must(err)
		body, err := json.Marshal(all)
		s.Must(err)
		s.Must(json.Unmarshal(body, &all))
	})
	if len(all.Lines) < 10_000 {
		b.Fatalf("%d recordings", len(all.Lines))
	}
	b.Logf("%d recordings in %d courses", len(all.Lines), len(all.Courses))
}

// BenchmarkAllScroll scrolls through them in a browser. Its floor is the same scroll over a page that has nothing but
// height.
func BenchmarkAllScroll(b *testing.B) {
	s := testhouse.New(b, true)
	shelves(b, s)
	scroll(b, s, "/recordings", "document.querySelector('.el-table-v2__body > div')", ".el-table-v2__row")
}
