package e2e

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/target"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/google/uuid"

	"latelantern/e2e/hand"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/testfilm"
)

// choose gives a file to the page as if it had been chosen in the browser's own dialog.
func choose(p *hand.Page, path string) error {
	return p.Give("Choose a file", path)
}

// TestFilesThatPeopleDrop: a good one can be trimmed in a moment; each bad one says why in a
// sentence, where it happened.
func TestFilesThatPeopleDrop(t *testing.T) {
	s := newStage(t, "tid-1")
	b := chromium(t)
	p := s.person(b, lecturer)
	folder := t.TempDir()
	file := func(name string, b []byte) string {
		path := filepath.Join(folder, name)
		s.must(os.WriteFile(path, b, 0o600))
		return path
	}
	film := func(name string, f testfilm.Film) string {
		path := filepath.Join(folder, name)
		f.Width, f.Height = 320, 180
		s.must(f.Make(context.Background(), path))
		return path
	}
	good := film("harbour.mp4", testfilm.Film{Length: 6 * time.Second})
	whole, err := os.ReadFile(good)
	s.must(err)
	half := whole[:len(whole)/2]
	// With a box of nothing at its end it is so large that it is known by windows of it, not whole.
	whole = append(bytes.Clone(whole), append([]byte("\x00\x20\x00\x00free"), make([]byte, 2<<20-8)...)...)
	s.must(os.WriteFile(good, whole, 0o600))
	sheet := func() error {
		return errors.Join(p.Go("/board"), p.Click("Currents in the narrows"), p.See("Drop a file here"))
	}
	for _, c := range []struct {
		path, says, then string
	}{
		{file("nothing.mp4", nil), "This file is empty", ""},
		{file("notes.mp4", []byte("These are only notes.")), "All of it is stored", "This is not a recording"},
		{file("half.mp4", half), "All of it is stored", "it was not copied to its end"},
		{film("mute.mp4", testfilm.Film{Length: 3 * time.Second, NoSound: true}), "All of it is stored",
			"no sound was captured"},
		{film("radio.mkv", testfilm.Film{Length: 3 * time.Second, NoView: true}), "All of it is stored",
			"no picture was captured"},
		{good, "All of it is stored", "0:06 captured, 0:06 kept"},
	} {
		s.must(sheet(), choose(p, c.path), p.See(c.says))
		if c.then != "" {
			s.must(p.Click("Open it"), p.See(c.then))
		}
	}
	// The same content under another name is known before a byte of it is sent.
	s.must(sheet(), choose(p, file("again.mp4", whole)), p.See("is already here, with the same content:"))
	s.clean(p, "a file that is here already")
	s.must(p.Click("Do not send it again"), p.See("Drop a file here"), choose(p, file("again.mp4", whole)),
		p.See("is already here"), p.Wait(`document.querySelectorAll('.drop li a').length === 1`),
		p.Click("Send it all the same"), p.See("All of it is stored"))
	s.must(sheet(), choose(p, file("other.mp4", append(whole, 0))), p.See("All of it is stored"), p.Go("/board"),
		p.Click("Currents in the narrows"), p.See("Recordings"))
	s.must(p.Go("/recordings/" + s.recordingOf("harbour.mp4").String()))
	// The good one stands on the trim bench; a cut that leaves nothing is refused there and changes nothing.
	s.must(p.Wait(`document.querySelectorAll('.strip [data-band]').length > 0`),
		p.Wait(`document.querySelector('video')?.readyState > 1`))
	s.must(p.Keys("i"), p.Wait(`document.querySelector('.tools [role=status]')`))
	for range 8 {
		s.must(p.Press(kb.ArrowRight, hand.Shift)) // shift and the arrow to the right
	}
	s.must(p.See("(0:06.0)"), p.Keys("x"), p.See("leave nothing to watch"), p.Keys(kb.Escape),
		p.See("0:06 captured, 0:06 kept"))
}

// keptUntil is up to which byte of its capture the browser has kept the pieces.
const keptUntil = `new Promise(done => { const o = indexedDB.open('late-lantern'); o.onsuccess = () => { const r = o.result.transaction('pieces').objectStore('pieces').getAll(); r.onsuccess = () => done(Math.max(...r.result.map(p => p.offset + p.bytes.byteLength))) } })`

