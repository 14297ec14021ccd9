package e2e

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/target"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/google/uuid"

	"latelantern/e2e/hand"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// captured is the one recording of the lecture under way.
func (s *stage) captured() uuid.UUID {
	s.t.Helper()
	id, err := postgres.Value[uuid.UUID](context.Background(), s.house.DB,
		`select distinct rc.recording_id from recording_capture rc join capture c on c.id = rc.capture_id
			where c.source = 'desk'`)
	s.must(err)
	return id
}

// ready waits until a recording can be watched whole.
func (s *stage) ready(recording uuid.UUID) (r recordings.Recording) {
	s.t.Helper()
	s.until("it can be watched", func() bool {
		var err error
		r, err = s.house.Recordings.Recording(context.Background(), recording)
		if s.must(err); r.State == "failed" {
			s.t.Fatalf("it is %s: %s", r.State, r.Fault)
		}
		return r.State == "ready"
	})
	return r
}

// clean checks that axe finds nothing on a page as it stands.
func (s *stage) clean(p *hand.Page, what string) {
	s.t.Helper()
	axe, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	s.must(err)
	found, err := p.Axe(string(axe))
	s.must(err)
	for _, f := range found {
		s.t.Errorf("%s: %+v", what, f)
	}
}

// later moves the clock of a page.
func later(p *hand.Page, d time.Duration) error {
	_, err := hand.Ask[bool](p,
		fmt.Sprintf(`window.dispatchEvent(new CustomEvent('late-lantern-clock', {detail: %d}))`, d.Milliseconds()))
	return err
}

// countPictures counts in a page which pictures its scripts were given or made and have not closed. One that the
// browser itself drops, as when a track ends while its next picture is on the way, is not among them.
const countPictures = `(() => {
	const Picture = VideoFrame, open = window.openPictures = new Set()
	const { read } = ReadableStreamDefaultReader.prototype, { close } = Picture.prototype
	ReadableStreamDefaultReader.prototype.read = async function () {
		const r = await read.call(this)
		if (r.value instanceof Picture) open.add(r.value)
		return r
	}
	Picture.prototype.close = function () { open.delete(this); close.call(this) }
	window.VideoFrame = class extends Picture { constructor(...from) { super(...from); open.add(this) } }
	return true
})()`

