package e2e

import (
	"os"
	"path/filepath"
	"testing"

	"latelantern/e2e/hand"

	"github.com/chromedp/chromedp/kb"
)

// TestSlidesForStudents: files are put into a playlist with the mouse, called something else, taken out and put back;
// what is no file of a kind that is taken says so; students find them on their page and fetch them.
func TestSlidesForStudents(t *testing.T) {
	t.Parallel()
	s := newStage(t, "tid-1")
	folder := t.TempDir()
	write := func(name, text string) string {
		path := filepath.Join(folder, name)
		s.must(os.WriteFile(path, []byte(text), 0o600))
		return path
	}
	const slides = "%PDF-1.7\ntrailer << >>\n%%EOF\n"
	pdf, sheet := write("Week 1.pdf", slides), write("Heights.csv", "hour,metres\n9,2.1\n15,4.4\n")
	b := chromium(t)
	p := s.person(b, lecturer)
	list := "/courses/" + s.course("TID 210").String() + "/playlist"
	s.must(p.Go(list), p.See("Two high waters a day"), p.Give("Add files", write("page.html", "<!doctype html><p>no</p>")),
		p.See("A file is a PDF, a presentation, a text"))
	s.clean(p, "a file that is not taken")
	moon, one := "The Moon and the Sun", "Two high waters a day"
	s.must(p.Give("Add files", pdf, sheet), p.Wait(stands(moon, one, "Week 1", "Heights")))
	s.clean(p, "files in a playlist")
	s.must(p.Write("Title of the file", "Slides of week 1"+kb.Enter), p.Wait(stands(moon, one, "Slides of week 1", "Heights")),
		p.Click("Move Slides of week 1"), p.Click("Move Heights"), p.Set("Put below", "the top"),
		p.Wait(stands("Slides of week 1", "Heights", moon, one)), p.Click("Take out"), p.Wait(stands(moon, one)),
		p.Click("Undo"), p.Wait(stands("Slides of week 1", "Heights", moon, one)))

	student := s.person(b, inThree)
	s.must(student.Go("/catch-up"), student.See("Slides of week 1"))
	s.clean(student, "files for students")
	got, err := hand.Ask[string](student, `(async () => {
		const link = [...document.querySelectorAll('a[download]')].find(a => a.innerText === 'Slides of week 1')
		return (await (await fetch(link.href)).text())
	})()`)
	if err != nil || got != slides {
		t.Errorf("a student fetches %q (%v)", got, err)
	}
	// What is on its way can be stopped, and nothing of it stays.
	s.must(p.Wait(`(window.XMLHttpRequest.prototype.send = function () { this.upload.onprogress({loaded: 1, total: 2}) }, true)`),
		p.Give("Add files", sheet), p.See("Heights.csv is being sent."), p.See("50%"))
	s.clean(p, "a file on its way")
	s.must(p.Click("Stop"), p.Wait(`!document.body.innerText.includes('is being sent')`), p.See("Add files"))
}
