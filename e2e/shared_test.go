package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"

	"latelantern/e2e/hand"
)

// middle is the colour in the middle of the picture.
const middle = `(() => { const v = document.querySelector('video'), c = Object.assign(document.createElement('canvas'), {width: 9, height: 9}), pen = c.getContext('2d'); if (!v?.videoWidth) return ''; pen.drawImage(v, 0, 0, 9, 9); const [r, g, b] = pen.getImageData(4, 4, 1, 1).data; return r < 90 && g > 100 && b < 110 ? 'green' : [r, g, b].join() })()`

// TestASharedTab captures a tab with slides, and students see those slides.
func TestASharedTab(t *testing.T) {
	const title = "Slides that are shared"
	s := newStage(t, "tid-1")
	b := chromium(t, chromedp.Flag("auto-select-tab-capture-source-by-title", title))
	p := s.person(b, lecturer)
	slides, err := p.Beside()
	s.must(err)
	// What is drawn changes, since a still tab sends no new pictures.
	s.must(chromedp.Do(slides.Context(),
		chromedp.Navigate("data:text/html,<title>"+title+
			"</title><body style='background:rgb(20,140,60)'><p id=n style='font:80px serif'></p><script>setInterval(() => n.textContent = Date.now(), 100)</script>")))
	s.must(p.Click("nobody has pressed start"), p.Click("Screen, window or tab"), p.Wait(middle+" === 'green'"),
		p.See("The screen is shown"), p.See("Sound is heard"),
		p.Click("Start capture"), p.Wait(safe+" >= 4"), p.Click("Stop capture"), p.See("it can be watched now"),
		p.Click("Trim and title it"), p.Wait(`document.querySelectorAll('.strip [data-band]').length > 0`),
		p.Wait(`document.querySelector('video')?.readyState > 1`), p.Wait(middle+" === 'green'"))
	s.must(p.Click("Play"), plays(p))
	if slide, err := hand.Ask[bool](p,
		`(async () => { const i = document.querySelector('.slides img'); await i.decode(); return i.naturalWidth === 320 })()`); err != nil || !slide {
		t.Errorf("the strip page has no picture of the slide (%v)", err)
	}
}
