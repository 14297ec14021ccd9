package bench

import (
	"bytes"
	"context"
	"fmt"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"syscall"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/demo"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/standin/recorder"
	"latelantern/internal/testdb"
	"latelantern/internal/testhouse"
)

// BenchmarkTenRecorders lets ten simulated recorders capture for five minutes, each two pictures
// and sound, by the server as it is installed. What is on their disks is compared with what the
// server has. There is no floor to it: nothing may be lost.
func BenchmarkTenRecorders(b *testing.B) {
	record(b, 10, func([]*recorder.Device) { time.Sleep(5 * time.Minute) })
}

// BenchmarkTwentyMinutesWithoutALine is one recorder whose line is away for so long in the middle
// of a lecture.
func BenchmarkTwentyMinutesWithoutALine(b *testing.B) {
	record(b, 1, func(all []*recorder.Device) {
		time.Sleep(time.Minute)
		all[0].Line(false)
		time.Sleep(20 * time.Minute)
		all[0].Line(true)
		time.Sleep(time.Minute)
	})
}

// record lets recorders capture while something is done with them.
func record(b *testing.B, recorders int, meanwhile func([]*recorder.Device)) {
	b.Helper()
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	dsn, media := testdb.DSN(b), b.TempDir()
	s := testhouse.On(b, dsn, media)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	s.Must(err)
	address := l.Addr().String()
	s.Must(l.Close())
	server := exec.Command("../bin/latelantern", "serve")
	server.Env = append(os.Environ(), "LATE_LANTERN_DATABASE="+dsn, "LATE_LANTERN_MEDIA="+media,
		"LATE_LANTERN_ADDRESS="+address, "LATE_LANTERN_WORKER=bench", "LATE_LANTERN_SMALL_COPIES=off",
		"LATE_LANTERN_CLOCK="+s.Clock.Now().Format(time.RFC3339))
	server.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
	s.Must(server.Start())
	defer func() { _ = server.Process.Kill(); _ = server.Wait() }()
	began := time.Now()
	for {
		if answer, err := http.Get("http://" + address + "/healthz"); err == nil {
			answer.Body.Close()
			break
		}
		time.Sleep(50 * time.Millisecond)
	}
	talk, err := demo.Film("tid-2")
	s.Must(err)
	film := filepath.Join(b.TempDir(), "talk.mp4")
	s.Must(os.WriteFile(film, talk, 0o600))
	folder := b.TempDir()
	var all []*recorder.Device
	now := s.Clock.Now()
	for n := range recorders {
		hall, err := s.Schedule.KeepHall(ctx, uuid.Nil, fmt.Sprint("Hall ", n))
		s.Must(err)
		token, err := s.Halls.Add(ctx, hall, s.Coordinator, "Recorder")
		s.Must(err)
		lecture := s.AddLecture(s.Course, now, fmt.Sprint("Lecture ", n))
		s.Do(`update lecture
			set hall_id = $2, capture_auto = true, starts_at = $3, ends_at = $4, lead_min = 0, tail_min = 0
			where id = $1`, lecture, hall, now.Add(-time.Minute), now.Add(2*time.Hour))
		d, err := recorder.Open(ctx,
			recorder.Config{Server: "http://" + address, Token: token, Folder: filepath.Join(folder, fmt.Sprint(n)),
				Studio: filepath.Join(folder, "studio"), Lecture: film, Ahead: time.Until(now.Add(time.Since(began))),
				Hoard: true})
		s.Must(err)
		all = append(all, d)
	}
	p, self := process{server.Process.Pid}, process{os.Getpid()}
	ownBefore, toolsBefore := p.cpu()
	selfBefore, _ := self.cpu()
	ended := make(chan error, recorders)
	for _, d := range all {
		go func() { ended <- d.Run(ctx) }()
	}
	begun := time.Now()
	meanwhile(all)
	own, _ := p.cpu()
	selfAfter, _ := self.cpu()
	tools := toolsOf(server.Process.Pid)
	wall := time.Since(begun)
	memory := p.status("VmHWM")
	watchable := s.Count(`select coalesce(sum(packed_ms), 0)::bigint from track where role = 'main'`)
	s.Do(`update lecture set ends_at = $1 where capture_auto`, s.Clock.Now())
	for deadline := time.Now().Add(90 *
		time.Second); s.Count(`select count(*) from track where length is null or stored < length`) >
		0; time.Sleep(200 * time.Millisecond) {
		if time.Now().After(deadline) {
			b.Fatal("the captures do not end")
		}
	}
	cancel()
	for range all {
		s.Must(<-ended)
	}

	disk, err := blobs.Open(media)
	s.Must(err)
	var sum, lost int64
	tracks, err := filepath.Glob(filepath.Join(folder, "*", "tracks", "*"))
	s.Must(err)
	for _, t := range tracks {
		pieces, err := filepath.Glob(filepath.Join(t, "*.piece"))
		s.Must(err)
		slices.Sort(pieces)
		var here []byte
		for _, name := range pieces {
			x, err := os.ReadFile(name)
			s.Must(err)
			here = append(here, x...)
		}
		there, err := os.ReadFile(testhouse.Local(b, disk, "log/"+filepath.Base(t)))
		if err != nil || !bytes.Equal(here, there) {
			lost += int64(len(here))
		}
		sum += int64(len(here))
	}
	if len(tracks) < 2*recorders {
		b.Errorf("only %d tracks were captured", len(tracks))
	}
	b.ReportMetric(float64(lost), "bytes-lost")
	b.ReportMetric(float64(memory)/1000, "MB-server")
	b.ReportMetric((own-ownBefore).Seconds()/wall.Seconds(), "cores-server")
	b.ReportMetric((tools-toolsBefore).Seconds()/wall.Seconds(), "cores-tools")
	b.ReportMetric((selfAfter-selfBefore).Seconds()/wall.Seconds(), "cores-recorders")
	b.ReportMetric(float64(watchable)/1000/float64(recorders)/wall.Seconds()*100, "percent-watchable")
	b.Logf("%d tracks, %d MB in %v", len(tracks), sum/1_000_000, wall.Round(time.Second))
}

// toolsOf is the processor time of the media tools that a server runs.
func toolsOf(pid int) time.Duration {
	var sum time.Duration
	tasks, _ := filepath.Glob(fmt.Sprintf("/proc/%d/task/*/children", pid))
	for _, t := range tasks {
		b, _ := os.ReadFile(t)
		for _, child := range bytes.Fields(b) {
			var id int
			if _, err := fmt.Sscan(string(child), &id); err == nil {
				own, waited := process{id}.cpu()
				sum += own + waited
			}
		}
	}
	return sum
}