// TestTwoPicturesWithOneClock: slides and speaker, a pause, a flagged moment, slides that are
// closed and chosen again; and all of it is there afterwards, in step.
func TestTwoPicturesWithOneClock(t *testing.T) {
	ctx := context.Background()
	const title = "Slides beside a speaker"
	s := newStage(t, "tid-1")
	b := chromium(t, chromedp.Flag("auto-select-tab-capture-source-by-title", title))
	p := s.person(b, lecturer)
	page := "data:text/html,<title>" + title +
		"</title><body style='background:rgb(20,140,60)'><p id=n style='font:80px serif'></p><script>setInterval(() => n.textContent = Date.now(), 100)</script>"
	show := func() *hand.Page {
		slides, err := p.Beside()
		s.must(err, chromedp.Do(slides.Context(), chromedp.Navigate(page)))
		return slides
	}
	slides := show()
	warnings, err := p.Warnings()
	s.must(err)
	_, err = hand.Ask[bool](p, countPictures)
	s.must(err, p.Click("nobody has pressed start"), p.Click("Both"), p.See("The screen is shown"),
		p.See("The camera sees something"), p.See("Sound is heard"),
		p.Click("Hear yourself"), p.See("Say something now"), p.See("This is how you sound"))
	// The frame is drawn with the keyboard here.
	s.must(p.Click("Only a part of it"), p.Wait(`document.querySelector('[role=application]')`))
	_, err = hand.Ask[bool](p, `document.querySelector('[role=application]').focus(), true`)
	s.must(err, p.Keys(kb.ArrowRight), p.Wait(`document.querySelector('.frame').style.left === '7%'`))
	s.clean(p, "the frame")
	s.must(p.Click("The frame is right"), p.See("All of it again"))
	s.must(p.Click("Start capture"), p.Wait(safe+" >= 3"), p.Wait(`document.title.startsWith('● 0:0')`),
		p.Wait(`document.getElementById('icon').href.endsWith('capturing.svg')`))

	// The second picture waits until the server knows the first: nothing is refused.
	if refused, err := hand.Ask[int](p,
		`performance.getEntriesByType('resource').filter(r => r.name.includes('/api/') && r.responseStatus >= 400).length`); err != nil || refused != 0 {
		t.Errorf("%d requests were refused (%v)", refused, err)
	}

	// Flagged by key; the word can be written while the lecture goes on.
	_, err = hand.Ask[bool](p, `window.dispatchEvent(new KeyboardEvent('keydown', {code: 'KeyM', altKey: true}))`)
	s.must(err, p.Write("A word for the moment", "the tide turns"), p.Keys("\t"))
	s.clean(p, "the desk while it captures")
	s.must(p.Click("Pause"), p.See("Paused: nothing is captured"), p.Wait(`document.title.startsWith('Ⅱ')`))
	at, err := hand.Ask[string](p, `document.querySelector('.elapsed').innerText`)
	s.must(err)
	time.Sleep(1500 * time.Millisecond)
	if now, err := hand.Ask[string](p, `document.querySelector('.elapsed').innerText`); err != nil || now != at {
		t.Errorf("while it is paused the clock goes from %s to %s (%v)", at, now, err)
	}
	s.must(p.Click("Go on capturing"), p.Wait(safe+" >= 6"))
	// Of each of two sources the newest picture is held, and one is on its way.
	if open, err := hand.Ask[int](p, `openPictures.size`); err != nil || open < 1 || open > 4 {
		t.Errorf("%d pictures are held while it captures (%v)", open, err)
	}

	// What is shown changes its size: the picture of the capture keeps its own.
	s.must(slides.Size(900, 700), p.Wait(safe+" >= 8"), p.See("The screen is shown"))

	// The window with the slides is closed: it is said at once, the rest goes on, and other slides can follow.
	slides.Close()
	s.must(p.See("What was shown has ended"), p.Wait(safe+" >= 11"))
	show()
	s.must(p.Click("Choose the screen, window or tab again"),
		p.Wait(`!document.body.innerText.includes('What was shown has ended')`), p.Wait(safe+" >= 14"))
	s.must(p.Click("Stop capture"), p.See("it can be watched now"))
	// Nothing is warned of; of pictures see countPictures.
	told, err := warnings()
	told = slices.DeleteFunc(told, func(w string) bool { return strings.Contains(w, "VideoFrame was garbage collected") })
	if err != nil || len(told) > 0 {
		t.Errorf("the browser warns of %q (%v)", told, err)
	}

	r, err := s.house.Recordings.Recording(ctx, s.captured())
	s.must(err)
	if !r.SecondVideo || !r.Video || !r.Audio || r.Parts != 1 {
		t.Errorf("it has two pictures and sound: %+v", r)
	}
	s.must(p.Click("Trim and title it"), p.Wait(`document.querySelectorAll('.strip [data-band]').length > 0`),
		p.See("the tide turns"), p.See("paused 0:0"), p.Wait(`openPictures.size === 0`),
		p.Wait(`document.querySelectorAll('video').length === 2 && [...document.querySelectorAll('video')].every(v => v.readyState > 1)`))
	s.clean(p, "the bench with two pictures")
	s.must(p.Click("Play"), plays(p))
	const drift = `(() => { const [a, b] = document.querySelectorAll('video'); return !a.paused && !b.paused && a.currentTime > 1 && Math.abs(a.currentTime - b.currentTime) < 0.1 })()`
	s.must(p.Wait(drift), p.Click("Pause"))
	// In a stretch the second picture leads: there the two have changed places.
	s.must(seek(p, 2*time.Second), p.Keys("i"), seek(p, 5*time.Second), p.Keys("o"), p.Click("Second picture first"),
		p.Wait(`document.querySelector('.band .second')`), seek(p, 3*time.Second),
		p.Wait(`document.querySelector('.screens.swapped')`),
		seek(p, 7*time.Second), p.Wait(`document.querySelector('.screens') && !document.querySelector('.screens.swapped')`),
		p.Click("Change places"), p.Wait(`document.querySelector('.screens.swapped')`), p.Keys("u"),
		p.Wait(`!document.querySelector('.band .second')`))
	// Both can stand alike, one in the corner of the other, or one alone; this browser remembers.
	stand := func(how, is string) {
		t.Helper()
		s.must(p.Wait(`(() => { const s = document.querySelector('[aria-label="How the two pictures stand"]')
			if (!s) return false
			s.value = '`+how+`'; s.dispatchEvent(new Event('change')); return true })()`), p.Wait(`(() => {
			const [a, b] = [...document.querySelectorAll('.screens video')].map(v => v.getBoundingClientRect())
			return `+is+` })()`))
	}
	s.must(p.Go("/watch/" + r.ID.String()))
	stand("large", `a.width > b.width * 2 && a.right < b.left`)
	stand("alike", `Math.abs(a.width - b.width) < 2 && a.right < b.left`)
	stand("inset", `a.width > b.width * 3 && b.right < a.right && b.bottom < a.bottom && b.top > a.top`)
	stand("alone", `!b && a.width > 400`)
	s.must(p.Keys("s"), p.Wait(`document.querySelectorAll('.screens video').length === 2`))
	stand("alone", `a.width === 0 && b.width > 400`)
	s.clean(p, "one picture of two")
	s.must(p.Keys("a"), p.Wait(`document.querySelector('.screens.large.swapped')`), p.Go("/watch/"+r.ID.String()),
		p.Wait(`document.querySelector('.screens.large:not(.swapped)')`))
}

