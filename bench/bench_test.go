// Package bench measures what the product promises, each figure beside its floor, in one run:
//
//	make bench
package bench

import (
	"bytes"
	"cmp"
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/capture"
	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
	"latelantern/internal/recordings"
	"latelantern/internal/testdb"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// cpu is the processor time of this process and of all children that have ended.
func cpu() time.Duration {
	var sum time.Duration
	for _, who := range []int{syscall.RUSAGE_SELF, syscall.RUSAGE_CHILDREN} {
		var u syscall.Rusage
		if err := syscall.Getrusage(who, &u); err == nil {
			sum += time.Duration(u.Utime.Nano() + u.Stime.Nano())
		}
	}
	return sum
}

func median[T cmp.Ordered](d []T) T {
	slices.Sort(d)
	return d[len(d)/2]
}

func tool(b *testing.B, args ...string) time.Duration {
	b.Helper()
	before := cpu()
	if out, err := exec.Command("ffmpeg",
		append([]string{"-y", "-v", "error"}, args...)...).CombinedOutput(); err != nil {
		b.Fatalf("ffmpeg: %v\n%s", err, out)
	}
	return cpu() - before
}

// lecture looks like one: a slide that changes every twenty seconds, under the grain of a camera.
const lecture = "color=c=0xf2efe6:s=1280x720:r=25,drawbox=80:120:600:300:teal:fill:enable='lt(mod(t,40),20)',drawbox=640:240:500:380:teal:fill:enable='gte(mod(t,40),20)',noise=alls=4:allf=t"

// hour is an hour of 1280x720 at 25 pictures a second, in groups of two seconds, as a
// recorder makes it; made once for the run.
var hour = func() func(b *testing.B) string {
	var once sync.Once
	var path string
	return func(b *testing.B) string {
		b.Helper()
		once.Do(func() {
			folder, err := os.MkdirTemp("", "late-lantern-bench-")
			if err != nil {
				b.Fatal(err)
			}
			// Five minutes of pictures are made and repeated; the sound runs through.
			pictures, sound := filepath.Join(folder, "pictures.mp4"), filepath.Join(folder, "sound.mp4")
			for path, film := range map[string]testfilm.Film{
				pictures: {Length: 5 * time.Minute, Width: 1280, Height: 720, NoSound: true, Scene: lecture,
					Encoding: []string{"-c:v", "libx264", "-preset", "veryfast", "-crf", "26", "-bf", "2", "-g", "50",
						"-keyint_min", "50", "-sc_threshold", "0"}},
				sound: {Length: time.Hour, NoView: true, Encoding: []string{"-c:a", "aac", "-b:a", "96k"}},
			} {
				if err := film.Make(context.Background(), path); err != nil {
					b.Fatal(err)
				}
			}
			path = filepath.Join(folder, "hour.mp4")
			tool(b, "-stream_loop", "11", "-i", pictures, "-i", sound, "-map", "0:v", "-map", "1:a", "-c", "copy", "-t",
				"3600", path)
		})
		return path
	}
}()

// six cuts: both ends, and four in between, each time elsewhere.
func six(shift time.Duration) []span.Span {
	const m = time.Minute
	at := func(from, to time.Duration) span.Span { return span.Span{Start: from + shift, End: to + shift} }
	return []span.Span{{Start: 0, End: 2*m + 310*time.Millisecond + shift}, at(10*m+1110*time.Millisecond, 11*m),
		at(20*m+330*time.Millisecond, 30*m+1700*time.Millisecond), at(41*m, 41*m+900*time.Millisecond),
		at(50*m+70*time.Millisecond, 52*m+1450*time.Millisecond), at(58*m+510*time.Millisecond, 70*m)}
}

// threeHours is that hour three times over.
func threeHours(b *testing.B) string {
	b.Helper()
	path := filepath.Join(b.TempDir(), "three hours.mp4")
	tool(b, "-stream_loop", "2", "-i", hour(b), "-c", "copy", path)
	return path
}

// BenchmarkPublishingThreeHours is publishing three hours after six cuts. Every publication is
// checked against its plan before it counts as made.
func BenchmarkPublishingThreeHours(b *testing.B) {
	ctx := context.Background()
	s := testhouse.New(b)
	id, _ := s.File(s.Lecture, threeHours(b))
	for deadline := time.Now().Add(15 * time.Minute); ; time.Sleep(time.Second) {
		r, err := s.Recordings.Recording(ctx, id)
		s.Must(err)
		if _, err := s.Recordings.Strip(ctx, id, r.Length); r.State == "ready" && err == nil {
			if r.Length < 179*time.Minute {
				b.Fatalf("%v", r.Length)
			}
			break
		}
		if r.State == "failed" || time.Now().After(deadline) {
			b.Fatalf("%s %s", r.State, r.Fault)
		}
	}
	var presses, used []time.Duration
	for n := range 5 {
		for i := range 6 {
			at := time.Duration(i)*33*time.Minute + time.Duration(n)*137*time.Millisecond + 70*time.Millisecond
			s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike,
				span.Span{Start: at, End: at + 3*time.Minute + 1450*time.Millisecond}))
		}
		before, pressed := cpu(), time.Now()
		r := s.Lit(id)
		edition, err := s.Publication.Edition(ctx, *r.EditionID)
		s.Must(err)
		_, err = s.Recordings.Segment(edition.Video, 0)
		s.Must(err)
		presses, used = append(presses, time.Since(pressed)), append(used, cpu()-before)
		if n < 4 {
			for range 6 {
				s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Undo, span.Span{}))
			}
		}
	}
	b.Logf("pressed: %v; processor time: %v", presses, used)
	b.ReportMetric(median(presses).Seconds(), "s-press-to-playable")
	b.ReportMetric(median(used).Seconds(), "cpu-s-publishing")
}

