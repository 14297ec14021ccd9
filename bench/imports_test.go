package bench

import (
	"context"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/capture"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// imported sends a file and gives how long after its last byte something of it, and all of it,
// could be watched.
func imported(b *testing.B, s *testhouse.Stage, path string) (first, all time.Duration) {
	b.Helper()
	ctx := context.Background()
	f, err := os.Open(path)
	s.Must(err)
	defer f.Close()
	info, err := f.Stat()
	s.Must(err)
	size := info.Size()
	begun, err := s.Capture.Begin(ctx,
		capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.File, FileName: "hour.mp4", Length: &size})
	s.Must(err)
	_, err = s.Capture.Append(ctx, begun.Track, 0, nil, f)
	s.Must(err)
	came := time.Now()
	s.Until(func() bool {
		r, err := s.Recordings.Recording(ctx, begun.Recording)
		s.Must(err)
		return r.Length > 0
	})
	first = time.Since(came)
	for deadline := time.Now().Add(30 * time.Minute); ; time.Sleep(20 * time.Millisecond) {
		r, err := s.Recordings.Recording(ctx, begun.Recording)
		s.Must(err)
		if r.State == "ready" {
			return first, time.Since(came)
		}
		if r.State == "failed" || time.Now().After(deadline) {
			b.Fatalf("it is %s %q", r.State, r.Fault)
		}
	}
}

// BenchmarkImport is an hour of H.264 in closed groups of two seconds, beside a copy of it by the
// tool alone.
func BenchmarkImport(b *testing.B) {
	s := testhouse.New(b)
	s.Capture.Small = false
	file := hour(b)
	var firsts, wholes, floors []time.Duration
	for range 5 {
		first, all := imported(b, s, file)
		firsts, wholes = append(firsts, first), append(wholes, all)
		floors = append(floors,
			walled(b, "-i", file, "-map", "0:v", "-c", "copy", "-f", "mp4", "-movflags", "+frag_keyframe+delay_moov",
				filepath.Join(b.TempDir(), uuid.NewString()+".mp4"),
				"-map", "0:a", "-c", "copy", "-f", "mp4", "-frag_duration", "2000000", "-movflags", "+delay_moov",
				filepath.Join(b.TempDir(), uuid.NewString()+".mp4")))
	}
	b.Logf("after the last byte: first %v, all %v; the tool alone %v", firsts, wholes, floors)
	b.ReportMetric(median(firsts).Seconds(), "s-to-first")
	b.ReportMetric(median(wholes).Seconds(), "s-to-all")
	b.ReportMetric(median(floors).Seconds(), "s-tool-alone")
}

// BenchmarkForeignFile is 100 seconds of another kind, beside their encoding by the tool alone, with
// the same settings of the encoder.
func BenchmarkForeignFile(b *testing.B) {
	ctx := context.Background()
	s := testhouse.New(b)
	s.Capture.Small = false
	foreign := filepath.Join(b.TempDir(), "foreign.mkv")
	s.Must(testfilm.Film{Length: 100 * time.Second, Width: 1280, Height: 720, Scene: lecture,
		Encoding: []string{"-c:v", "libx264", "-preset", "ultrafast", "-crf", "20", "-pix_fmt", "yuv422p", "-g", "250",
			"-c:a", "libvorbis"}}.Make(ctx, foreign))
	var ours, theirs, begins []time.Duration
	for range 2 {
		first, all := imported(b, s, foreign)
		begins, ours = append(begins, first), append(ours, all)
		theirs = append(theirs,
			walled(b, "-i", foreign, "-vf", "format=yuv420p", "-c:v", "libx264", "-preset", "veryfast", "-crf", "23",
				"-bf", "0", "-g", "9999", "-sc_threshold", "0", "-force_key_frames", "expr:gte(t,n_forced*2)", "-c:a",
				"aac", "-b:a", "96k", filepath.Join(b.TempDir(), uuid.NewString()+".mp4")))
	}
	b.Logf("a foreign file of 100 seconds: first %v, all %v; the tool alone %v", begins, ours, theirs)
	b.ReportMetric(median(begins).Seconds(), "s-to-first-foreign")
	b.ReportMetric(median(ours).Seconds(), "s-foreign")
	b.ReportMetric(median(theirs).Seconds(), "s-foreign-tool-alone")
	b.ReportMetric(median(ours).Seconds()/median(theirs).Seconds(), "x-tool-alone")
}

// walled is how long the tool takes by the clock on the wall.
func walled(b *testing.B, args ...string) time.Duration {
	b.Helper()
	began := time.Now()
	if out, err := exec.Command("ffmpeg",
		append([]string{"-y", "-v", "error"}, args...)...).CombinedOutput(); err != nil {
		b.Fatalf("ffmpeg: %v\n%s", err, out)
	}
	return time.Since(began)
}
