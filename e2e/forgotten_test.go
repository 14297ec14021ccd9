package e2e

import (
	"context"
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
	s.must(p.Go("/playlists"), p.See("TID 210 began"), p.See("in Kelp Hall, and nobody has pressed start."), tavi.Go("/dates"), tavi.See("Currents in the narrows"))
	s.must(tavi.Wait(`!document.querySelector('.forgotten')`))
	wanted := map[string]bool{demo.Accounts[lecturer].Email: true, demo.Accounts[coordinator].Email: true}
	for deadline := time.Now().Add(45 * time.Second); len(wanted) > 0; {
		list, err := s.post.Letters()
		s.must(err)
		for _, l := range list {
			if l.Subject == "TID 210 is not being captured" && strings.Contains(l.Text, "began at 10:15 in Kelp Hall") {
				delete(wanted, l.To)
			}
		}
		if time.Now().After(deadline) {
			t.Fatalf("no letter comes to %v", wanted)
		}
		time.Sleep(50 * time.Millisecond)
	}
	ines := s.person(b, coordinator)
	s.must(ines.Go("/run-sheet"), ines.Wait(`document.querySelector('.entry-of.forgotten')?.innerText.includes('TID 210')`))

	s.must(p.Click("It is not held: call it off"), p.See("TID 210 is called off."), ines.Wait(`!document.querySelector('.entry-of.forgotten')`), p.Click("Undo"), p.See("TID 210 began"))
	s.must(p.Click("Open the capture desk"), p.Wait(`location.pathname.endsWith('/capture')`), p.Wait(`!document.querySelector('.forgotten .line')`))
	s.must(other.Go("/board"), other.See("TID 210 began"))
	lecture, by := s.underWay()
	_, err := s.house.Capture.Begin(context.Background(), capture.Start{Lecture: lecture, By: by, Source: capture.Desk})
	s.must(err, other.Wait(`!document.querySelector('.forgotten')`))
}