// BenchmarkPublishing is publishing an hour after six cuts, beside a full encoding of that hour.
func BenchmarkPublishing(b *testing.B) {
	ctx := context.Background()
	s := testhouse.New(b)
	file := hour(b)
	id, _ := s.File(s.Lecture, file)
	if r := s.Settled(id); r.State != "ready" {
		b.Fatal(r.Fault)
	}
	s.Measured(id)
	var presses, used []time.Duration
	var last recordings.Recording
	for n := range 5 {
		for _, c := range six(time.Duration(n) * 137 * time.Millisecond) {
			s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, c))
		}
		before, pressed := cpu(), time.Now()
		last = s.Lit(id)
		edition, err := s.Publication.Edition(ctx, *last.EditionID)
		s.Must(err)
		for _, rendition := range []*recordings.Rendition{edition.Video, edition.Audio} {
			_, err := s.Recordings.Segment(rendition, 0)
			s.Must(err)
		}
		presses, used = append(presses, time.Since(pressed)), append(used, cpu()-before)
		if n < 4 {
			for range 6 {
				s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Undo, span.Span{}))
			}
		}
	}
	b.Logf("pressed: %v; processor time: %v", presses, used)
	frames, sound := wrong(b, s, last)
	full := tool(b, "-i", file, "-c:v", "libx264", "-preset", "veryfast", "-crf", "20", "-c:a", "aac",
		filepath.Join(b.TempDir(), "full.mp4"))
	press, share := median(presses), median(used)
	b.ReportMetric(press.Seconds(), "s-press-to-playable")
	b.ReportMetric(share.Seconds(), "cpu-s-publishing")
	b.ReportMetric(full.Seconds(), "cpu-s-full-encoding")
	b.ReportMetric(100*share.Seconds()/full.Seconds(), "%-of-full")
	b.ReportMetric(float64(frames), "wrong-pictures")
	b.ReportMetric(float64(sound.Milliseconds()), "ms-sound-off-at-most")
}

// wrong counts the pictures of an edition that are not the ones its cut list keeps, and
// says how far the sound is from where it belongs at most. Both are compared with what is
// read from the recording as it was captured.
func wrong(b *testing.B, s *testhouse.Stage, r recordings.Recording) (int, time.Duration) {
	b.Helper()
	ctx := context.Background()
	edition, err := s.Publication.Edition(ctx, *r.EditionID)
	s.Must(err)
	whole, err := s.Recordings.Captured(ctx, r.ID)
	s.Must(err)
	read := func(x *recordings.Presentation) ([]int, []time.Duration) {
		folder := b.TempDir()
		paths := map[string]*recordings.Rendition{filepath.Join(folder, "pictures.mp4"): x.Video,
			filepath.Join(folder, "sound.mp4"): x.Audio}
		for path, rendition := range paths {
			f, err := os.Create(path)
			s.Must(err, s.Recordings.WriteRendition(f, rendition), f.Close())
		}
		numbers, err := testfilm.Numbers(ctx, filepath.Join(folder, "pictures.mp4"))
		s.Must(err)
		clicks, err := testfilm.Clicks(ctx, filepath.Join(folder, "sound.mp4"))
		s.Must(err)
		return numbers, clicks
	}
	was, heard := read(whole)
	is, hears := read(edition)
	const frame = 40 * time.Millisecond
	var want []int
	for _, x := range edition.Stretches {
		want = append(want,
			was[min(len(was), int((x.Source.Start+frame/2)/frame)):min(len(was), int((x.Source.End+frame/2)/frame))]...)
	}
	bad := max(len(is), len(want)) - min(len(is), len(want))
	for i := range min(len(is), len(want)) {
		if is[i] != want[i] {
			bad++
		}
	}
	var off time.Duration
	compared := 0
	for _, x := range edition.Stretches {
		for _, at := range heard {
			if at < x.Source.Start+20*time.Millisecond || at > x.Source.End-30*time.Millisecond {
				continue
			}
			place := x.At + at - x.Source.Start
			i, _ := slices.BinarySearch(hears, place)
			nearest := time.Hour
			for _, j := range []int{i - 1, i} {
				if j >= 0 && j < len(hears) {
					nearest = min(nearest, (hears[j] - place).Abs())
				}
			}
			off = max(off, nearest)
			compared++
		}
	}
	b.Logf("%d pictures and %d clicks were compared in %d stretches", len(want), compared, len(edition.Stretches))
	return bad, off
}

