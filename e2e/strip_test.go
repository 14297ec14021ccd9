package e2e

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/e2e/hand"
	"latelantern/internal/capture"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// frames scrolls the page by a step at each frame and gives how long each frame took, in milliseconds.
const frames = `(async () => {
	const out = []
	let last = await new Promise(r => requestAnimationFrame(r))
	for (let n = 0, y = 0, by = 24; n < 240; n++) {
		if (y + by > document.documentElement.scrollHeight - innerHeight || y + by < 0) by = -by
		scrollTo({top: y += by, behavior: 'instant'})
		const now = await new Promise(r => requestAnimationFrame(r))
		out.push(now - last)
		last = now
	}
	return out
})()`

// zoomed presses a key and gives how long it takes until what it makes is drawn, in milliseconds.
const zoomed = `(async key => {
	const from = performance.now()
	document.body.dispatchEvent(new KeyboardEvent('keydown', {key, bubbles: true}))
	await new Promise(r => requestAnimationFrame(() => requestAnimationFrame(r)))
	return performance.now() - from
})`

func share(all []float64, at float64) float64 {
	all = slices.Clone(all)
	slices.Sort(all)
	return all[int(float64(len(all)-1)*at)]
}

// BenchmarkStripPage scrolls and zooms a lecture of three hours, beside a page that holds nothing
// but as many empty lines.
func BenchmarkStripPage(b *testing.B) {
	ctx := context.Background()
	s := newStage(b, "alg-3")
	film := filepath.Join(b.TempDir(), "three hours.mp4")
	slides := "color=c=white:s=320x180:r=2:d=10800,drawbox=20:20:140:120:teal:fill:enable='lt(mod(t,90),45)',drawbox=120:60:180:100:black:fill:enable='gte(mod(t,90),45)'"
	voice := "anoisesrc=r=16000:a=0.3:d=10800:c=pink:seed=3,volume='0.5+0.5*sin(t*3)*sin(t/7)':eval=frame"
	if out, err := exec.Command("ffmpeg", "-y", "-v", "error", "-f", "lavfi", "-i", slides, "-f", "lavfi", "-i", voice,
		"-c:v", "libx264", "-preset", "ultrafast", "-g", "4", "-pix_fmt", "yuv420p", "-c:a", "aac", "-b:a", "32k",
		film).CombinedOutput(); err != nil {
		b.Fatalf("%v\n%s", err, out)
	}
	lecture, err := postgres.Value[uuid.UUID](ctx, s.house.DB, `select lecture_id from recording limit 1`)
	by, err2 := postgres.Value[uuid.UUID](ctx, s.house.DB, `select id from person where coordinator limit 1`)
	s.must(err, err2)
	f, err := os.Open(film)
	s.must(err)
	defer f.Close()
	info, err := f.Stat()
	s.must(err)
	size := info.Size()
	began, err := s.house.Capture.Begin(ctx,
		capture.Start{Lecture: lecture, By: by, Source: capture.File, FileName: "three hours.mp4", Length: &size})
	s.must(err)
	_, err = s.house.Capture.Append(ctx, began.Track, 0, nil, f)
	s.must(err)
	for deadline := time.Now().Add(5 * time.Minute); ; time.Sleep(time.Second) {
		r, err := s.house.Recordings.Recording(ctx, began.Recording)
		s.must(err)
		if x, err := s.house.Recordings.Strip(ctx, r.ID, r.Length); err == nil {
			b.Logf("%v, %d slides", r.Length.Round(time.Second), len(x.Slides))
			break
		} else if !errors.Is(err, recordings.ErrNotReady) || time.Now().After(deadline) {
			b.Fatal(err)
		}
	}
	browser := chromium(b)
	p := s.person(browser, coordinator)
	scrolled := func() []float64 {
		x, err := hand.Ask[[]float64](p, frames)
		s.must(err)
		return x
	}
	s.must(p.Go("/recordings/"+began.Recording.String()), p.Wait(`document.querySelectorAll('.strip svg').length > 4`))
	var zooms []float64
	for _, key := range []string{"z", "z", "z", "z", "z", "Z", "z"} {
		ms, err := hand.Ask[float64](p, zoomed+fmt.Sprintf("(%q)", key))
		s.must(err)
		zooms = append(zooms, ms)
	}
	lines, err := hand.Ask[int](p, `document.querySelectorAll('.strip .row').length`)
	s.must(err)
	page := scrolled()
	_, err = hand.Ask[bool](p,
		`(document.body.innerHTML = '<div style="height:78px;border-bottom:1px solid"></div>'.repeat(`+
			fmt.Sprint(lines)+`)) !== ''`)
	s.must(err)
	empty := scrolled()
	b.Logf("%d lines; a frame takes %.1f ms (95 %%: %.1f) on the strip page, %.1f (95 %%: %.1f) on empty lines; zooming %.0f ms", lines, share(page, 0.5), share(page, 0.95), share(empty, 0.5), share(empty, 0.95), zooms)
	b.ReportMetric(share(page, 0.5), "ms/frame")
	b.ReportMetric(share(page, 0.95), "ms/frame-95%")
	b.ReportMetric(share(empty, 0.5), "ms/frame-empty")
	b.ReportMetric(share(empty, 0.95), "ms/frame-empty-95%")
	b.ReportMetric(share(zooms, 0.5), "ms/zoom")
}
