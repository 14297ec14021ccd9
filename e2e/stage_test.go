// Package e2e drives whole jobs through the real interface: the built binary as its own
// process, a real database, and Chromium with a made camera and microphone.
package e2e

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/google/uuid"

	"latelantern/demo"
	"latelantern/e2e/hand"
	"latelantern/internal/assemble"
	"latelantern/internal/platform/mail"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/standin/posttray"
	"latelantern/internal/testdb"
)

// stage is a server that runs as a process of its own, with the demonstration loaded.
type stage struct {
	t       testing.TB
	address string
	env     []string
	server  *exec.Cmd
	log     *os.File
	house   *assemble.House // the same data, for looking at them
	post    *posttray.Tray
}

// binary is the program, built once.
var binary = sync.OnceValues(func() (string, error) {
	if _, err := os.Stat("../web/dist/index.html"); err != nil {
		return "", errors.New("the front end is not built: make build")
	}
	path := filepath.Join(os.TempDir(), fmt.Sprintf("latelantern-e2e-%d", os.Getpid()))
	if out, err := exec.Command("go", "build", "-o", path, "../cmd/latelantern").CombinedOutput(); err != nil {
		return "", fmt.Errorf("build: %w\n%s", err, out)
	}
	return path, nil
})

// newStage starts a server over a copy of the college with some of its talks.
func newStage(t testing.TB, talks ...string) *stage {
	t.Helper()
	l, err := loadedWith(talks)
	if err != nil {
		t.Fatal(err)
	}
	folder := t.TempDir()
	if err := os.CopyFS(folder, os.DirFS(l.folder)); err != nil {
		t.Fatal(err)
	}
	return open(t, testdb.Copy(t, l.name), folder, l.at)
}

// newStageOn loads it into a database and a folder of one's own.
func newStageOn(t testing.TB, dsn, folder string, talks ...string) *stage {
	t.Helper()
	at, err := load(dsn, folder, talks)
	if err != nil {
		t.Fatal(err)
	}
	return open(t, dsn, folder, at)
}

// open starts a server over what was loaded.
func open(t testing.TB, dsn, folder string, at time.Time) *stage {
	t.Helper()
	ctx := context.Background()
	s := &stage{t: t}
	var letters mail.Post
	var err error
	if s.post, letters, err = openPost(folder); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.post.Close() })
	media := filepath.Join(folder, "media")
	s.house, err = assemble.Open(ctx,
		assemble.Settings{Database: dsn, Media: media, Clock: at, Mail: letters, Public: "http://elsewhere.example"})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(s.house.Close)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	s.address = l.Addr().String()
	l.Close()
	s.env = append(os.Environ(), "LATE_LANTERN_DATABASE="+dsn, "LATE_LANTERN_MEDIA="+media,
		"LATE_LANTERN_ADDRESS="+s.address,
		"LATE_LANTERN_MAIL="+letters.Server, "LATE_LANTERN_MAIL_FROM="+letters.From, "LATE_LANTERN_MAIL_PLAIN=on",
		"LATE_LANTERN_WORKER=stage", "LATE_LANTERN_SMALL_COPIES=off", "LATE_LANTERN_CAPTIONER=off",
		"LATE_LANTERN_READ_SLIDES=off")
	if s.log, err = os.Create(filepath.Join(t.TempDir(), "server.log")); err != nil {
		t.Fatal(err)
	}
	s.start()
	t.Cleanup(func() {
		s.server.Process.Signal(os.Interrupt)
		s.server.Wait()
		if t.Failed() {
			b, _ := os.ReadFile(s.log.Name())
			t.Logf("the server said:\n%s", b)
			jobs, err := postgres.Value[string](ctx, s.house.DB,
				`select coalesce(string_agg(concat_ws(' ', kind, args, state, attempt, finalized_at - created_at,
					errors[array_upper(errors, 1)]), e'\n' order by id), 'none') from river_job
					where kind not like 'look%' and (state <> 'completed' or attempt > 1)`)
			t.Logf("its jobs that are not done, or were not at once: %s %v", jobs, err)
		}
		s.log.Close()
	})
	return s
}

// today is the day of the demonstration, in its zone.
func (s *stage) today() string {
	s.t.Helper()
	term, err := s.house.Schedule.CurrentTerm(context.Background())
	s.must(err)
	return s.house.Clock.Now().In(term.Zone).Format(time.DateOnly)
}

