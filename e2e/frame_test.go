package e2e

import (
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"latelantern/e2e/hand"
)

// strike presses a key that types nothing by itself.
func strike(p *hand.Page, key string) error {
	_, err := chromedp.Call(p.Context(), input.DispatchKeyEvent,
		input.DispatchKeyEventParams{Type: input.DispatchKeyEventTypeRawKeyDown, Key: key})
	return err
}

const (
	found = `document.querySelectorAll('.find-list [role=option]:not(.spoken)').length`
	line  = `document.querySelector('header.bar').getBoundingClientRect().height <= 60`
)

// TestWhatIsLookedForIsFound: from any page, by key alone; on a phone behind one press, in a bar of one line; and what
// one may not see is not called anything.
func TestWhatIsLookedForIsFound(t *testing.T) {
	s := newStage(t, "tid-1")
	b := chromium(t)
	p := s.person(b, lecturer)
	s.must(p.Go("/run-sheet"), p.See("Today"), p.Wait(line), strike(p, "/"),
		p.Wait(`document.activeElement.closest('.find')`), p.Keys("reading tid"), p.Wait(found+` === 1`),
		p.Keys(kb.Enter), p.Wait(`document.querySelector('h1')?.innerText === 'TID 210 Reading the Tides'`))
	// The places of a course are one press from each other.
	for place, there := range map[string]string{"Playlist": "Topic heading", "Viewing rule": "may", "People": "Take off",
		"Words": "Glossary", "Setting": "Trim the ends", "Lectures": "Standing room"} {
		s.must(p.Click(place), p.See(there), p.See("TID 210 Reading the Tides"),
			p.Wait(`document.querySelector('.course-head [aria-current=page]')?.innerText === '`+place+`'`))
	}
	s.must(p.Write("Find", "high waters"), p.Wait(found+` > 0`), p.Keys(kb.Enter),
		p.Wait(`location.pathname.startsWith('/recordings/')`), p.Write("Find", "quickstone"),
		p.Wait(found+` > 0`), p.Keys(kb.Enter), p.Wait(`location.pathname.endsWith('/people')`),
		p.Wait(`document.querySelectorAll('tbody tr').length === 1`))
	young := s.person(b, student)
	s.must(young.Size(390, 844), young.Go("/catch-up"), young.Wait(line),
		young.Wait(`document.documentElement.scrollWidth <= innerWidth`), young.Click("Find"),
		young.Wait(`document.activeElement.closest('.find')`), young.Keys("high waters"), young.Wait(found+` === 1`),
		young.Keys(kb.Enter), young.Wait(`location.pathname.startsWith('/watch/')`), young.Wait(line),
		young.Click("Find"), young.Keys("small boat"), young.See("Nothing that you can see is called that."),
		young.Keys(kb.Escape), young.Click("Catch-up"), young.Click("Dates"),
		young.Wait(`location.pathname === '/dates'`))
}

// TestWhatWasSaidIsLookedFor from the frame: by key alone to the moment at which it was said, which plays.
func TestWhatWasSaidIsLookedFor(t *testing.T) {
	s := newStage(t, "tid-1", "boa-1")
	p := s.person(chromium(t), student)
	s.must(p.Go("/catch-up"), p.See("to catch up"), strike(p, "/"), p.Wait(`document.activeElement.closest('.find')`),
		p.Keys("boathouses walls"), p.See("What was said and shown: boathouses walls"),
		p.See("Nothing that you can see is called that."), p.Keys(kb.Enter), p.See("In one recording:"),
		p.Wait(`[...document.querySelectorAll('mark')].map(m => m.innerText).join(' ') === 'wall boathouse'`))
	s.clean(p, "the search")
	s.must(p.Focus(".hit"), p.Keys(kb.Enter), p.Wait(`location.pathname.startsWith('/watch/')`),
		p.Wait(`(v => v?.readyState > 1 && v.currentTime > 30 && v.currentTime < 40)(document.querySelector('video'))`),
		p.See("Begins at 0:3"), p.Press("k"), plays(p))
	// What another course said is not found, nor what nobody said; a word in the address can be come back to.
	s.must(p.Go("/search?words=tides+planking"), p.See("It was said nowhere"), p.Go("/search?words=planking"),
		p.See("It was said nowhere"), p.Write("Words, or a", `"high water is at nine"`), p.See("In one recording:"),
		p.Wait(`new URL(location).searchParams.get('words') === '"high water is at nine"'`))
}
