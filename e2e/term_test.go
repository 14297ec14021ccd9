package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"

	"latelantern/e2e/hand"
)

// TestATermIsSetUp: a coordinator brings a roster in, plans a course around a clash and moves
// one lecture; a student sees it where they look, under the address that it always had; and
// someone new activates their account by the letter.
func TestATermIsSetUp(t *testing.T) {
	s := newStage(t, "none")
	b := chromium(t)
	p := s.person(b, coordinator)
	now := s.house.Clock.Now()
	weekday := now.Weekday().String()

	// The roster: first with a line that is wrong, then without.
	sheet := filepath.Join(t.TempDir(), "kno-150.csv")
	const good = "email,name,course,part,group\nnia.castellane@skerry.example,Nia Castellane,KNO 150,lecturer,\ntavi.brandal@skerry.example,Tavi Brandal,KNO 150,student,Quay\nasta.holmgard@skerry.example,Asta Holmgard,KNO 150,student,Quay\n"
	s.must(os.WriteFile(sheet, []byte(good+"brann.tolleif,Brann Tolleif,KNO 150,student,Slip\n"), 0o600))
	s.must(p.Go("/roster"), p.Give("Choose the files", sheet), p.See("One line cannot be taken"), p.See("line 5 column email"))
	if there, err := hand.Ask[bool](p,
		`[...document.querySelectorAll('button')].some(b => b.innerText === 'Apply it')`); err != nil || there {
		t.Errorf("with a bad line it can be applied (%v)", err)
	}
	s.must(os.WriteFile(sheet, []byte(good), 0o600))
	s.must(p.Give("Choose the files", sheet), p.See("3 enrolled"), p.See("1 new course"), p.Click("Apply it"),
		p.See("The roster is brought in."))

	// The plan: Kelp Hall is taken at that hour, Boathouse 2 is not.
	s.must(p.Go("/courses"), p.Click("KNO 150"), p.See("Nothing is planned yet"), p.Click("Plan lectures"),
		p.Click(weekday), p.Set("Hall", "Kelp Hall"),
		p.Write("Starts at", "12:30"), p.Write("Ends at", "14:00"), p.See("Kelp Hall is taken by ALG 118, 13:15–14:45"),
		p.See("Plan them all the same"))
	s.must(p.Set("Hall", "Boathouse 2"),
		p.Wait(`!/clash/.test(document.querySelector('.head h2')?.innerText ?? 'clash')`))
	count, err := hand.Ask[int](p, `document.querySelectorAll('.dates > li').length`)
	s.must(err)
	if count != 7 {
		t.Errorf("%d dates, and 7 weeks are left", count)
	}
	s.must(p.Click("Plan them"), p.See("7 lectures are planned."))

	// One moves by two days, with its address.
	s.must(p.Click("Lectures"), p.See("12:30 to 14:00 in Boathouse 2"))
	_, err = hand.Ask[bool](p, `(document.querySelectorAll('ol .date a')[0].click(), true)`)
	s.must(err, p.Wait(`location.pathname.startsWith('/lectures/')`))
	address, err := hand.Ask[string](p, `location.pathname`)
	s.must(err)
	to := now.AddDate(0, 0, 9)
	s.must(p.Click("Change this lecture"), p.Set("Day", to.Format(time.DateOnly)),
		p.Write("Topic", "Bends and hitches"), p.See("Nothing clashes."), p.Click("Keep the change"),
		p.See("The change is kept."),
		p.See("Moved: it was planned for"))

	// A student sees it, at once and where they look.
	tavi := s.person(b, student)
	s.must(tavi.Go("/dates"), tavi.See("Bends and hitches"), tavi.See("moved from"), tavi.Click("Bends and hitches"),
		tavi.See("Moved: it was planned for"))
	if at, err := hand.Ask[string](tavi, `location.pathname`); err != nil || at != address {
		t.Errorf("a student finds it at %s, and it was at %s (%v)", at, address, err)
	}
	s.must(p.Click("Undo"), p.See("Undone."), tavi.Wait(`!/Moved: it was/.test(document.body.innerText)`))

	// Someone new gets in by their letter, and is seen to be active.
	s.must(p.Go("/courses"), p.Click("KNO 150"), p.See("Standing room"),
		p.Focus(`.course-head a[href$="/people"]`), p.Keys(kb.Enter), p.See("not yet active, not invited"),
		p.Click("Send the letter: Asta Holmgard"), p.See("One letter is on its way."))
	letter := s.letter("asta.holmgard@skerry.example", "Choose a password to begin")
	asta, err := b.Page(s.base())
	s.must(err)
	t.Cleanup(asta.Close)
	s.must(asta.Go(letter), asta.See("Asta Holmgard"), asta.Write("New password", "short"), asta.Click("Begin"),
		asta.See("at least 10 characters"),
		asta.Write("New password", "a rope's end whipped"), asta.Click("Begin"), asta.See("Catch-up"),
		asta.Go("/courses"), asta.See("KNO 150"))
	s.must(p.Wait(`!/not yet active/.test(document.querySelector('table').innerText)`))
	s.must(p.Click("Take off Asta Holmgard"), p.See("can watch nothing less without this course"),
		p.Click("Take off Asta Holmgard"), p.See("sees nothing of the course any more"), asta.Go("/courses"),
		asta.Wait(fmt.Sprintf(`!document.body.innerText.includes(%q)`, "KNO 150")))
}
