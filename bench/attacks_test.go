package bench

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"latelantern/internal/testdb"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// attacked is a server as it is installed, which someone means ill.
type attacked struct {
	*testhouse.Stage
	process
	base   string
	cookie string // of a lecturer
}

// program is what is attacked: that of this tree, or another to compare it with.
func program() string {
	if other := os.Getenv("LATE_LANTERN_BENCH_PROGRAM"); other != "" {
		return other
	}
	return "../bin/latelantern"
}

func attack(b *testing.B) *attacked {
	b.Helper()
	dsn, media := testdb.DSN(b), b.TempDir()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		b.Fatal(err)
	}
	address := l.Addr().String()
	l.Close()
	server := exec.Command(program(), "serve")
	server.Env = append(os.Environ(), "LATE_LANTERN_DATABASE="+dsn, "LATE_LANTERN_MEDIA="+media,
		"LATE_LANTERN_ADDRESS="+address,
		"LATE_LANTERN_WORKER=bench", "LATE_LANTERN_CLOCK="+testhouse.Now.Format(time.RFC3339))
	server.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
	if err := server.Start(); err != nil {
		b.Fatal(err)
	}
	b.Cleanup(func() { _ = server.Process.Kill(); _ = server.Wait() })
	a := &attacked{process: process{server.Process.Pid}, base: "http://" + address}
	for deadline := time.Now().Add(time.Minute); ; time.Sleep(50 * time.Millisecond) {
		if answer, err := http.Get(a.base + "/healthz"); err == nil {
			answer.Body.Close()
			break
		}
		if time.Now().After(deadline) {
			b.Fatal("the server does not start")
		}
	}
	// The college comes after the server, whose tables may be older than those of this tree.
	a.Stage = testhouse.Visit(b, dsn, media)
	answer, err := http.Post(a.base+"/api/sign-in", "application/json",
		strings.NewReader(`{"email":"lecturer@college.example","password":"`+testhouse.Password+`"}`))
	a.Must(err)
	answer.Body.Close()
	a.cookie = answer.Cookies()[0].Name + "=" + answer.Cookies()[0].Value
	return a
}

// send sends a body and gives the status and the size of the answer.
func (a *attacked) send(cookie, method, path string, body io.Reader) (int, int64) {
	r, err := http.NewRequest(method, a.base+path, body)
	a.Must(err)
	r.Header.Set("Content-Type", "application/json")
	r.Header.Set("Cookie", cookie)
	answer, err := http.DefaultClient.Do(r)
	if err != nil { // a server that does not want a body may close the line while it is sent
		return 0, 0
	}
	defer answer.Body.Close()
	n, _ := io.Copy(io.Discard, answer.Body)
	return answer.StatusCode, n
}

// measured runs do and reports what it cost the server: memory beyond what it had, and time.
func (a *attacked) measured(b *testing.B, do func() (int, int64)) {
	b.Helper()
	before := a.status("VmRSS")
	a.Must(os.WriteFile(fmt.Sprintf("/proc/%d/clear_refs", a.pid), []byte("5"), 0o200)) // the peak begins anew
	own, _ := a.cpu()
	began := time.Now()
	status, size := do()
	took := time.Since(began)
	now, _ := a.cpu()
	b.ReportMetric(float64(a.status("VmHWM")-before)/1024, "MB-more")
	b.ReportMetric(took.Seconds(), "s")
	b.ReportMetric((now - own).Seconds(), "cpu-s")
	b.ReportMetric(float64(size)/1024, "kB-answer")
	b.ReportMetric(float64(status), "status")
}

func term(a *attacked) string {
	t, err := a.Schedule.CurrentTerm(a.T.Context())
	a.Must(err)
	return t.ID.String()
}

// BenchmarkAttackStranger sends 84 MB to a preview without having signed in.
func BenchmarkAttackStranger(b *testing.B) {
	a := attack(b)
	body := `{"digest":"","files":[{"name":"a.csv","data":"` + strings.Repeat("QUFB", 21<<20) + `"}]}`
	a.measured(b, func() (int, int64) {
		return a.send("", http.MethodPost, "/api/terms/"+term(a)+"/roster/preview", strings.NewReader(body))
	})
}

