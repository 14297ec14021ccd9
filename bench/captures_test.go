package bench

import (
	"bytes"
	"context"
	"encoding/base64"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/capture"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/testdb"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// process is a running program as the kernel sees it.
type process struct{ pid int }

// status reads a line of /proc/PID/status in kilobytes, such as VmHWM, the most memory it had.
func (p process) status(name string) int64 {
	b, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", p.pid))
	if err != nil {
		return 0
	}
	for line := range strings.Lines(string(b)) {
		if rest, ok := strings.CutPrefix(line, name+":"); ok {
			n, _ := strconv.ParseInt(strings.Fields(rest)[0], 10, 64)
			return n
		}
	}
	return 0
}

// cpu is the processor time of the process itself, and of its children that have ended.
func (p process) cpu() (own, children time.Duration) {
	b, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", p.pid))
	if err != nil {
		return 0, 0
	}
	f := strings.Fields(string(b[bytes.LastIndexByte(b, ')')+1:]))
	tick := func(n int) time.Duration {
		v, _ := strconv.ParseInt(f[n], 10, 64)
		return time.Duration(v) * 10 * time.Millisecond
	}
	return tick(11) + tick(12), tick(13) + tick(14)
}

// BenchmarkFiftyCaptures takes in 50 captures of 300 kB/s at once for two minutes, by the
// server as it is installed. Its floor is to write the same to as many files, each forced to
// the disk every second.
func BenchmarkFiftyCaptures(b *testing.B) {
	const captures, seconds, rate = 50, 120, 300_000
	ctx := context.Background()
	dsn, media := testdb.DSN(b), b.TempDir()
	s := testhouse.On(b, dsn, media)
	path := filepath.Join(b.TempDir(), "live.mkv")
	s.Must(testfilm.Film{Length: 30 * time.Second, Width: 1280, Height: 720,
		Encoding: []string{"-c:v", "libx264", "-preset", "ultrafast", "-b:v", "2200k", "-minrate", "2200k", "-maxrate",
			"2200k", "-bufsize", "1M", "-x264-params", "nal-hrd=cbr", "-bf", "0", "-g", "50", "-c:a", "libopus", "-b:a",
			"128k", "-cluster_time_limit", "1000"}}.Make(ctx, path))
	part, err := os.ReadFile(path)
	s.Must(err)
	// The film is repeated as a stream, so that it stays one Matroska file.
	long := filepath.Join(b.TempDir(), "long.mkv")
	tool(b, "-stream_loop", "4", "-i", path, "-c", "copy", "-cluster_time_limit", "1000", "-t", fmt.Sprint(seconds+20),
		long)
	film, err := os.ReadFile(long)
	s.Must(err)
	b.Logf("the film has %d kB a second", len(part)/30/1000)

	l, err := net.Listen("tcp", "127.0.0.1:0")
	s.Must(err)
	base := "http://" + l.Addr().String()
	address := l.Addr().String()
	s.Must(l.Close())
	server := exec.Command("../bin/latelantern", "serve")
	server.Env = append(os.Environ(), "LATE_LANTERN_DATABASE="+dsn, "LATE_LANTERN_MEDIA="+media,
		"LATE_LANTERN_ADDRESS="+address, "LATE_LANTERN_WORKER=bench",
		"LATE_LANTERN_CLOCK="+testhouse.Now.Format(time.RFC3339))
	server.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
	s.Must(server.Start())
	defer func() { _ = server.Process.Kill(); _ = server.Wait() }()
	for {
		if answer, err := http.Get(base + "/healthz"); err == nil {
			answer.Body.Close()
			break
		}
		time.Sleep(50 * time.Millisecond)
	}
	answer, err := http.Post(base+"/api/sign-in", "application/json",
		strings.NewReader(`{"email":"coordinator@college.example","password":"`+testhouse.Password+`"}`))
	s.Must(err)
	answer.Body.Close()
	cookie := answer.Cookies()[0].Name + "=" + answer.Cookies()[0].Value
	client := &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: captures}}
	call := func(method, path string, body []byte, headers ...string) (int, string, error) {
		r, err := http.NewRequest(method, base+path, bytes.NewReader(body))
		if err != nil {
			return 0, "", err
		}
		r.Header.Set("Cookie", cookie)
		r.Header.Set("Tus-Resumable", "1.0.0")
		for i := 0; i < len(headers); i += 2 {
			r.Header.Set(headers[i], headers[i+1])
		}
		answer, err := client.Do(r)
		if err != nil {
			return 0, "", err
		}
		defer answer.Body.Close()
		_, _ = io.Copy(io.Discard, answer.Body)
		return answer.StatusCode, answer.Header.Get("Upload-Offset"), nil
	}
	var mu sync.Mutex
	var took []time.Duration
	acked := make([]int64, captures)
	tracks := make([]uuid.UUID, captures)
	var all sync.WaitGroup
	for n := range captures {
		tracks[n] = uuid.New()
		lecture := s.AddLecture(s.Course, testhouse.Now, fmt.Sprint("Lecture ", n))
		meta := "lecture " + base64.StdEncoding.EncodeToString([]byte(lecture.String())) + ",source " +
			base64.StdEncoding.EncodeToString([]byte("desk")) + ",track " +
			base64.StdEncoding.EncodeToString([]byte(tracks[n].String()))
		if status, _, err := call(http.MethodPost, "/api/append", nil, "Upload-Defer-Length", "1", "Upload-Metadata",
			meta); err != nil || status != http.StatusCreated {
			b.Fatalf("begin %d: %d %v", n, status, err)
		}
	}
	p := process{server.Process.Pid}
	ownBefore, _ := p.cpu()
	begun := time.Now()
	for n := range captures {
		all.Go(func() {
			time.Sleep(time.Duration(n) * time.Second / captures)
			tick := time.NewTicker(time.Second)
			defer tick.Stop()
			for range seconds {
				from := time.Now()
				status, at, err := call(http.MethodPatch, "/api/append/"+tracks[n].String(),
					film[acked[n]:min(acked[n]+rate, int64(len(film)))], "Content-Type",
					"application/offset+octet-stream", "Upload-Offset", strconv.FormatInt(acked[n], 10))
				if err != nil || status != http.StatusNoContent {
					b.Errorf("a piece of %d: %d %v", n, status, err)
					return
				}
				acked[n], _ = strconv.ParseInt(at, 10, 64)
				mu.Lock()
				took = append(took, time.Since(from))
				mu.Unlock()
				<-tick.C
			}
		})
	}
	all.Wait()
	wall := time.Since(begun)
	own, _ := p.cpu()
	live := s.Count(`select count(*) from track where packed_ms > 0`)
	watchable := s.Count(`select coalesce(sum(packed_ms), 0)::bigint from track`)
	lost := int64(0)
	disk, err := blobs.Open(media)
	s.Must(err)
	var sum int64
	for n, t := range tracks {
		kept, err := os.ReadFile(testhouse.Local(b, disk, "log/"+t.String()))
		s.Must(err)
		if int64(len(kept)) < acked[n] || !bytes.Equal(kept[:acked[n]], film[:acked[n]]) {
			lost += acked[n]
		}
		sum += acked[n]
	}
	memory := p.status("VmHWM")

	// The floor: the same bytes to as many files, forced to the disk each second, for ten seconds.
	var floor []time.Duration
	var floors sync.WaitGroup
	for n := range captures {
		floors.Go(func() {
			time.Sleep(time.Duration(n) * time.Second / captures)
			key := "floor/" + uuid.NewString()
			tick := time.NewTicker(time.Second)
			defer tick.Stop()
			for i := range 10 {
				from := time.Now()
				s.Must(disk.Append(key, int64(i)*rate, film[:rate]))
				mu.Lock()
				floor = append(floor, time.Since(from))
				mu.Unlock()
				<-tick.C
			}
		})
	}
	floors.Wait()
	b.ReportMetric(float64(lost), "bytes-lost")
	b.ReportMetric(float64(memory)/1000, "MB-server")
	b.ReportMetric((own-ownBefore).Seconds()/wall.Seconds(), "cores-server")
	b.ReportMetric(median(took).Seconds()*1000, "ms-acknowledged")
	b.ReportMetric(took[len(took)*95/100].Seconds()*1000, "ms-acknowledged-p95")
	b.ReportMetric(median(floor).Seconds()*1000, "ms-disk-alone")
	b.ReportMetric(float64(live), "captures-live")
	b.ReportMetric(float64(watchable)/1000/captures/float64(seconds)*100, "percent-watchable")
	b.Logf("%d MB in %v, %d pieces", sum/1_000_000, wall.Round(time.Second), len(took))
}

