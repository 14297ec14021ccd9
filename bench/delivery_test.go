package bench

import (
	"bufio"
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/gin-gonic/gin"

	"latelantern/internal/assemble"
	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// segmentSizes are films of which a segment has about so many bytes.
var segmentSizes = []struct {
	name          string
	width, height int
	kbit          int // a second
}{{"13kB", 320, 180, 52}, {"100kB", 640, 360, 400}, {"600kB", 1280, 720, 2400}}

// BenchmarkSegments asks for the segments of a lecture as one student does, over connections that are kept: from the
// application, which decides at each of them; from a bare handler of the same framework that sends the same bytes; and
// from nginx. All are asked by this process, over the same two cores, in turn.
func BenchmarkSegments(b *testing.B) {
	for _, size := range segmentSizes {
		b.Run(size.name, func(b *testing.B) {
			s := testhouse.New(b)
			cookie, paths, bodies := published(b, s, size.width, size.height, size.kbit)
			ways := []struct {
				name string
				to   source
			}{
				{"app", source{listen(b, assemble.NewServer(s.Edge(nil))), paths, cookie}},
				{"bare", source{listen(b, assemble.NewServer(bare(bodies))), paths, cookie}},
				{"nginx", source{nginx(b, paths, bodies), paths, cookie}},
			}
			b.ReportMetric(float64(len(bytes.Join(bodies, nil)))/float64(len(bodies))/1000, "kB/segment")
			for _, connections := range []int{1, 8, 64} {
				rates := map[string][]float64{}
				for range 5 {
					for _, w := range ways {
						rates[w.name] = append(rates[w.name], w.to.rate(b, connections, time.Second))
					}
				}
				for _, w := range ways {
					b.ReportMetric(median(rates[w.name]), fmt.Sprintf("%s/s-%d", w.name, connections))
				}
				for _, w := range ways[1:] {
					var share []float64
					for i, r := range rates["app"] {
						share = append(share, r/rates[w.name][i])
					}
					b.ReportMetric(median(share), fmt.Sprintf("of-%s-%d", w.name, connections))
				}
			}
			var before, after runtime.MemStats
			runtime.ReadMemStats(&before)
			n := ways[0].to.rate(b, 1, time.Second)
			runtime.ReadMemStats(&after)
			b.ReportMetric(float64(after.TotalAlloc-before.TotalAlloc)/n, "B-allocated/segment")
		})
	}
}

// published is a published lecture of a minute: the cookie of a student who may watch it, the paths of its segments of
// video for them, and what those hold.
func published(b *testing.B, s *testhouse.Stage, width, height, kbit int) (cookie string, paths []string,
	bodies [][]byte) {
	b.Helper()
	film := filepath.Join(b.TempDir(), "film.mp4")
	rate := strconv.Itoa(kbit) + "k"
	s.Must(testfilm.Film{Length: time.Minute, Width: width, Height: height, NoSound: true,
		Scene: fmt.Sprintf("testsrc2=s=%dx%d:r=25,noise=alls=40:allf=t", width, height),
		Encoding: []string{"-c:v", "libx264", "-preset", "ultrafast", "-b:v", rate, "-maxrate", rate, "-bufsize", rate,
			"-g", "50", "-keyint_min", "50", "-sc_threshold", "0", "-bf", "0"}}.Make(context.Background(), film))
	id, _ := s.File(s.Lecture, film)
	s.Measured(id)
	s.Must(s.Audience.SetRule(context.Background(), audience.Scope{Course: s.Course}, s.Lecturer,
		&viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead,
			Window: viewing.Window{From: viewing.FromOnce, Until: viewing.UntilEver}}))
	s.Lit(id)
	address := listen(b, assemble.NewServer(s.Edge(nil)))
	ask := func(method, path, body string) (*http.Response, []byte) {
		r, err := http.NewRequest(method, "http://"+address+path, strings.NewReader(body))
		s.Must(err)
		r.Header.Set("Content-Type", "application/json")
		r.Header.Set("Cookie", cookie)
		answer, err := http.DefaultClient.Do(r)
		s.Must(err)
		defer answer.Body.Close()
		all, err := io.ReadAll(answer.Body)
		if s.Must(err); answer.StatusCode != http.StatusOK {
			b.Fatalf("%s: %d %s", path, answer.StatusCode, all)
		}
		return answer, all
	}
	answer, _ := ask(http.MethodPost, "/api/sign-in",
		`{"email":"student@college.example","password":"`+testhouse.Password+`"}`)
	for _, c := range answer.Cookies() {
		cookie = cmp.Or(cookie, c.Name+"="+c.Value)
	}
	_, watch := ask(http.MethodGet, "/api/watch/"+id.String(), "")
	_, rest, ok := strings.Cut(string(watch), `"media":"`)
	base, _, _ := strings.Cut(rest, "index.m3u8")
	if !ok {
		b.Fatalf("%s", watch)
	}
	_, list := ask(http.MethodGet, base+"pictures.m3u8", "")
	for line := range strings.Lines(string(list)) {
		if line = strings.TrimSpace(line); strings.HasSuffix(line, ".m4s") {
			_, body := ask(http.MethodGet, base+line, "")
			paths, bodies = append(paths, base+line), append(bodies, body)
		}
	}
	if len(paths) != 30 {
		b.Fatalf("%d segments", len(paths))
	}
	return cookie, paths, bodies
}