// BenchmarkAttackCalendar looks at a calendar of equal daily events; the first program takes 9 GB for 200 of them.
func BenchmarkAttackCalendar(b *testing.B) {
	for _, events := range []int{50, 200} {
		b.Run(fmt.Sprint(events), func(b *testing.B) {
			a := attack(b)
			var text strings.Builder
			text.WriteString("BEGIN:VCALENDAR\r\n")
			for i := range events {
				fmt.Fprintf(&text,
					"BEGIN:VEVENT\r\nUID:%d\r\nDTSTART:20260921T081500Z\r\nDTEND:20260921T094500Z\r\nRRULE:FREQ=DAILY\r\nEND:VEVENT\r\n", i)
			}
			body, err := json.Marshal(map[string]string{"calendar": text.String() + "END:VCALENDAR\r\n"})
			a.Must(err)
			a.measured(b, func() (int, int64) {
				return a.send(a.cookie, http.MethodPost, "/api/courses/"+a.Course.String()+"/timetable/preview",
					bytes.NewReader(body))
			})
		})
	}
}

// BenchmarkAttackRoster looks at an archive of some kilobytes with two million lines, each with two faults.
func BenchmarkAttackRoster(b *testing.B) {
	a := attack(b)
	var packed bytes.Buffer
	w := zip.NewWriter(&packed)
	f, err := w.Create("a.csv")
	a.Must(err)
	fmt.Fprint(f, "email,name,course,part\n")
	for range 2000 {
		fmt.Fprint(f, strings.Repeat("x,,,y\n", 1000))
	}
	a.Must(w.Close())
	body, err := json.Marshal(map[string]any{"digest": "",
		"files": []any{map[string]any{"name": "a.zip", "data": packed.Bytes()}}})
	a.Must(err)
	b.Logf("the archive has %d kB", packed.Len()>>10)
	a.measured(b, func() (int, int64) {
		return a.send(a.cookie, http.MethodPost, "/api/terms/"+term(a)+"/roster/preview", bytes.NewReader(body))
	})
}

// BenchmarkAttackCopies asks for the same copy twelve times at once: encoders is how many ran at the same time.
func BenchmarkAttackCopies(b *testing.B) {
	a := attack(b)
	path := filepath.Join(b.TempDir(), "a.mp4")
	a.Must(testfilm.Film{Length: 3 * time.Minute, Width: 640, Height: 360}.Make(b.Context(), path))
	id, _ := a.File(a.Lecture, path)
	a.Until(func() bool { return a.Count(`select count(*)::int from track where state = 'ready'`) == 1 })
	a.send(a.cookie, http.MethodPut, "/api/courses/"+a.Course.String()+"/rule",
		strings.NewReader(`{"audience":"everyone","groups":[],"uses":["watch","read","take_video"],"from":"date","from_at":"2026-10-01T00:00:00Z","until":"ever","days_after_term":0}`))
	a.send(a.cookie, http.MethodPost, "/api/recordings/"+id.String()+"/light", nil)
	var page struct{ Media, Download string }
	a.Until(func() bool {
		r, err := http.NewRequest(http.MethodGet, a.base+"/api/watch/"+id.String(), nil)
		a.Must(err)
		r.Header.Set("Cookie", a.cookie)
		answer, err := http.DefaultClient.Do(r)
		a.Must(err)
		defer answer.Body.Close()
		page.Download = ""
		a.Must(json.NewDecoder(answer.Body).Decode(&page))
		return a.Count(`select count(*)::int from recording_edition where recording_id = $1 and edition_id is not null`,
			id) == 1
	})
	stop, most := make(chan struct{}), make(chan int)
	go func() {
		n := 0
		for {
			select {
			case <-stop:
				most <- n
				return
			case <-time.After(10 * time.Millisecond):
				out, _ := exec.Command("pgrep", "-c", "-x", "ffmpeg").Output()
				var now int
				fmt.Sscan(string(out), &now)
				n = max(n, now)
			}
		}
	}()
	a.measured(b, func() (status int, size int64) {
		var all sync.WaitGroup
		for range 12 {
			all.Go(func() {
				if page.Download != "" {
					a.send(a.cookie, http.MethodGet, page.Download, nil)
				} else {
					a.send(a.cookie, http.MethodPost, "/api/watch/"+id.String()+"/copies/video", nil)
				}
			})
		}
		all.Wait()
		for page.Download == "" {
			if status, size = a.send(a.cookie, http.MethodGet, strings.Replace(page.Media, "index.m3u8", "copy/video.mp4", 1),
				nil); status == http.StatusOK {
				break
			}
			time.Sleep(50 * time.Millisecond)
		}
		return status, size
	})
	close(stop)
	b.ReportMetric(float64(<-most), "encoders")
}
