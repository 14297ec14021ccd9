package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/google/uuid"

	"latelantern/e2e/hand"
	"latelantern/internal/platform/postgres"
)

// stands is whether the entries of the playlist that is looked at are these, in this order.
func stands(want ...string) string {
	return fmt.Sprintf(`[...document.querySelectorAll('[data-entry]')].map(e =>
		e.querySelector('input')?.value ?? e.querySelector('.title a').innerText).join('|') === %q`,
		strings.Join(want, "|"))
}

// shut is whether no sheet lies over the page any more.
const shut = `![...document.querySelectorAll('.el-overlay')].some(o => o.checkVisibility())`

// TestOnePlaylistInTwoCourses is made, filled and shown in a second course without a copy, lit there from where it
// belongs, found by a student of it, and taken away and brought back in both.
func TestOnePlaylistInTwoCourses(t *testing.T) {
	t.Parallel()
	s := newStage(t, "tid-1", "tid-2")
	b := chromium(t)
	p := s.person(b, coordinator)
	one, two := "Two high waters a day", "Spring tides and neap tides"
	here := "/courses/" + s.course("TID 210").String() + "/playlist"
	there := "/courses/" + s.course("ALG 118").String() + "/playlist"
	s.must(p.Go(here), p.Click("Another playlist"), p.See("Or one of another course"))
	s.clean(p, "another playlist")
	s.must(p.Write("Title of the playlist", "For revision"+kb.Enter), p.See("Nothing is in this playlist yet."),
		p.Click("Add all 2"), p.Wait(stands(one, two)),
		p.Write("A sentence about it", "Before the examination."+kb.Enter))
	s.clean(p, "a playlist of one's own")
	other := s.person(b, coordinator)
	s.must(other.Go(there), other.Click("Another playlist"), other.Set("Playlist", "TID 210: For revision"),
		other.Click("Show it here"), other.See("It belongs to TID 210"), other.See("Before the examination."),
		other.Wait(`document.querySelectorAll('.grip').length === 0`), other.See("0/22"))
	s.clean(other, "a playlist of another course")
	student := s.person(b, inThree)
	const found = `[...document.querySelectorAll('h2, h3')].filter(h => h.innerText === 'For revision').length`
	s.must(student.Go("/catch-up"), student.Wait(found+` === 1`)) // in TID 210, of which they are too
	s.must(p.See("Not all of this can be watched in ALG 118"), p.Click("Light it there"),
		p.Click("Light 2 for ALG 118 and TID 210"), p.See("All of this is lit"), p.Press(kb.Escape), p.Wait(shut),
		p.Wait(`!document.body.innerText.includes('Not all of this can be watched')`), other.See("22/22"),
		student.Wait(found+` === 2`))
	// What changes where it belongs changes where it is shown.
	_, err := hand.Ask[bool](p, fmt.Sprintf(`document.querySelector('[aria-label^="Move %s"]').focus(), true`, two))
	s.must(err, p.Keys(" "), p.See("1 chosen"), p.Click("Choose none"), p.Set("In order", "by hand"),
		p.Wait(`document.querySelector('.order').innerText.includes('by hand')`))
	_, err = hand.Ask[bool](p, fmt.Sprintf(`document.querySelector('[aria-label^="Move %s"]').focus(), true`, two))
	s.must(err, p.Keys(kb.ArrowUp), p.Wait(stands(two, one)), other.Wait(stands(two, one)))
	s.must(p.Click("Take this playlist away"), p.See("was taken away"), student.Wait(found+` === 0`),
		other.See("shows no such playlist"))
	s.must(p.Click("Undo"), p.Wait(stands(two, one)), student.Wait(found+` === 2`))
}

// TestSeveralEntriesAtOnce are chosen, put below a heading, taken out, and put back where they were.
func TestSeveralEntriesAtOnce(t *testing.T) {
	t.Parallel()
	s := newStage(t, "tid-1", "tid-2")
	b := chromium(t)
	p := s.person(b, lecturer)
	moon, one, two := "The Moon and the Sun", "Two high waters a day", "Spring tides and neap tides"
	s.must(p.Go("/courses/"+s.course("TID 210").String()+"/playlist"), p.Wait(stands(moon, one, two)),
		p.Click("Add a page elsewhere"), p.Write("Title of the page", "Tables"),
		p.Write("Address of the page", "tables"+kb.Enter), p.See("The address of a page begins with"),
		p.Write("Address of the page", "https://tables.example/"+kb.Enter), p.Wait(stands(moon, one, two, "Tables")))
	s.must(p.Click("Move "+one), p.Click("Move "+two), p.See("2 chosen"))
	s.clean(p, "chosen entries")
	s.must(p.Set("Put below", "the top"), p.Wait(stands(one, two, moon, "Tables")), p.Click("Take out"),
		p.Wait(stands(moon, "Tables")), p.See("2 were taken out"), p.Click("Undo"),
		p.Wait(stands(one, two, moon, "Tables")))
}

// TestAPlaylistFillsItself by a sentence that is seen before it is kept; what is taken out stays out, and an undone
// sentence leaves nothing.
func TestAPlaylistFillsItself(t *testing.T) {
	t.Parallel()
	s := newStage(t, "tid-1", "tid-2")
	b := chromium(t)
	p := s.person(b, lecturer)
	one, two := "Two high waters a day", "Spring tides and neap tides"
	s.must(p.Go("/courses/"+s.course("TID 210").String()+"/playlist"), p.Click("Another playlist"),
		p.Write("Title of the playlist", "The whole course"+kb.Enter), p.Click("Have it fill itself"),
		p.See("2 come in."),
		p.Write("that holds", "neap"), p.See("1 comes in."))
	s.clean(p, "what fills a playlist")
	s.must(p.Click("Have it keep itself filled"), p.Wait(stands(two)), p.See("that holds “neap”"),
		p.Wait(shut), p.Click("Undo"),
		p.Wait(stands()), p.See("put there by hand"), p.Click("Have it fill itself"), p.See("2 come in."),
		p.Click("Have it keep itself filled"), p.Wait(stands(one, two)), p.See("came by itself"), p.Wait(shut))
	s.must(p.Click("Take out "+one), p.Wait(stands(two)), p.Click("Change what fills it"), p.See("1 is here already."),
		p.See("None comes in."))
}

// TestAPlaylistFromAFile names the lines that it does not know.
func TestAPlaylistFromAFile(t *testing.T) {
	t.Parallel()
	s := newStage(t, "tid-1")
	b := chromium(t)
	p := s.person(b, lecturer)
	id, err := postgres.Value[string](t.Context(), s.house.DB, `select r.id::text from recording r
		join lecture l on l.id = r.lecture_id where l.topic = 'Two high waters a day'`)
	s.must(err)
	sheet := filepath.Join(t.TempDir(), "list.csv")
	rows := "heading,title,recording\nMoon,Two," + id + "\nMoon,Lost," + uuid.NewString() + "\n"
	s.must(os.WriteFile(sheet, []byte(rows), 0o600))
	s.must(p.Go("/courses/"+s.course("TID 210").String()+"/playlist"), p.Click("Another playlist"),
		p.Write("Title of the playlist", "From a sheet"), p.Give("Choose a file", sheet), p.See("1 line was left out"),
		p.See("Line 2: Lost"))
	s.clean(p, "a playlist from a file")
	s.must(p.Click("Go to it"), p.Wait(stands("Moon", "Two high waters a day")), p.See("As a file:"))
}
