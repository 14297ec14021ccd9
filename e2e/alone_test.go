package e2e

import (
	"testing"

	"latelantern/e2e/hand"
)

// TestRecordedAhead: a lecturer records a lesson alone, for a week to come. Nobody can follow
// it, it stands in its week on the board, and its students see it from that week on.
func TestRecordedAhead(t *testing.T) {
	t.Parallel()
	s := newStage(t, "none")
	b := chromium(t)
	p, tavi := s.person(b, lecturer), s.person(b, student)
	s.must(p.Go("/capture"), p.See("Or record a lesson ahead, alone"), p.See("For a lecture that is planned that week"))
	s.clean(p, "choosing what is captured")
	s.must(p.Write("What it is about", "Tides without a moon"), p.Click("Go to the desk"),
		p.Wait(`location.pathname.endsWith('/capture')`),
		p.See("A lesson recorded ahead for week"), p.See("Nobody can follow while it is captured."), p.Click("Camera"),
		p.See("Sound is heard"))
	s.clean(p, "the desk for a lesson recorded ahead")
	lecture, err := hand.Ask[string](p, `location.pathname.split('/')[2]`)
	s.must(err, p.Click("Start capture"), p.Wait(safe+" >= 3"))

	s.must(tavi.Go("/dates"), tavi.See("Currents in the narrows"))
	const shown = `document.body.innerText.includes('Tides without a moon')`
	if there, err := hand.Ask[bool](tavi, shown); err != nil || there {
		t.Errorf("a student sees it while it is recorded (%v)", err)
	}
	s.must(tavi.Go("/watch/"+s.captured().String()), tavi.See("is closed"))

	s.must(p.Click("Stop capture"), p.See("it can be watched now"), p.Click("Trim and title it"),
		p.See("recorded ahead"), p.See("Tides without a moon"))
	s.must(p.Go("/lectures/"+lecture), p.See("A lesson for the whole week, recorded ahead with nobody invited."),
		p.Click("Change this lecture"),
		p.Wait(`![...document.querySelectorAll('button')].some(b => /Bring it back|Call it off/.test(b.innerText))`))
	s.must(p.Set("Week", "Week 6"), p.Click("Keep the change"), p.See("Undo"), p.See("week 6"))
	s.clean(p, "the page of a lesson recorded ahead")
}
