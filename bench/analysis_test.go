package bench

import (
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"math/rand"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"latelantern/internal/assemble"
	"latelantern/internal/capture"
	"latelantern/internal/core/span"
	"latelantern/internal/measure"
	"latelantern/internal/platform/blobs"
)

// What is said in the lectures of the test set; the voices are those of flite.
const said = `The tide comes in twice a day,
and never at the same hour. A gauge in the harbour writes down what the water does. Read it from left to right,
and you have the week.
If the wind blows from the south for three days,
the table is wrong by a hand's breadth. Nobody has made a mistake. The table knows nothing of the wind.
Look at the second line. What do you notice? It is later every day, by about fifty minutes,
since the moon has gone on meanwhile.`

const hz = 48000

// made is a lecture of the test set, with what is true of it.
type madeLecture struct {
	kind   string
	sound  []float64 // one channel at 48 kHz
	speech []span.Span
	slides []time.Duration
	show   func(n int, at time.Duration, slide []byte) // draws over the slide of picture n
	// each slide but the first of five has one line more than the one before
	lines bool
}

// The pictures of the test set.
const wide, high, rate = 640, 360, 10

// voice is a text as someone reads it, cut to its first and last word.
func voice(b *testing.B, folder, name, text string, stretch float64) []float64 {
	b.Helper()
	wav := filepath.Join(folder, "voice.wav")
	if out, err := exec.Command("flite", "--setf", fmt.Sprintf("duration_stretch=%g", stretch), "-voice", name, "-t",
		text, "-o", wav).CombinedOutput(); err != nil {
		b.Fatalf("flite: %v %s", err, out)
	}
	raw, err := exec.Command("ffmpeg", "-v", "error", "-i", wav, "-ac", "1", "-ar", fmt.Sprint(hz), "-f", "s16le",
		"-").Output()
	if err != nil {
		b.Fatal(err)
	}
	out := make([]float64, len(raw)/2)
	for i := range out {
		out[i] = float64(int16(binary.LittleEndian.Uint16(raw[2*i:]))) / 32768
	}
	const heard = 0.02
	from := slices.IndexFunc(out, func(v float64) bool { return math.Abs(v) > heard })
	to := len(out)
	for to > from && math.Abs(out[to-1]) < heard {
		to--
	}
	return out[from:to]
}

