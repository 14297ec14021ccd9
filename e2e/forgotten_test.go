package e2e

import (
	"context"
	"net/http"
	"strings"
	"testing"
	"time"

	"latelantern/demo"
	"latelantern/internal/capture"
)

// TestAForgottenStart: wherever the lecturer is, the product says that their lecture is on and
// nobody captures it; so does a letter, to the coordinator too; and it is quiet once somebody does.
func TestAForgottenStart(t *testing.T) {
	t.Parallel()
	s := newStage(t, "none")
	b := chromium(t)
	p, other, tavi := s.person(b, lecturer), s.person(b, lecturer), s.person(b, student)
	s.must(p.Go("/playlists"), p.See("TID 210 began"), p.See("in Kelp Hall, and nobody has pressed start."),
		tavi.Go("/dates"), tavi.See("Currents in the narrows"))
	s.must(tavi.Wait(`!document.querySelector('.forgotten')`))
	wanted := map[string]bool{demo.Accounts[lecturer].Email: true, demo.Accounts[coordinator].Email: true}
	s.until("letters to both", func() bool {
		list, err := s.post.Letters()
		s.must(err)
		for _, l := range list {
			if l.Subject == "TID 210 is not being captured" && strings.Contains(l.Text, "began at 10:15 in Kelp Hall") {
				delete(wanted, l.To)
			}
		}
		return len(wanted) == 0
	})
	ines := s.person(b, coordinator)
	s.must(ines.Go("/run-sheet"),
		ines.Wait(`document.querySelector('.entry-of.forgotten')?.innerText.includes('TID 210')`))

	s.must(p.Click("It is not held: call it off"), p.See("TID 210 is called off."),
		ines.Wait(`!document.querySelector('.entry-of.forgotten')`), p.Click("Undo"), p.See("TID 210 began"))
	s.must(p.Click("Open the capture desk"), p.Wait(`location.pathname.endsWith('/capture')`),
		p.Wait(`!document.querySelector('.forgotten .line')`))
	s.must(other.Go("/board"), other.See("TID 210 began"))
	lecture, by := s.underWay()
	_, err := s.house.Capture.Begin(context.Background(), capture.Start{Lecture: lecture, By: by, Source: capture.Desk})
	s.must(err, other.Wait(`!document.querySelector('.forgotten')`))
}

// TestAnswersFromInBetween: while the server is away something in between answers for it, which ends
// the line of events for good; a page that was open then hears again what happens.
func TestAnswersFromInBetween(t *testing.T) {
	t.Parallel()
	s := newStage(t, "none")
	b := chromium(t)
	p := s.person(b, lecturer)
	lecture, _ := s.underWay()
	page := "/lectures/" + lecture.String()
	s.must(p.Go(page), p.See("Currents in the narrows"))
	s.kill()
	asked := make(chan bool, 2)
	between := http.Server{Addr: s.address, Handler: http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.WriteHeader(http.StatusBadGateway)
		if r.URL.Path == "/api/events" {
			select {
			case asked <- true:
			default:
			}
		}
	})}
	ended := make(chan error, 1)
	go func() { ended <- between.ListenAndServe() }()
	for range 2 { // again after the answer, too
		select {
		case <-asked:
		case err := <-ended:
			t.Fatal(err)
		case <-time.After(time.Minute):
			t.Fatal("the line of events is not asked for")
		}
	}
	s.must(between.Close())
	<-ended
	s.start()
	other := s.person(b, lecturer)
	s.must(other.Go(page), other.Click("Change this lecture"), other.Write("Topic", "Slack water"),
		other.Click("Keep the change"), other.See("The change is kept."), p.See("Slack water"))
}