// BenchmarkAnHourStops is the time from the last byte of a capture of an hour until all of it
// can be watched. Its floor is the same for a capture of twenty seconds.
func BenchmarkAnHourStops(b *testing.B) {
	ctx := context.Background()
	s := testhouse.New(b)
	path, long := filepath.Join(b.TempDir(), "live.mkv"), filepath.Join(b.TempDir(), "long.mkv")
	s.Must(testfilm.Film{Length: 5 * time.Minute, Width: 1280, Height: 720, Scene: lecture,
		Encoding: []string{"-c:v", "libx264", "-preset", "ultrafast", "-bf", "0", "-g", "50", "-c:a", "libopus",
			"-cluster_time_limit", "1000"}}.Make(ctx, path))
	// stop sends a film but for its last two seconds, waits until that is cut, and measures the rest.
	stop := func(name string, length time.Duration) time.Duration {
		tool(b, "-y", "-stream_loop", "11", "-i", path, "-c", "copy", "-cluster_time_limit", "1000", "-t",
			fmt.Sprint(length.Seconds()), long)
		film, err := os.ReadFile(long)
		s.Must(err)
		begun, err := s.Capture.Begin(ctx,
			capture.Start{Lecture: s.AddLecture(s.Course, testhouse.Now, name), By: s.Lecturer, Source: capture.Desk})
		s.Must(err)
		last := int(float64(len(film)) * (1 - 2/length.Seconds()))
		at, err := s.Capture.Append(ctx, begun.Track, 0, nil, bytes.NewReader(film[:last]))
		s.Must(err)
		// What a lecture has an hour for is waited for here.
		for deadline := time.Now().Add(10 * time.Minute); ; time.Sleep(200 * time.Millisecond) {
			if r, err := s.Recordings.Recording(ctx, begun.Recording); err == nil && r.Length > length-8*time.Second {
				break
			}
			if time.Now().After(deadline) {
				b.Fatal("it is not cut into segments")
			}
		}
		total, stopped := int64(len(film)), time.Now()
		_, err = s.Capture.Append(ctx, begun.Track, at, &total, bytes.NewReader(film[last:]))
		s.Must(err)
		if r := s.Settled(begun.Recording); r.State != "ready" {
			b.Fatal(r.Fault)
		}
		if x, err := s.Recordings.Captured(ctx, begun.Recording); err != nil || x.Length < length-4*time.Second {
			b.Fatalf("it can be played for %v: %v", x.Length, err)
		}
		return time.Since(stopped)
	}
	var floor []time.Duration
	for n := range 3 {
		floor = append(floor, stop(fmt.Sprint("Twenty seconds, ", n), 20*time.Second))
	}
	b.ReportMetric(stop("An hour", time.Hour).Seconds(), "s-stop-to-watchable")
	b.ReportMetric(median(floor).Seconds(), "s-of-twenty-seconds")
}