// lectures makes the kinds, each of about two minutes.
func lectures(b *testing.B) []madeLecture {
	b.Helper()
	folder := b.TempDir()
	var voices [][]float64
	for _, v := range []string{"rms", "slt", "awb"} {
		voices = append(voices, voice(b, folder, v, said, 1.1))
	}
	rush := voice(b, folder, "rms", strings.NewReplacer(".", ",", "?", ",", "\n", " ").Replace(said), 0.8)
	gauss := func(r *rand.Rand, in []float64, db float64) {
		for i := range in {
			in[i] += math.Pow(10, db/20) * r.NormFloat64()
		}
	}
	murmur := func(n int, level float64) []float64 {
		out := make([]float64, n)
		for k := range 12 {
			v := voices[k%3]
			for i := range out {
				out[i] += level / 3 * v[(i+k*173_311)%len(v)]
			}
		}
		return out
	}
	chords := func(n int, level float64) []float64 {
		out := make([]float64, n)
		for i := range out {
			t := float64(i) / hz
			root := 130.8 * math.Pow(2, float64(int(t*1.5)*5%12)/12)
			for _, k := range []float64{1, 1.26, 1.5} {
				out[i] += level / 3 * math.Sin(2*math.Pi*root*k*t) * (0.6 + 0.4*math.Exp(-3*math.Mod(t*1.5, 1)))
			}
		}
		return out
	}
	// Strings that are plucked: each note falls off by itself, the higher partials sooner.
	plucked := func(n int, level float64, seed int64) []float64 {
		r := rand.New(rand.NewSource(seed))
		out := make([]float64, n)
		for at := 0; at < n; at += hz/4 + hz/4*r.Intn(2) {
			root := 196 * math.Pow(2, float64([]int{0, 2, 4, 7, 9, 12, 14, 16}[r.Intn(8)])/12)
			for i := at; i < min(n, at+hz*3/2); i++ {
				t := float64(i-at) / hz
				for k := 1.0; k <= 5; k++ {
					out[i] += level / k / 2 * math.Exp(-t*(3+k)) * math.Sin(2*math.Pi*root*k*t)
				}
			}
		}
		return out
	}
	power := func(in []float64) (sum float64) {
		for _, v := range in {
			sum += v * v / float64(len(in))
		}
		return sum
	}
	// Some who chat by turns, two seconds at a time, 16 dB below the speaker.
	rows := func(n int, seed int64) []float64 {
		r := rand.New(rand.NewSource(seed))
		out := make([]float64, n)
		for k := range 4 {
			v := voices[k%3]
			for at, off := 0, r.Intn(len(v)); at < n; at += hz * (3 + r.Intn(3)) {
				for i := at; i < min(n, at+2*hz); i++ {
					out[i] += v[(i+off)%len(v)]
				}
			}
		}
		gain := math.Sqrt(power(voices[0])/power(out)) * math.Pow(10, -16.0/20)
		for i := range out {
			out[i] *= gain
		}
		return out
	}
	none := func(int, time.Duration, []byte) {}
	corner := rand.New(rand.NewSource(4))
	inset := func(n int, _ time.Duration, p []byte) { noiseAt(p, 520, 250, 110, 100, corner) }
	pointer := func(n int, at time.Duration, p []byte) {
		noiseAt(p, 20+int(500+400*math.Sin(float64(n)/9))%600, 20+int(300+200*math.Cos(float64(n)/7))%320, 8, 12,
			corner)
	}
	film := func(n int, at time.Duration, p []byte) {
		if s := int(at.Seconds()); s > 45 && s < 70 {
			noiseAt(p, 120, 60, 380, 220, corner)
		}
	}
	sometimes := func(n int, _ time.Duration, p []byte) {
		noiseAt(p, 520, 250, 110, 100, rand.New(rand.NewSource(int64(n/13))))
	}
	grain := func(n int, _ time.Duration, p []byte) {
		for i := n % 3; i < len(p); i += 3 {
			p[i] = byte(min(255, max(0, int(p[i])+corner.Intn(13)-6)))
		}
	}
	var out []madeLecture
	for k, kind := range []struct {
		name string
		show func(int, time.Duration, []byte)
	}{
		{"a quiet room, slides that stand", none}, {"noise at -50, knocks; a speaker in the corner", inset},
		{"noise at -40; a pointer", pointer}, {"noise at -30; grain of a camera", grain},
		{"a murmur all the time; a speaker who moves now and then", sometimes},
		{"music before and in the break", none},
		{"hardly a pause; a speaker and a pointer",
			func(n int, at time.Duration, p []byte) { inset(n, at, p); pointer(n, at, p) }}, {"clipping", none},
		{"a microphone turned off for a while", inset}, {"a film that is shown", film},
		{"plucked notes before, in the break and after", none}, {"chatter of the rows, 16 dB below", inset},
		{"a line more each time; a pointer", pointer}, {"a line more each time; a speaker in the corner", inset},
	} {
		r := rand.New(rand.NewSource(int64(k)))
		l := madeLecture{kind: kind.name, show: kind.show, lines: k >= 12}
		gap := func(d time.Duration, with []float64) {
			piece := make([]float64, int(d.Seconds()*hz))
			copy(piece, with)
			l.sound = append(l.sound, piece...)
		}
		speak := func(v []float64, gain float64) {
			from := time.Duration(float64(len(l.sound)) / hz * float64(time.Second))
			for _, x := range v {
				l.sound = append(l.sound, min(1, max(-1, x*gain)))
			}
			l.speech = append(l.speech,
				span.Span{Start: from, End: time.Duration(float64(len(l.sound)) / hz * float64(time.Second))})
		}
		first, second, gain, db := voices[k%3], voices[(k+1)%3], 1.0, -60.0
		var before, pause, after []float64
		switch k {
		case 1:
			db = -50
		case 2:
			db = -40
		case 3:
			db = -30
		case 5:
			before, pause = chords(hz*9, 0.25), chords(hz*20, 0.25)
		case 6:
			first, second = rush, rush
		case 10:
			before, pause, after = plucked(hz*9, 0.3, 1), plucked(hz*20, 0.3, 2), plucked(hz*11, 0.3, 3)
		case 11:
			before, pause, after = rows(hz*9, 1), rows(hz*20, 2), rows(hz*11, 3)
		case 7:
			gain = 8
		}
		gap(9*time.Second+time.Duration(r.Intn(1000))*time.Millisecond, before)
		speak(first, gain)
		gap(20*time.Second, pause)
		speak(second, gain)
		gap(11*time.Second, after)
		gauss(r, l.sound, db)
		switch k {
		case 1:
			for range 12 { // knocks, also while nobody speaks
				at := r.Intn(len(l.sound) - hz)
				if math.Abs(float64(at)-float64(l.speech[0].Start.Seconds()*hz)) < hz ||
					math.Abs(float64(at)-float64(l.speech[0].End.Seconds()*hz)) < hz {
					continue
				}
				for i := range hz / 12 {
					l.sound[at+i] += 0.5 * math.Exp(-float64(i)/900) * r.NormFloat64()
				}
			}
		case 4:
			for i, v := range murmur(len(l.sound), 0.05) {
				l.sound[i] += v
			}
		case 8:
			for i := len(l.sound) - 9*hz; i < len(l.sound)-hz; i++ {
				l.sound[i] = 0
			}
		}
		length := float64(len(l.sound)) / hz
		for at := 0.0; at < length-5; at += 7 + 9*r.Float64() {
			l.slides = append(l.slides, time.Duration(math.Round(at*rate))*time.Second/rate)
		}
		out = append(out, l)
	}
	return out
}

