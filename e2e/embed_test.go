package e2e

import (
	"fmt"
	"net"
	"net/http"
	"strings"
	"testing"
	"time"

	"latelantern/demo"
	"latelantern/e2e/hand"
)

// elsewhere is another site with one page, and its address: by a name, so that to a browser it is a site of its own.
func elsewhere(s *stage, page string) string {
	s.t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	s.must(err)
	server := &http.Server{ReadHeaderTimeout: time.Minute,
		Handler: http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
			w.Header().Set("Content-Type", "text/html; charset=utf-8")
			fmt.Fprintf(w, "<!doctype html><title>A course page</title><h1>Week 1</h1>%s", page)
		})}
	go func() { _ = server.Serve(l) }()
	s.t.Cleanup(func() { server.Close() })
	return "http://localhost:" + strings.Split(l.Addr().String(), ":")[1]
}

// code is what the sheet that is open gives to be put into a page, as it is where the application is reached at base.
func (s *stage) code(p *hand.Page) string {
	s.t.Helper()
	code, err := hand.Ask[string](p, `document.querySelector('.code input').value`)
	s.must(err)
	if !strings.HasPrefix(code, "<iframe ") {
		s.t.Fatalf("the code is %s", code)
	}
	return strings.ReplaceAll(code, "http://elsewhere.example", s.base())
}

// signInBeside signs in on the page that opens beside a frame, and waits until it has gone.
func (s *stage) signInBeside(frame *hand.Page, who int) {
	s.t.Helper()
	s.must(frame.Tap("Sign in"))
	beside, err := frame.Opened("page", "/sign-in")
	s.must(err, beside.Write("email", demo.Accounts[who].Email),
		beside.Write("password", demo.Password), beside.Tap("Sign in"))
}

// TestOnACoursePageElsewhere: how many can watch is said before a code is copied; a site shows nothing until it may,
// and then to those who may watch, who sign in beside it.
func TestOnACoursePageElsewhere(t *testing.T) {
	t.Parallel()
	s := newStage(t, "tid-1")
	b := chromium(t)
	p := s.person(b, coordinator)
	list := "/courses/" + s.course("TID 210").String() + "/playlist"
	s.must(p.Go(list), p.Click("Two high waters a day"), p.See("stretches struck"), p.Click("Link or embed"),
		p.See("24 of 24 students of TID 210 can watch it now"), p.See("No other site may show it"))
	s.must(p.Set("Size", "640 × 438"))
	recording := s.code(p)
	if !strings.Contains(recording, `width="640"`) {
		t.Errorf("with a size the code is %s", recording)
	}
	s.must(p.Go(list), p.Click("Link or embed"), p.See("24 of 24 students of TID 210 can watch something of it now"))
	s.clean(p, "link and embed")
	site := elsewhere(s, recording+s.code(p))

	// Nobody said yet that this site may.
	page, err := b.Page(site)
	s.must(err)
	t.Cleanup(page.Close)
	s.must(page.Go("/"))
	shut, err := page.Opened("iframe", "/embed/recordings/")
	s.must(err, shut.Wait(`location.protocol === 'chrome-error:'`))
	s.must(p.Go("/terms"), p.Write("Sites, one to a line", "nonsense;"), p.Focus("#sites + form button"), p.Keys("\r"),
		p.See("“nonsense;” is no site"), p.Write("Sites, one to a line", site), p.Focus("#sites + form button"),
		p.Keys("\r"), p.See("Kept. It holds from now on."))
	s.clean(p, "sites that may")

	s.must(page.Go("/"))
	one, err := page.Opened("iframe", "/embed/recordings/")
	s.must(err, one.See("Sign in beside this page"))
	s.signInBeside(one, student)
	s.must(one.See("Two high waters a day"), one.Wait(`document.querySelector('video')?.readyState > 2`), one.Tap("Play"),
		one.Wait(`document.querySelector('video').currentTime > 1`))
	// The other frame of the page has the session too.
	many, err := page.Opened("iframe", "/embed/courses/")
	s.must(err, many.Tap("Two high waters a day"), many.Wait(`document.querySelector('video')?.readyState > 2`))
	// Both end with the session beside them, what plays there too.
	status := func() int {
		n, err := hand.Ask[int](one, `fetch(performance.getEntriesByType('resource').map(e => e.name)
			.find(n => n.includes('/media/') && !n.includes('.m3u8')), {cache: 'no-store'}).then(r => r.status)`)
		s.must(err)
		return n
	}
	if got := status(); got != http.StatusOK {
		t.Errorf("a segment in the frame: %d", got)
	}
	_, err = s.house.DB.Exec(t.Context(), `delete from sessions where position('beside'::bytea in data) = 0`)
	s.must(err)
	s.until("what plays in the frame ends", func() bool { return status() != http.StatusOK })
}