// course is the course with a code.
func (s *stage) course(code string) uuid.UUID {
	s.t.Helper()
	id, err := postgres.Value[uuid.UUID](context.Background(), s.house.DB, `select id from course where code = $1`,
		code)
	s.must(err)
	return id
}

// calendar is a file of four lectures, the first of them today; ends takes the place of the
// end of the last one, which stands in line 17.
func (s *stage) calendar(ends string) string {
	s.t.Helper()
	file, err := os.ReadFile("testdata/tides.ics")
	s.must(err)
	text := string(file)
	if ends != "" {
		text = strings.Replace(text, "DTEND;TZID=Atlantic/Faroe:DAYT190000", ends, 1)
	}
	path := filepath.Join(s.t.TempDir(), "tides.ics")
	s.must(os.WriteFile(path, []byte(strings.ReplaceAll(text, "DAY", strings.ReplaceAll(s.today(), "-", ""))), 0o600))
	return path
}

func (s *stage) base() string { return "http://" + s.address }

// until waits until something is so, on a machine that may be busy with other tests.
func (s *stage) until(what string, so func() bool) {
	s.t.Helper()
	for deadline := time.Now().Add(3 * time.Minute); !so(); time.Sleep(20 * time.Millisecond) {
		if time.Now().After(deadline) {
			s.t.Fatalf("%s: it takes too long", what)
		}
	}
}

// start starts the server and waits until it is healthy.
func (s *stage) start() {
	s.t.Helper()
	path, err := binary()
	s.must(err)
	s.server = exec.Command(path, "serve")
	// Its clock goes on from that of the stage, also when it is started again.
	s.server.Env = append(slices.Clone(s.env), "LATE_LANTERN_CLOCK="+s.house.Clock.Now().Format(time.RFC3339Nano))
	s.server.Stdout, s.server.Stderr = s.log, s.log
	s.server.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
	if err := s.server.Start(); err != nil {
		s.t.Fatal(err)
	}
	s.until("the server starts", func() bool {
		answer, err := http.Get(s.base() + "/healthz")
		if err != nil {
			return false
		}
		answer.Body.Close()
		return answer.StatusCode == http.StatusOK
	})
}

// kill ends the server as a power cut does.
func (s *stage) kill() {
	s.t.Helper()
	if err := s.server.Process.Kill(); err != nil {
		s.t.Fatal(err)
	}
	s.server.Wait()
}

// chromium starts a browser with a made camera and microphone.
func chromium(t testing.TB, flags ...chromedp.ExecAllocatorOption) *hand.Browser {
	t.Helper()
	flags = append(flags, chromedp.Flag("use-fake-device-for-media-stream", true), chromedp.Flag("mute-audio", false))
	b, err := hand.Open(context.Background(), t.TempDir(), flags...)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(b.Close)
	return b
}

// person opens a tab and signs in. Camera and microphone are allowed there.
func (s *stage) person(b *hand.Browser, who int) *hand.Page {
	s.t.Helper()
	p, err := b.Page(s.base())
	if err != nil {
		s.t.Fatal(err)
	}
	s.t.Cleanup(p.Close)
	if err := p.Allow(s.base()); err != nil {
		s.t.Fatal(err)
	}
	s.must(p.SignIn(demo.Accounts[who].Email, demo.Password))
	return p
}

// another opens a tab as the nth student, from 0, of a lecture's course beside the one of the demo, with their name.
func (s *stage) another(b *hand.Browser, lecture uuid.UUID, nth int) (*hand.Page, string) {
	s.t.Helper()
	who, err := postgres.One[struct{ Email, Name string }](context.Background(), s.house.DB,
		`select p.email, p.name from membership m join person p on p.id = m.person_id
			join lecture l on l.course_id = m.course_id
		where l.id = $1 and m.role = 'student' and p.email <> $2 order by p.email limit 1 offset $3`, lecture,
		demo.Accounts[student].Email, nth)
	s.must(err)
	p, err := b.Page(s.base())
	s.must(err)
	s.t.Cleanup(p.Close)
	s.must(p.SignIn(who.Email, demo.Password))
	return p, who.Name
}

func (s *stage) must(errs ...error) {
	s.t.Helper()
	for _, err := range errs {
		if err != nil {
			s.t.Fatal(err) // what follows was not done
		}
	}
}