// TestATabThatFailsGoesOn: a tab that is gone in the middle of a capture loses nothing; on the
// next visit the desk saves what was left and goes on in the same recording, with the gap shown.
func TestATabThatFailsGoesOn(t *testing.T) {
	ctx := context.Background()
	s := newStage(t, "tid-1")
	b := chromium(t)
	p := s.person(b, lecturer)
	s.must(p.Click("nobody has pressed start"), p.Click("Camera"), p.See("Sound is heard"), p.Click("Start capture"),
		p.Wait(safe+" >= 3"))
	desk, err := hand.Ask[string](p, `location.pathname`)
	s.must(err)
	second, err := p.Beside()
	s.must(err, second.Allow(s.base()))
	_, err = chromedp.CallBrowser(second.Context(), target.CloseTarget,
		target.CloseTargetParams{TargetID: chromedp.FromContext(p.Context()).Target.TargetID})
	s.must(err)
	time.Sleep(3 * time.Second) // a gap that can be seen
	s.must(second.Go(desk), second.See("broke off"), second.See("What was left on this computer is saved"))
	// The choice is remembered: microphone and camera are open again.
	s.must(second.See("The camera sees something"), second.See("Sound is heard"), second.Click("Start capture"),
		second.Wait(safe+" >= 3"), second.Click("Stop capture"), second.See("it can be watched now"))
	r, err := s.house.Recordings.Recording(ctx, s.captured())
	s.must(err)
	if holes := r.Holes.Spans(); r.Parts != 2 || len(holes) != 1 || holes[0].Len() < 2*time.Second {
		t.Fatalf("%d parts with holes %v", r.Parts, r.Holes)
	}
	s.must(second.Click("Trim and title it"), second.See("nothing was captured"),
		second.Wait(`document.querySelector('.gap')`))
	s.clean(second, "the bench with a gap")
	s.must(second.Click("Play"), plays(second))
	// The player leaves the hole out.
	end := r.Holes.Spans()[0].End.Seconds()
	s.must(second.Wait(fmt.Sprintf(`document.querySelector('video').currentTime > %f`, end+0.3)))
}

// TestAForgottenStop: past the planned end, when nobody has spoken for a minute, the desk asks,
// and stops by itself after a countdown that can be seen.
func TestAForgottenStop(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := newStage(t, "tid-1")
	quiet := filepath.Join(t.TempDir(), "quiet.wav")
	if out, err := exec.Command("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "anullsrc=r=48000:cl=mono:d=20",
		quiet).CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	b := chromium(t, chromedp.Flag("use-file-for-fake-audio-capture", quiet))
	p := s.person(b, lecturer)
	lecture, _ := s.underWay()
	_, err := s.house.DB.Exec(ctx,
		`update lecture
			set ends_at = $2::timestamptz - interval '1 minute', starts_at = $2::timestamptz - interval '90 minutes'
			where id = $1`, lecture, s.house.Clock.Now())
	s.must(err, p.Go("/lectures/"+lecture.String()+"/capture"), p.Click("Camera"), p.See("Nothing is heard yet"),
		p.Click("Start capture"), p.Wait(safe+" >= 2"))
	s.must(later(p, 70*time.Second), p.See("Is the lecture over?"), p.See("nobody has spoken for a minute"),
		p.Wait(`document.title.startsWith('!')`), p.See("Nothing has been heard for 1 minute"))
	s.must(p.Click("It goes on"), p.Wait(`!document.body.innerText.includes('Is the lecture over?')`),
		later(p, 9*time.Minute))
	time.Sleep(time.Second)
	s.must(p.Wait(`!document.body.innerText.includes('Is the lecture over?')`), later(p, 90*time.Second),
		p.See("The capture stops by itself in"), later(p, 61*time.Second), p.See("it can be watched now"))
}
