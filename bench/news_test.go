package bench

import (
	"context"
	"fmt"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/news"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/mail"
	"latelantern/internal/release"
	"latelantern/internal/standin/posttray"
	"latelantern/internal/testdb"
	"latelantern/internal/testhouse"
)

// everyoneWatches has a course let all its students watch.
func everyoneWatches(s *testhouse.Stage, course uuid.UUID) {
	s.Must(s.Audience.SetRule(context.Background(), audience.Scope{Course: course}, s.Lecturer,
		&viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead,
			Window: viewing.Window{From: viewing.FromDate, FromAt: testhouse.Now.AddDate(-1, 0, 0),
				Until: viewing.UntilEver}}))
}

// enrol puts so many new students into a course.
func enrol(s *testhouse.Stage, course uuid.UUID, n int) {
	s.Do(`with p as (insert into person (id, email, name)
			select gen_random_uuid(), gen_random_uuid() || '@college.example', 'Student ' || n
			from generate_series(1, $2::int) n returning id)
		insert into membership (course_id, person_id, role) select $1::uuid, id, 'student' from p`, course, n)
}

// BenchmarkNews lights 15 recordings for three courses of 300 students and tells them; and hands 10,000 mails to a mail
// server, in a process that is killed on the way. Its floor is to hand the same letters over one line.
func BenchmarkNews(b *testing.B) {
	ctx := context.Background()
	dsn := testdb.DSN(b)
	s := testhouse.On(b, dsn, b.TempDir())
	tray := filepath.Join(b.TempDir(), "post")
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	s.Must(err)
	server, err := posttray.Open(listener, tray)
	s.Must(err)
	defer server.Close()
	post := mail.Post{Server: listener.Addr().String(), From: "lantern@college.example", Plain: true}
	teller := *s.At(clock.Standing(testhouse.Now)).News
	teller.Post = post
	courses := []uuid.UUID{s.Course, s.Other, uuid.New()}
	s.Do(`insert into course (id, term_id, code, title) select $1, term_id, 'THR 3', 'Third' from course limit 1`,
		courses[2])
	for _, c := range courses {
		enrol(s, c, 300)
		everyoneWatches(s, c)
	}
	var list []news.Named
	var ids []uuid.UUID
	for n := range 15 {
		id := s.Bare(s.AddLecture(s.Course, testhouse.Now.AddDate(0, 0, -n-1), "x"), true, nil)
		list, ids = append(list, news.Named{ID: id, Title: fmt.Sprintf("Lecture %d", n)}), append(ids, id)
	}
	s.Do(`update lecture set unplanned = true where id = $1`, s.Lecture) // else mails go that nobody captures it
	s.Do(`update track set state = 'ready', packed_ms = 60000, video = true, audio = true`)
	s.Do(`analyze`)
	for b.Loop() {
		begun := time.Now()
		_, err := s.Releases.Change(ctx, s.Lecturer, release.Many{Pairs: release.Every(ids, courses),
			Giving: viewing.Giving{Lit: new(true)}})
		s.Must(err)
		b.ReportMetric(time.Since(begun).Seconds(), "lit-s")
		for _, c := range courses {
			_, err := teller.Tell(ctx, s.Lecturer, news.Message{Course: c, Recordings: list})
			s.Must(err)
		}
		b.ReportMetric(time.Since(begun).Seconds(), "lit-and-told-s")
		s.Do(`delete from news`)
		thousands(b, s, &teller, dsn, tray, list[0])
	}
}

// thousands hands 10,000 mails over.
func thousands(b *testing.B, s *testhouse.Stage, teller *news.Service, dsn, tray string, of news.Named) {
	const many = 10_000
	ctx := context.Background()
	begun := time.Now()
	line, err := teller.Post.Open(ctx)
	s.Must(err)
	for n := range many {
		s.Must(line.Send(mail.Letter{To: fmt.Sprintf("s%d@college.example", n), Subject: "OTH 2: Lecture 0",
			Text: strings.Repeat("It is there. ", 40)}))
	}
	line.Close()
	b.ReportMetric(time.Since(begun).Seconds(), "floor-10000-s")
	s.Must(os.RemoveAll(tray), os.MkdirAll(tray, 0o700))

	more := many - s.Count(`select count(*) from membership where course_id = $1 and role = 'student'`, s.Other)
	enrol(s, s.Other, more)
	s.Do(`analyze`)
	begun = time.Now()
	_, err = teller.Tell(ctx, s.Lecturer, news.Message{Course: s.Other, Recordings: []news.Named{of}})
	s.Must(err)
	b.ReportMetric(time.Since(begun).Seconds(), "told-10000-s")
	begun = time.Now()
	worker := work(b, dsn, teller.Post)
	arrived := func() int {
		names, err := os.ReadDir(tray)
		s.Must(err)
		return len(names)
	}
	for arrived() < many/3 {
		time.Sleep(20 * time.Millisecond)
	}
	s.Must(worker.Process.Kill())
	_ = worker.Wait()
	worker = work(b, dsn, teller.Post)
	for s.Count(`select count(*) from news_reader where mail = 'waits'`) > 0 {
		if time.Since(begun) > 5*time.Minute {
			b.Fatalf("%d after five minutes", arrived())
		}
		time.Sleep(100 * time.Millisecond)
	}
	b.ReportMetric(time.Since(begun).Seconds(), "sent-10000-s")
	s.Must(worker.Process.Kill())
	_ = worker.Wait()
	if n := arrived(); n < many || n > many+1 {
		b.Fatalf("%d mails arrived, of %d", n, many)
	}
	b.ReportMetric(float64(arrived()-many), "twice")
}

// work starts a process that does jobs, a minute after the stage's time.
func work(b *testing.B, dsn string, post mail.Post) *exec.Cmd {
	b.Helper()
	c := exec.Command("../bin/latelantern", "work")
	c.Env = append(os.Environ(), "LATE_LANTERN_DATABASE="+dsn, "LATE_LANTERN_MEDIA="+b.TempDir(),
		"LATE_LANTERN_MAIL="+post.Server, "LATE_LANTERN_MAIL_FROM="+post.From, "LATE_LANTERN_MAIL_PLAIN=on",
		"LATE_LANTERN_WORKER=bench", "LATE_LANTERN_SMALL_COPIES=off", "LATE_LANTERN_CAPTIONER=off",
		"LATE_LANTERN_CLOCK="+testhouse.Now.Add(time.Minute).Format(time.RFC3339), "LATE_LANTERN_READ_SLIDES=off")
	if err := c.Start(); err != nil {
		b.Fatal(err)
	}
	return c
}
