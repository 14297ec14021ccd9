package e2e

import (
	"context"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/e2e/hand"
	"latelantern/internal/capture"
	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/testfilm"
)

// across plays from a second before a join to a second after it, and gives of every picture that was
// presented its time and the number burnt into it, and how often it had to wait for what was not there
// yet. A busy machine may also come late with drawing what is there.
const across = `(async join => {
	const v = document.querySelector('video'), c = Object.assign(document.createElement('canvas'), {width: 320,
		height: 16}), pen = c.getContext('2d', {willReadFrequently: true})
	v.pause()
	v.currentTime = Math.max(0, join - 1)
	await new Promise(r => v.addEventListener('seeked', r, {once: true}))
	while (v.readyState < 4) await new Promise(r => setTimeout(r, 50))
	const seen = []
	let waits = 0
	const there = () => [...Array(v.buffered.length).keys()].some(n => v.buffered.start(n) <= v.currentTime &&
		v.currentTime + 0.1 < v.buffered.end(n))
	const wait = () => { if (!there()) waits++ }
	v.addEventListener('waiting', wait)
	await new Promise(done => {
		const one = (_, frame) => {
			pen.drawImage(v, 0, 0, 320, 16, 0, 0, 320, 16)
			const data = pen.getImageData(0, 8, 320, 1).data
			let n = 0
			for (let bit = 0; bit < BITS; bit++) if (data[(bit * BLOCK + BLOCK / 2) * 4] > 128) n |= 1 << bit
			seen.push([frame.mediaTime, n])
			if (frame.mediaTime > join + 1) done()
			else v.requestVideoFrameCallback(one)
		}
		v.requestVideoFrameCallback(one)
		void v.play()
	})
	v.pause()
	v.removeEventListener('waiting', wait)
	return {seen, waits}
})`

// TestItPlaysThroughEveryJoin in the browser: the right picture at every moment, nothing waited for.
func TestItPlaysThroughEveryJoin(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := newStage(t, "tid-1")
	path := filepath.Join(t.TempDir(), "numbers.mp4")
	s.must(testfilm.Film{Length: 24 * time.Second, BFrames: 2}.Make(ctx, path))
	f, err := os.Open(path)
	s.must(err)
	defer f.Close()
	info, err := f.Stat()
	s.must(err)
	size := info.Size()
	lecture, err := postgres.Value[uuid.UUID](ctx, s.house.DB, `select lecture_id from recording limit 1`)
	s.must(err)
	by, err := postgres.Value[uuid.UUID](ctx, s.house.DB, `select id from person where coordinator limit 1`)
	s.must(err)
	began, err := s.house.Capture.Begin(ctx,
		capture.Start{Lecture: lecture, By: by, Source: capture.File, FileName: "numbers.mp4", Length: &size})
	s.must(err)
	_, err = s.house.Capture.Append(ctx, began.Track, 0, nil, f)
	s.must(err)
	r := s.ready(began.Recording)
	const ms = time.Millisecond
	for _, x := range []span.Span{{Start: 0, End: 1130 * ms}, {Start: 4 * time.Second, End: 6520 * ms},
		{Start: 9410 * ms, End: 10 * time.Second}, {Start: 13330 * ms, End: 14790 * ms},
		{Start: 18 * time.Second, End: 20 * time.Second}} {
		s.must(s.house.Cuts.Change(ctx, r.ID, by, cuts.Strike, x))
	}
	s.must(s.house.Releases.Light(ctx, r.CourseID, r.ID, by))
	s.until("it is lit", func() bool {
		r, err = s.house.Recordings.Recording(ctx, r.ID)
		s.must(err)
		return r.Current()
	})
	edition, err := s.house.Publication.Edition(ctx, *r.EditionID)
	s.must(err)
	b := chromium(t)
	p := s.person(b, student)
	s.must(p.Go("/watch/"+r.ID.String()), p.Wait(`document.querySelector('video')?.readyState > 2`))
	if len(edition.Stretches) != 5 {
		t.Fatalf("%d stretches", len(edition.Stretches))
	}
	for n, x := range edition.Stretches[1:] {
		got, err := hand.Ask[struct {
			Seen  [][2]float64 `json:"seen"`
			Waits int          `json:"waits"`
		}](p, fmt.Sprintf("(() => { const BITS = %d, BLOCK = %d; return %s(%f) })()", testfilm.Bits, testfilm.Block,
			across, x.At.Seconds()))
		s.must(err)
		// number is that of the picture at a published moment.
		number := func(at time.Duration) int {
			stretch := edition.Stretches[n]
			if at >= x.At-ms {
				stretch = x
			}
			return int((stretch.Source.Start + at - stretch.At + 20*ms) / (40 * ms))
		}
		before, after, late := 0, 0, 0
		for _, f := range got.Seen {
			at := time.Duration(math.Round(f[0]*1e6)) * time.Microsecond
			if at >= x.At-ms {
				after++
			} else {
				before++
			}
			switch int(f[1]) {
			case number(at):
			case number(at + 40*ms): // between being told of a picture and reading it, the next one came
				late++
			default:
				t.Errorf("join %d: at %v picture %d is shown, not %d", n+1, at, int(f[1]), number(at))
			}
		}
		if late > len(got.Seen)/4 {
			t.Errorf("join %d: %d of %d pictures are one too late", n+1, late, len(got.Seen))
		}
		// On a busy machine not every picture is presented, but what is must be right.
		if before < 2 || after < 5 || got.Waits > 0 {
			t.Errorf("join %d: %d pictures before and %d after it were seen, and it waited %d times", n+1, before,
				after, got.Waits)
		}
	}
}