func noiseAt(p []byte, x0, y0, w, h int, r *rand.Rand) {
	for y := y0; y < min(high, y0+h); y++ {
		for x := x0; x < min(wide, x0+w); x++ {
			p[y*wide+x] = byte(r.Intn(256))
		}
	}
}

// page is a slide with a title and some lines.
func page(number int) []byte {
	r := rand.New(rand.NewSource(int64(number)))
	p := slices.Repeat([]byte{235}, wide*high)
	for line := range 6 {
		y0 := 30 + line*46
		end := 200 + r.Intn(320)
		for x := 40; x < end; x++ {
			for y := y0; y < y0+18; y++ {
				if (x/3*7+number*13+line*5+y/6*3)%5 < 3 {
					p[y*wide+x] = 40
				}
			}
		}
	}
	return p
}

// linesOf is a slide on which one line after another appears, five of them, before the next begins.
func linesOf(number int) []byte {
	whole, shown := page(number/5*5+1000), number%5+2
	for y := 30 + shown*46 - 6; y < high; y++ {
		for x := range wide {
			whole[y*wide+x] = 235
		}
	}
	return whole
}

// near is how near edges of speech are to be found: what goes on in the same voice, or on the same strings, has none.
func (l madeLecture) near() time.Duration {
	if strings.HasPrefix(l.kind, "plucked") || strings.HasPrefix(l.kind, "chatter") ||
		strings.HasPrefix(l.kind, "music") {
		return time.Second
	}
	return 300 * time.Millisecond
}

// write makes the film of a lecture.
func (l madeLecture) write(b *testing.B, path string) {
	b.Helper()
	sound, pipe, err := os.Pipe()
	if err != nil {
		b.Fatal(err)
	}
	cmd := exec.Command("ffmpeg", "-y", "-v", "error", "-f", "rawvideo", "-pix_fmt", "gray", "-s",
		fmt.Sprintf("%dx%d", wide, high), "-r", fmt.Sprint(rate), "-i", "pipe:0", "-f", "s16le", "-ar", fmt.Sprint(hz),
		"-ac", "1", "-i", "pipe:3",
		"-c:v", "libx264", "-preset", "ultrafast", "-crf", "24", "-pix_fmt", "yuv420p", "-g", "20", "-keyint_min", "20",
		"-sc_threshold", "0", "-c:a", "aac", "-b:a", "96k", path)
	cmd.ExtraFiles = []*os.File{sound}
	pictures, err := cmd.StdinPipe()
	if err != nil {
		b.Fatal(err)
	}
	var complaint strings.Builder
	cmd.Stderr = &complaint
	if err := cmd.Start(); err != nil {
		b.Fatal(err)
	}
	sound.Close()
	go func() {
		raw := make([]byte, 0, 2*len(l.sound))
		for _, v := range l.sound {
			raw = binary.LittleEndian.AppendUint16(raw, uint16(int16(32767*min(1, max(-1, v)))))
		}
		_, _ = pipe.Write(raw)
		pipe.Close()
	}()
	number := 0
	for n := range int(float64(len(l.sound)) / hz * rate) {
		at := time.Duration(n) * time.Second / rate
		for number < len(l.slides) && l.slides[number] <= at {
			number++
		}
		p := page(number)
		if l.lines {
			p = linesOf(number)
		}
		l.show(n, at, p)
		if _, err := pictures.Write(p); err != nil {
			b.Fatalf("%v %s", err, complaint.String())
		}
	}
	if err := errors.Join(pictures.Close(), cmd.Wait()); err != nil {
		b.Fatalf("%v %s", err, complaint.String())
	}
}

