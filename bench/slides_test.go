package bench

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"latelantern/demo"
	"latelantern/internal/assemble"
	"latelantern/internal/capture"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
	"latelantern/internal/words"
)

// BenchmarkSlidesBesideACapture reads the slides of an hour while a capture of 300 kB/s runs. Its
// floor is the same capture with nothing beside it.
func BenchmarkSlidesBesideACapture(b *testing.B) {
	const floorSeconds, rate = 40, 300_000
	ctx := b.Context()
	s := testhouse.NewWith(b, assemble.Settings{})
	// An hour of lectures, one after the other.
	var list strings.Builder
	folder := b.TempDir()
	for n := range 29 {
		talk := demo.Talks[n%len(demo.Talks)]
		film, err := demo.Film(talk.File)
		s.Must(err)
		path := filepath.Join(folder, talk.File+".mp4")
		s.Must(os.WriteFile(path, film, 0o600))
		fmt.Fprintf(&list, "file '%s'\n", path)
	}
	names, hour := filepath.Join(folder, "list"), filepath.Join(folder, "hour.mp4")
	s.Must(os.WriteFile(names, []byte(list.String()), 0o600))
	tool(b, "-f", "concat", "-safe", "0", "-i", names, "-c", "copy", "-t", "3600", hour)
	id, _ := s.File(s.AddLecture(s.Course, testhouse.Now.AddDate(0, 0, 7), "An hour"), hour)
	s.Measured(id)
	slides := s.Count(`select jsonb_array_length(slides) from strip`)

	live := filepath.Join(folder, "live.mkv")
	s.Must(testfilm.Film{Length: 30 * time.Second, Width: 1280, Height: 720,
		Encoding: []string{"-c:v", "libx264", "-preset", "ultrafast", "-b:v", "2200k", "-minrate", "2200k", "-maxrate",
			"2200k", "-bufsize", "1M", "-x264-params", "nal-hrd=cbr", "-bf", "0", "-g", "50", "-c:a", "libopus", "-b:a",
			"128k", "-cluster_time_limit", "1000"}}.Make(ctx, live))
	const filmLength = 21 * 30 * time.Second
	long := filepath.Join(folder, "long.mkv")
	tool(b, "-stream_loop", "20", "-i", live, "-c", "copy", "-cluster_time_limit", "1000", long)
	film, err := os.ReadFile(long)
	s.Must(err)
	// run captures until it is told that it is enough: how long each piece took until it was
	// kept, and how far what can be watched was behind what was kept.
	run := func(name string, enough func(second int) bool) (kept, behind []time.Duration) {
		begun, err := s.Capture.Begin(ctx,
			capture.Start{Lecture: s.AddLecture(s.Course, testhouse.Now, name), By: s.Lecturer, Source: capture.Desk})
		s.Must(err)
		at := int64(0)
		tick := time.NewTicker(time.Second)
		defer tick.Stop()
		for second := 0; !enough(second) && at+rate < int64(len(film)); second++ {
			piece := time.Now()
			at, err = s.Capture.Append(ctx, begun.Track, at, nil, bytes.NewReader(film[at:at+rate]))
			s.Must(err)
			kept = append(kept, time.Since(piece))
			if second > 10 {
				r, err := s.Recordings.Recording(ctx, begun.Recording)
				s.Must(err)
				behind = append(behind, filmLength*time.Duration(at/1000)/time.Duration(len(film)/1000)-r.Length)
			}
			<-tick.C
		}
		s.Must(s.Capture.End(ctx, begun.Recording))
		return kept, behind
	}
	floor, floorBehind := run("Alone", func(second int) bool { return second >= floorSeconds })

	track, err := postgres.Value[[16]byte](ctx, s.DB,
		`select track_id from strip where jsonb_array_length(slides) > 0 limit 1`)
	s.Must(err)
	before, began := cpu(), time.Now()
	s.Must(postgres.InTx(ctx, s.DB,
		func(tx pgx.Tx) error { return s.Queue.Add(ctx, tx, words.ReadSlides{Track: track}) }))
	var read atomic.Int64 // nanoseconds until all were read
	kept, behind := run("Beside slides that are read", func(second int) bool {
		if read.Load() == 0 && s.Count(`select count(*) from slides_read`) > 0 {
			read.Store(int64(time.Since(began)))
		}
		return read.Load() > 0
	})
	p95 := func(d []time.Duration) time.Duration { slices.Sort(d); return d[len(d)*95/100] }
	b.Logf("%d slides of an hour read in %v beside a capture, %d of them with text; the process and its tools took %.0f CPU s meanwhile", slides, time.Duration(read.Load()).Round(time.Second), s.Count(`select count(*) from slide_text where title <> ''`), (cpu() - before).Seconds())
	b.Logf("a piece kept after %v, the 95th of 100 %v (alone: %v, %v); what can be watched behind by %v, 95th %v (alone: %v, %v)", median(kept), p95(kept), median(floor), p95(floor), median(behind), p95(behind), median(floorBehind), p95(floorBehind))
	b.ReportMetric(float64(median(kept))/float64(median(floor)), "kept/alone")
	b.ReportMetric(float64(median(behind))/float64(median(floorBehind)), "behind/alone")
}
