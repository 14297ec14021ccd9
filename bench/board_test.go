package bench

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"

	"latelantern/e2e/hand"
	"latelantern/internal/testhouse"
	"latelantern/web"
)

// slowly has a page of a browser computed a quarter as fast, over a line of 10 Mbit/s with 40 ms to the server and
// back, and nothing of it kept from before.
func slowly(p *hand.Page) error {
	line := &network.Conditions{Latency: 40, DownloadThroughput: 10e6 / 8, UploadThroughput: 10e6 / 8}
	_, a := chromedp.Call(p.Context(), network.Enable, network.EnableParams{})
	_, b := chromedp.Call(p.Context(), network.SetCacheDisabled, network.SetCacheDisabledParams{CacheDisabled: true})
	_, c := chromedp.Call(p.Context(), network.EmulateNetworkConditionsByRule,
		network.EmulateNetworkConditionsByRuleParams{MatchedNetworkConditions: []*network.Conditions{line}})
	_, d := chromedp.Call(p.Context(), emulation.SetCPUThrottlingRate, emulation.SetCPUThrottlingRateParams{Rate: 4})
	return errors.Join(a, b, c, d)
}

// BenchmarkBoardFirst opens the term board in a slow browser: when something is painted first, and when the first
// lantern hangs there. Its floor is a page of one sentence.
func BenchmarkBoardFirst(b *testing.B) {
	for name, many := range map[string]bool{"few": false, "many": true} {
		b.Run(name, func(b *testing.B) { boardFirst(b, many) })
	}
}

func boardFirst(b *testing.B, many bool) {
	s := testhouse.New(b, true)
	if many {
		crowd(b, s)
	}
	edge := s.Edge(web.Files())
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/floor" {
			w.Header().Set("Content-Type", "text/html")
			_, _ = w.Write([]byte(`<!doctype html><title>One</title><p class="lantern">One sentence.</p>`))
			return
		}
		edge.ServeHTTP(w, r)
	}))
	defer server.Close()
	browser, err := hand.Open(context.Background(), b.TempDir())
	s.Must(err)
	defer browser.Close()
	p, err := browser.Page(server.URL)
	s.Must(err)
	defer p.Close()
	s.Must(p.SignIn("coordinator@college.example", testhouse.Password), slowly(p))
	const shown = `new Promise(done => {
		const look = () => {
			const paint = performance.getEntriesByName('first-contentful-paint')[0];
			if (!paint || !document.querySelector('.placed .lantern, p.lantern')) return setTimeout(look, 10);
			done({paint: paint.startTime, lantern: performance.now()});
		};
		look();
	})`
	var paint, lantern, floor []float64
	for range 7 {
		for path, into := range map[string]func(paint, lantern float64){
			"/board": func(x, y float64) { paint, lantern = append(paint, x), append(lantern, y) },
			"/floor": func(x, _ float64) { floor = append(floor, x) },
		} {
			s.Must(chromedp.Do(p.Context(), chromedp.Navigate(server.URL+path)))
			got, err := hand.Ask[struct{ Paint, Lantern float64 }](p, shown)
			s.Must(err)
			into(got.Paint, got.Lantern)
		}
	}
	b.ReportMetric(median(paint), "ms/paint")
	b.ReportMetric(median(lantern), "ms/lantern")
	b.ReportMetric(median(floor), "ms/floor")
}

// smooth is how a page was scrolled through: milliseconds between two frames, in the middle and at the 95th of a
// hundred, how many lines were drawn at most, and how far it came.
type smooth struct{ Median, Late, Rows, At float64 }

// scrolled scrolls what an expression names through for five seconds, at three screens a second, and counts its lines.
func scrolled(what, lines string) string {
	return fmt.Sprintf(`new Promise(done => {
		const of = %s, frames = [], begun = performance.now();
		let last = begun, most = 0;
		const step = now => {
			frames.push(now - last);
			last = now;
			most = Math.max(most, document.querySelectorAll(%q).length);
			if (now - begun > 5000) return done({median: frames.sort((a, b) => a - b)[frames.length >> 1],
				late: frames[Math.floor(frames.length * 0.95)], rows: most, at: of.scrollTop});
			of.scrollTop = (now - begun) / 1000 * 3 * innerHeight;
			requestAnimationFrame(step);
		};
		requestAnimationFrame(step);
	})`, what, lines)
}

// BenchmarkBoardScroll scrolls the board of a large college through in a browser, at three
// screens a second. Its floor is the same scroll over a page that has nothing but height.
func BenchmarkBoardScroll(b *testing.B) {
	s := testhouse.New(b, true)
	crowd(b, s)
	scroll(b, s, "/board", "document.scrollingElement", "[role=listitem]")
}

// scroll opens a place as a coordinator and scrolls what an expression names there, once some of its lines are drawn.
func scroll(b *testing.B, s *testhouse.Stage, path, what, lines string) {
	b.Helper()
	server := httptest.NewServer(s.Edge(web.Files()))
	defer server.Close()
	browser, err := hand.Open(context.Background(), b.TempDir())
	s.Must(err)
	defer browser.Close()
	p, err := browser.Page(server.URL)
	s.Must(err)
	defer p.Close()
	s.Must(p.SignIn("coordinator@college.example", testhouse.Password), p.Go(path),
		p.Wait(fmt.Sprintf(`document.querySelectorAll(%q).length > 5`, lines)))
	got, err := hand.Ask[smooth](p, scrolled(what, lines))
	s.Must(err)
	if got.At < 5000 || got.Rows > 60 {
		b.Fatalf("%+v", got)
	}
	_, err = hand.Ask[bool](p,
		`(document.body.innerHTML = '<div style="height: 40000px; background: linear-gradient(white, teal)"></div>', true)`)
	s.Must(err)
	floor, err := hand.Ask[smooth](p, scrolled("document.scrollingElement", lines))
	s.Must(err)
	b.ReportMetric(got.Median, "ms/frame")
	b.ReportMetric(got.Late, "ms/frame-p95")
	b.ReportMetric(floor.Late, "ms/floor-p95")
	b.ReportMetric(got.Rows, "rows")
}