// analysed is what the product finds in a file.
func analysed(b *testing.B, path string) measure.Analysis {
	b.Helper()
	ctx := context.Background()
	disk, err := blobs.Open(b.TempDir())
	if err != nil {
		b.Fatal(err)
	}
	p, err := capture.Package(ctx, disk, path, "file")
	if err != nil {
		b.Fatal(err)
	}
	file, err := assemble.OpenAlone(disk, "file", p.Video, p.Audio)
	if err != nil {
		b.Fatal(err)
	}
	a, err := file.Analyse(ctx)
	if err != nil {
		b.Fatal(err)
	}
	return a
}

// near is how far the nearest of some times lies from one.
func nearest(to time.Duration, of []time.Duration) time.Duration {
	least := time.Duration(math.MaxInt64)
	for _, x := range of {
		least = min(least, (x - to).Abs())
	}
	return least
}

// BenchmarkAccuracy compares what is found in all kinds of lectures with what is true of them.
func BenchmarkAccuracy(b *testing.B) {
	if _, err := exec.LookPath("flite"); err != nil {
		b.Skip("the voices need flite: scripts/packages flite")
	}
	var told strings.Builder
	var edges, goodEdges, slides, goodSlides, found, falseSlides int
	for _, l := range lectures(b) {
		path := filepath.Join(b.TempDir(), "lecture.mp4")
		l.write(b, path)
		a := analysed(b, path)
		var ends []time.Duration
		for _, x := range a.Speech.Spans() {
			ends = append(ends, x.Start, x.End)
		}
		worst, hit := time.Duration(0), 0
		for _, x := range l.speech {
			for _, e := range []time.Duration{x.Start, x.End} {
				d := nearest(e, ends)
				worst = max(worst, d)
				edges++
				if d <= l.near() {
					goodEdges++
				}
			}
		}
		wrong := 0
		for _, x := range l.slides {
			slides++
			if nearest(x, a.Slides) <= 500*time.Millisecond {
				goodSlides++
				hit++
			}
		}
		for _, x := range a.Slides {
			found++
			if nearest(x, l.slides) > 500*time.Millisecond {
				falseSlides++
				wrong++
			}
		}
		kinds := []string{}
		for _, p := range a.Proposals {
			kinds = append(kinds, string(p.Why))
		}
		fmt.Fprintf(&told, "%-58s %d stretches of speech, edges at most %4d ms away; %2d of %2d slides, %d false; %s\n",
			l.kind, len(a.Speech.Spans()), worst.Milliseconds(), hit, len(l.slides), wrong, strings.Join(kinds, " "))
	}
	fmt.Fprint(os.Stderr, told.String()) // a benchmark shows but ten lines of its own
	b.ReportMetric(100*float64(goodEdges)/float64(edges), "%-edges-near-enough")
	b.ReportMetric(100*float64(goodSlides)/float64(slides), "%-slides-within-0.5s")
	b.ReportMetric(100*float64(falseSlides)/float64(max(1, found)), "%-false-slides")
}

// BenchmarkAnalysis is all that is measured of an hour, beside the tool's own decoding of its
// sound and its key pictures.
func BenchmarkAnalysis(b *testing.B) {
	file := hour(b)
	ctx := context.Background()
	disk, err := blobs.Open(b.TempDir())
	if err != nil {
		b.Fatal(err)
	}
	p, err := capture.Package(ctx, disk, file, "file")
	if err != nil {
		b.Fatal(err)
	}
	one, err := assemble.OpenAlone(disk, "file", p.Video, p.Audio)
	if err != nil {
		b.Fatal(err)
	}
	var ours, floors []time.Duration
	for range 3 {
		before := cpu()
		a, err := one.Analyse(ctx)
		if err != nil {
			b.Fatal(err)
		}
		ours = append(ours, cpu()-before)
		floors = append(floors,
			tool(b, "-i", file, "-map", "0:a", "-ac", "1", "-ar", "16000", "-f", "s16le", os.DevNull)+
				tool(b, "-skip_frame", "nokey", "-i", file, "-map", "0:v", "-fps_mode", "passthrough", "-vf",
					"scale=160:90,format=gray", "-f", "rawvideo", os.DevNull))
		b.Logf("%d slides", len(a.Slides))
	}
	b.Logf("ours %v, the tool alone %v", ours, floors)
	b.ReportMetric(median(ours).Seconds(), "cpu-s")
	b.ReportMetric(median(floors).Seconds(), "cpu-s-tool-alone")
	b.ReportMetric(median(ours).Seconds()/median(floors).Seconds(), "x-tool-alone")
}