// TestWhatATabLeftBehind: a tab that is closed in the middle of a capture, with the server
// away, loses nothing that the browser had; the next page of the same browser sends it.
func TestWhatATabLeftBehind(t *testing.T) {
	ctx := context.Background()
	s := newStage(t, "tid-1")
	b := chromium(t)
	p := s.person(b, lecturer)
	s.must(p.Click("nobody has pressed start"), p.Click("Camera"), p.See("Sound is heard"), p.Click("Start capture"),
		p.Wait(safe+" >= 2"))
	s.kill()
	s.must(p.See("The server cannot be reached"),
		p.Wait(`Number(document.querySelector('.elapsed').innerText.split(':')[1]) >= 7`))
	kept, err := hand.Ask[int64](p, keptUntil)
	s.must(err)
	// The tab is gone without a word, as when a browser crashes.
	second, err := p.Beside()
	s.must(err)
	_, err = chromedp.CallBrowser(second.Context(), target.CloseTarget,
		target.CloseTargetParams{TargetID: chromedp.FromContext(p.Context()).Target.TargetID})
	s.must(err)
	s.start()
	s.must(second.Go("/board"), second.See("Term board"))
	recording, err := postgres.Value[uuid.UUID](ctx, s.house.DB,
		`select rc.recording_id from recording_capture rc join capture c on c.id = rc.capture_id
			where c.source = 'desk'`)
	s.must(err)
	if r := s.ready(recording); r.Stored < kept || r.Length < time.Second {
		t.Errorf("%d bytes were sent and the browser had %d; it is %v long", r.Stored, kept, r.Length)
	}
	left, err := hand.Ask[int](second,
		`new Promise(done => { const o = indexedDB.open('late-lantern'); o.onsuccess = () => { const r = o.result.transaction('pieces').objectStore('pieces').count(); r.onsuccess = () => done(r.result) } })`)
	if err != nil || left != 0 {
		t.Errorf("%d pieces are still in the browser (%v)", left, err)
	}
}

// TestTwoSecondsFromTheDesk: started and stopped at once, a capture is a recording all the same.
func TestTwoSecondsFromTheDesk(t *testing.T) {
	s := newStage(t, "tid-1")
	b := chromium(t)
	p := s.person(b, lecturer)
	s.must(p.Click("nobody has pressed start"), p.Click("Camera"), p.See("Sound is heard"), p.Click("Start capture"),
		p.Wait(`document.querySelector('.elapsed')?.innerText === '0:02'`), p.Click("Stop capture"),
		p.See("it can be watched now"), p.Click("Trim and title it"),
		p.Wait(`document.querySelectorAll('.strip [data-band]').length === 1`), p.Click("Keep it as it stands"),
		p.See("Keep this title"))
	if length, err := hand.Ask[float64](p, `document.querySelector('video').duration`); err != nil || length < 0.5 ||
		length > 40 {
		t.Errorf("it is %v s long (%v)", length, err)
	}
}

// TestPlaylistByKeyboard moves, takes out, puts back and renames without a mouse.
func TestPlaylistByKeyboard(t *testing.T) {
	s := newStage(t, "tid-1", "tid-2")
	b := chromium(t)
	p := s.person(b, lecturer)
	course, err := postgres.Value[uuid.UUID](context.Background(), s.house.DB,
		`select id from course where code = 'TID 210'`)
	s.must(err)
	order := func(want ...string) string {
		return fmt.Sprintf(`[...document.querySelectorAll('[data-entry]')].map(e => e.querySelector('input')?.value ?? e.querySelector('.title a').innerText).join('|') === %q`, strings.Join(want, "|"))
	}
	moon, one, two := "The Moon and the Sun", "Two high waters a day", "Spring tides and neap tides"
	s.must(p.Go("/courses/"+course.String()+"/playlist"), p.Wait(order(moon, one, two)))
	focus := func(name string) error {
		_, err := hand.Ask[bool](p,
			fmt.Sprintf(`document.querySelector('[aria-label^="Move %s"]').focus(), true`, name))
		return err
	}
	// What the page shows is on its way to the server.
	firstIs := func(heading string) {
		s.until("the order is kept", func() bool {
			first, err := postgres.Value[string](context.Background(), s.house.DB, `select coalesce(e.heading, '')
				from playlist_entry e join playlist p on p.id = e.playlist_id where p.course_id = $1
				order by e.position limit 1`, course)
			s.must(err)
			return first == heading
		})
	}
	// Two presses at once are two steps.
	s.must(focus(two), p.Keys(kb.ArrowUp+kb.ArrowUp), p.Wait(order(two, moon, one)))
	firstIs("")
	s.must(p.Wait(`document.activeElement.getAttribute('aria-label')?.startsWith('Move Spring')`),
		p.Keys(kb.ArrowDown), p.Wait(order(moon, two, one)))
	firstIs(moon)
	s.must(p.Wait(order(moon, two, one)), p.Click("Take out "+two), p.Wait(order(moon, one)), p.See("was taken out"), p.Click("Undo"),
		p.Wait(order(moon, two, one)))
	s.must(p.Write("Topic heading", "Before the mast"+kb.Enter), p.Wait(order("Before the mast", two, one)))
	s.until("the heading is kept", func() bool {
		n, err := postgres.Value[int](context.Background(), s.house.DB,
			`select count(*) from playlist_entry where heading = 'Before the mast'`)
		s.must(err)
		return n == 1
	})
	// Weeks that were taught and have no recording stand as gaps.
	s.must(p.See("nobody captured it"), p.Go("/courses/"+course.String()+"/playlist"),
		p.Wait(order("Before the mast", two, one)))
}

// recordingOf is the recording that came as a file of this name.
func (s *stage) recordingOf(name string) uuid.UUID {
	s.t.Helper()
	id, err := postgres.Value[uuid.UUID](context.Background(), s.house.DB,
		`select rc.recording_id from recording_capture rc join capture c on c.id = rc.capture_id
			where c.file_name = $1`, name)
	s.must(err)
	return id
}