// listen serves until the benchmark ends, and gives the address.
func listen(b *testing.B, server *http.Server) string {
	b.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		b.Fatal(err)
	}
	go func() { _ = server.Serve(l) }()
	b.Cleanup(func() { _ = server.Close() })
	return l.Addr().String()
}

// copied is how large a file is at most that a handler reads into a buffer; the system sends larger ones.
const copied = 64 << 10

// bare sends files by the number at the end of the path, in the shortest way that the framework has.
func bare(bodies [][]byte) http.Handler {
	folder, err := os.MkdirTemp("", "bare-")
	if err != nil {
		panic(err)
	}
	files := make([]*os.File, len(bodies))
	for i, body := range bodies {
		name := filepath.Join(folder, strconv.Itoa(i))
		if err := os.WriteFile(name, body, 0o600); err != nil {
			panic(err)
		}
		if files[i], err = os.Open(name); err != nil {
			panic(err)
		}
	}
	_ = os.RemoveAll(folder) // what is open stays
	buffers := sync.Pool{New: func() any { b := make([]byte, copied); return &b }}
	gin.SetMode(gin.ReleaseMode)
	e := gin.New()
	e.GET("/media/:token/pictures/:segment", func(c *gin.Context) {
		n, _ := strconv.Atoi(strings.TrimSuffix(c.Param("segment"), ".m4s"))
		size := len(bodies[n])
		c.Header("Content-Type", "video/mp4")
		c.Header("Content-Length", strconv.Itoa(size))
		if size <= copied {
			buffer := buffers.Get().(*[]byte)
			defer buffers.Put(buffer)
			_, _ = files[n].ReadAt((*buffer)[:size], 0)
			_, _ = c.Writer.Write((*buffer)[:size])
			return
		}
		again, err := os.Open("/proc/self/fd/" + strconv.Itoa(int(files[n].Fd())))
		if err != nil {
			panic(err)
		}
		defer again.Close()
		c.Writer.WriteHeaderNow()
		w := c.Writer.(interface{ Unwrap() http.ResponseWriter }).Unwrap()
		_, _ = io.Copy(w, again)
	})
	return e
}

