package e2e

import (
	"context"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"latelantern/e2e/hand"
	"latelantern/internal/testfilm"
)

// number reads the number that each picture of a film of testfilm carries, from a video of
// any size that shows it; -1 where there is none. The film is 640 pixels wide, and its numbers
// are 16 blocks of 16 pixels in its upper left corner.
const number = `(() => {
	const v = document.querySelector('video');
	if (!v || !v.videoWidth) return -1;
	const c = Object.assign(document.createElement('canvas'), {width: 640, height: 360}), pen = c.getContext('2d');
	pen.drawImage(v, 0, 0, 640, 360);
	let n = 0;
	for (let bit = 0; bit < 16; bit++) if (pen.getImageData(bit * 16 + 8, 8, 1, 1).data[1] > 128) n |= 1 << bit;
	return n;
})()`

// BenchmarkLiveDelay is how far what a student sees is behind what the camera sees: the desk
// and a follower are asked for the number of the picture that they show.
func BenchmarkLiveDelay(b *testing.B) {
	const rate = 10 // of the film; a camera may play it at another
	s := newStage(b, "none")
	film := filepath.Join(b.TempDir(), "camera.mjpeg")
	s.must(testfilm.Film{Length: 150 * time.Second, Rate: rate, NoSound: true,
		Encoding: []string{"-c:v", "mjpeg", "-q:v", "4", "-f", "mjpeg"}}.Make(context.Background(), film))
	c := chromium(b, chromedp.Flag("use-file-for-fake-video-capture", film))
	desk, tavi := s.person(c, lecturer), s.person(c, student)
	s.must(desk.Click("nobody has pressed start"), desk.Click("Camera"), desk.See("The camera sees something"),
		desk.Click("Start capture"), desk.Wait(safe+" >= 8"),
		tavi.Go("/catch-up"), tavi.Click("Follow it"), tavi.Click("I have seen it"),
		tavi.See("Live, a few seconds behind"), tavi.Click("Play"), plays(tavi))
	time.Sleep(8 * time.Second)
	_, err := hand.Ask[bool](tavi,
		`window.stops = 0, document.querySelector('video').addEventListener('waiting', () => window.stops++), true`)
	s.must(err)
	var all []float64
	first, err := hand.Ask[int](desk, number)
	s.must(err)
	begun := time.Now()
	time.Sleep(5 * time.Second)
	last, err := hand.Ask[int](desk, number)
	s.must(err)
	played := float64(last-first) / time.Since(begun).Seconds()
	for range 41 {
		time.Sleep(500 * time.Millisecond)
		from := time.Now()
		before, err := hand.Ask[int](desk, number)
		s.must(err)
		seen, err := hand.Ask[int](tavi, number)
		s.must(err)
		if before < 0 || seen < 0 || time.Since(from) > 300*time.Millisecond {
			continue // they were not asked at the same time
		}
		all = append(all, float64(before-seen)/played)
	}
	if len(all) < 10 {
		b.Fatalf("only %v could be read", all)
	}
	stops, err := hand.Ask[int](tavi, `window.stops`)
	s.must(err)
	slices.Sort(all)
	b.Logf("%.1f pictures a second; %.1f", played, all)
	b.ReportMetric(float64(stops), "stops-to-wait")
	b.ReportMetric(all[len(all)/2], "s-behind")
	b.ReportMetric(all[0], "s-behind-least")
	b.ReportMetric(all[len(all)-1], "s-behind-most")
}