// BenchmarkStopToWatchable is the time from the last byte of a capture until all of it can
// be watched, for a lecture that arrives at the pace of the clock.
func BenchmarkStopToWatchable(b *testing.B) {
	ctx := context.Background()
	s := testhouse.New(b)
	path := filepath.Join(b.TempDir(), "live.mkv")
	const seconds = 20
	film := testfilm.Film{Length: seconds * time.Second, Width: 1280, Height: 720,
		Encoding: []string{"-c:v", "libx264", "-preset", "ultrafast", "-bf", "0", "-g", "50", "-c:a", "libopus",
			"-cluster_time_limit", "1000"}}
	s.Must(film.Make(ctx, path))
	all, err := os.ReadFile(path)
	s.Must(err)
	var waits, behind []time.Duration
	before, from := cpu(), time.Now()
	for range 5 {
		begun, err := s.Capture.Begin(ctx,
			capture.Start{Lecture: s.AddLecture(s.Course, testhouse.Now, "Live"), By: s.Lecturer, Source: capture.Desk})
		s.Must(err)
		at := int64(0)
		start := time.Now()
		tick := time.NewTicker(time.Second)
		for n := 1; n <= seconds; n++ {
			<-tick.C
			end := int64(len(all)) * int64(n) / seconds
			at, err = s.Capture.Append(ctx, begun.Track, at, nil, bytes.NewReader(all[at:end]))
			s.Must(err)
			if n == seconds-2 {
				r, err := s.Recordings.Recording(ctx, begun.Recording)
				s.Must(err)
				behind = append(behind, time.Since(start)-r.Length)
			}
		}
		tick.Stop()
		stopped := time.Now()
		_, err = s.Capture.Append(ctx, begun.Track, at, &at, bytes.NewReader(nil))
		s.Must(err)
		if r := s.Settled(begun.Recording); r.State != "ready" {
			b.Fatal(r.Fault)
		}
		waits = append(waits, time.Since(stopped))
	}
	// One capture runs at a time; what its children used is known once they have ended.
	b.ReportMetric((cpu()-before).Seconds()/time.Since(from).Seconds(), "cores-a-capture")
	b.ReportMetric(median(waits).Seconds(), "s-stop-to-watchable")
	b.ReportMetric(median(behind).Seconds(), "s-live-behind-the-hall")
}

// BenchmarkMeasuring is the strip page of an hour, beside decoding the same and nothing more.
func BenchmarkMeasuring(b *testing.B) {
	s := testhouse.New(b)
	file := hour(b)
	before := cpu()
	id, _ := s.File(s.Lecture, file)
	s.Settled(id)
	packed := cpu()
	strip := s.Measured(id)
	took := cpu() - packed
	sound := tool(b, "-i", file, "-map", "0:a", "-ac", "1", "-ar", "16000", "-f", "s16le", "-y", os.DevNull)
	keys := tool(b, "-skip_frame", "nokey", "-i", file, "-map", "0:v", "-fps_mode", "passthrough", "-vf",
		"scale=320:180", "-f", "null", "-")
	b.ReportMetric((packed - before).Seconds(), "cpu-s-packaging")
	b.ReportMetric(took.Seconds(), "cpu-s-measuring")
	b.ReportMetric((sound + keys).Seconds(), "cpu-s-decoding-alone")
	if len(strip.Peaks) < 35_000 {
		b.Fatal(fmt.Sprint("only ", len(strip.Peaks), " peaks"))
	}
}

// BenchmarkAppending is what an acknowledged piece of a second costs: on the disk and in the
// database, beside writing it to the disk alone.
func BenchmarkAppending(b *testing.B) {
	ctx := context.Background()
	s := testhouse.New(b, true)
	piece := make([]byte, 320_000)
	begun, err := s.Capture.Begin(ctx, capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.Desk})
	s.Must(err)
	var acknowledged, floor []time.Duration
	at := int64(0)
	key := "floor/" + uuid.NewString()
	for n := range 200 {
		from := time.Now()
		at, err = s.Capture.Append(ctx, begun.Track, at, nil, bytes.NewReader(piece))
		s.Must(err)
		acknowledged = append(acknowledged, time.Since(from))
		from = time.Now()
		s.Must(s.Blobs.Append(key, int64(n)*int64(len(piece)), piece))
		floor = append(floor, time.Since(from))
	}
	b.ReportMetric(median(acknowledged).Seconds()*1000, "ms-acknowledged")
	b.ReportMetric(median(floor).Seconds()*1000, "ms-disk-alone")
}