// nginx serves the bodies as files at these paths, with its usual settings and a worker for each core.
func nginx(b *testing.B, paths []string, bodies [][]byte) string {
	b.Helper()
	folder, err := os.MkdirTemp("", "nginx-")
	if err != nil {
		b.Fatal(err)
	}
	b.Cleanup(func() { _ = os.RemoveAll(folder) })
	for i, path := range paths {
		file := filepath.Join(folder, "files", path)
		err := errors.Join(os.MkdirAll(filepath.Dir(file), 0o755), os.WriteFile(file, bodies[i], 0o644))
		if err != nil {
			b.Fatal(err)
		}
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		b.Fatal(err)
	}
	address := l.Addr().String()
	_ = l.Close()
	settings := fmt.Sprintf(`daemon off; worker_processes 2; pid %[1]s/pid; error_log stderr crit; user root;
events { worker_connections 1024; }
http {
	access_log off; sendfile on; tcp_nopush on; keepalive_requests 1000000; default_type video/mp4;
	open_file_cache max=1000;
	client_body_temp_path %[1]s/a; proxy_temp_path %[1]s/b; fastcgi_temp_path %[1]s/c; uwsgi_temp_path %[1]s/d;
	scgi_temp_path %[1]s/e;
	server { listen %[2]s; root %[1]s/files; }
}`, folder, address)
	file := filepath.Join(folder, "nginx.conf")
	if err := os.WriteFile(file, []byte(settings), 0o600); err != nil {
		b.Fatal(err)
	}
	_ = os.Chmod(folder, 0o755)
	command := exec.Command("/usr/sbin/nginx", "-c", file, "-p", folder)
	command.Stderr = os.Stderr
	if err := command.Start(); err != nil {
		b.Fatal(err)
	}
	b.Cleanup(func() { _ = command.Process.Signal(os.Interrupt); _ = command.Wait() })
	for range 100 {
		if c, err := net.Dial("tcp", address); err == nil {
			_ = c.Close()
			return address
		}
		time.Sleep(50 * time.Millisecond)
	}
	b.Fatal("nginx does not answer")
	return ""
}

// source is where segments are asked for, one after another, as someone with a cookie.
type source struct {
	address string
	paths   []string
	cookie  string
}

// rate asks for so long over so many connections that are kept, and gives how many whole answers came in a second.
func (s source) rate(b *testing.B, connections int, long time.Duration) float64 {
	b.Helper()
	until := time.Now().Add(long)
	counts, faults := make([]int, connections), make([]error, connections)
	var all sync.WaitGroup
	for i := range connections {
		all.Go(func() { counts[i], faults[i] = s.ask(i, until) })
	}
	begun := time.Now()
	all.Wait()
	if err := errors.Join(faults...); err != nil {
		b.Fatal(err)
	}
	total := 0
	for _, n := range counts {
		total += n
	}
	return float64(total) / time.Since(begun).Seconds()
}

// ask asks over one connection until a moment.
func (s source) ask(from int, until time.Time) (n int, err error) {
	c, err := net.Dial("tcp", s.address)
	if err != nil {
		return 0, err
	}
	defer c.Close()
	requests := make([][]byte, len(s.paths))
	for i, path := range s.paths {
		requests[i] = fmt.Appendf(nil, "GET %s HTTP/1.1\r\nHost: x\r\nCookie: %s\r\n\r\n", path, s.cookie)
	}
	in := bufio.NewReaderSize(c, 128<<10)
	for ; time.Now().Before(until); n++ {
		if _, err := c.Write(requests[(from*7+n)%len(requests)]); err != nil {
			return n, err
		}
		if err := whole(in); err != nil {
			return n, err
		}
	}
	return n, nil
}

var contentLength = []byte("Content-Length: ")

// whole reads one answer to its end.
func whole(in *bufio.Reader) error {
	length, first := -1, true
	for {
		line, err := in.ReadSlice('\n')
		if err != nil {
			return err
		}
		if first && !bytes.HasPrefix(line, []byte("HTTP/1.1 200")) {
			return fmt.Errorf("the answer is %s", slices.Clone(line))
		}
		first = false
		if bytes.HasPrefix(line, contentLength) {
			length = 0
			for _, d := range line[len(contentLength):] {
				if d >= '0' && d <= '9' {
					length = length*10 + int(d-'0')
				}
			}
		}
		if len(line) <= 2 {
			break
		}
	}
	if length < 0 {
		return errors.New("an answer without a length")
	}
	_, err := in.Discard(length)
	return err
}
