package e2e

import (
	"strings"
	"testing"
)

// TestNotesAtMoments: somebody notes something at a moment, goes back to it, changes it, removes it and takes that
// back; what is half written stays while they look at something else; in another browser they read
// it too, and nobody else.
func TestNotesAtMoments(t *testing.T) {
	s := newStage(t, "tid-1")
	id := s.theOne()
	b := chromium(t)
	p := s.person(b, student)
	at := "/watch/" + id.String()
	s.must(p.Go(at), p.Click("Notes"), p.See("Nothing is noted here yet"),
		p.Wait(`document.querySelector('video').readyState >= 2`),
		p.Wait(`(document.querySelector('video').currentTime = 12) || true`),
		p.See("Note at 0:12"), p.Write("Note at 0:12", "Twice a day?\nLook it up"), p.Click("Keep it"),
		p.Wait(`document.querySelector('.text')?.innerText === 'Twice a day?\nLook it up'`))
	s.clean(p, "the watch page with a note")
	// Half written it stays, at the moment at which it was begun.
	s.must(p.Wait(`(document.querySelector('video').currentTime = 20) || true`), p.See("Note at 0:20"),
		p.Write("Note at 0:20", "Later"), p.Wait(`(document.querySelector('video').currentTime = 3) || true`),
		p.Click("Words"), p.See("Transcript"), p.Click("Notes"), p.See("Note at 0:20"),
		p.Wait(`document.querySelector('textarea').value === 'Later'`), p.Click("Keep it"),
		p.Wait(`document.querySelectorAll('.text').length === 2`))
	s.must(p.Click("Twice a day?"), p.Wait(`Math.abs(document.querySelector('video').currentTime - 12) < 1.5`),
		p.Click("Change the note at 0:12"), p.Write("Note at 0:12", "Asked"), p.Click("Keep it"),
		p.Wait(`document.querySelector('.text').innerText === 'Asked'`),
		p.Click("Remove the note at 0:12"), p.See("The note is removed"),
		p.Wait(`document.querySelectorAll('.text').length === 1`), p.Click("Undo"),
		p.Wait(`document.querySelector('.text').innerText === 'Asked'`))
	other, teacher := s.person(b, student), s.person(b, lecturer)
	s.must(other.Go(at), other.Click("Notes"), other.See("Asked"), other.See("Later"))
	s.must(teacher.Go(at), teacher.Click("Notes"), teacher.See("Nothing is noted here yet"))
	// While the server is away nothing is lost.
	s.kill()
	s.must(p.Wait(`!(document.querySelector('textarea').focus())`), p.Write("Note at", strings.Repeat("kept ", 3)),
		p.Click("Keep it"), p.Wait(`document.querySelector('textarea').value.startsWith('kept')`))
	s.start()
	s.must(p.Click("Keep it"), p.Wait(`document.querySelectorAll('.text').length === 3`))
}
