package e2e

import (
	"context"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/e2e/hand"
	"latelantern/internal/platform/postgres"
)

// slowly watches a lecture on a line of 300 kbit/s from the other end of the world: it begins with the small copy, and
// what it waits for is said.
func (s *stage) slowly(b *hand.Browser, recording uuid.UUID) {
	s.t.Helper()
	p := s.person(b, student)
	// The page is there already; what plays is not.
	s.must(p.Go("/watch/"+recording.String()), p.Wait(`document.querySelector('video')?.readyState > 1`),
		p.Go("/catch-up"), p.See("Two high waters a day"), p.Line(300_000, 200*time.Millisecond))
	// What is said for a moment is noted as it is said.
	s.must(p.Wait(`(() => {
		window.told = new Set();
		const note = () => document.querySelectorAll('.player [role=status]').forEach(e => told.add(e.innerText));
		new MutationObserver(note).observe(document.body, {subtree: true, childList: true, characterData: true});
		return true })()`))
	begun := time.Now()
	s.must(p.Click("Two high waters a day"), p.Wait(`document.querySelector('video')?.readyState > 1`),
		p.Wait(`told.has('Being opened') && told.has('On its way')`))
	s.t.Logf("the first picture after %v", time.Since(begun))
	if height, err := hand.Ask[int](p, `document.querySelector('video').videoHeight`); err != nil || height != 360 {
		s.t.Errorf("on a slow line it begins %d lines high (%v)", height, err)
	}
	s.must(p.Line(30_000, 200*time.Millisecond), p.Click("Play"), p.See("The line is slower than the lecture"))
	s.kill()
	s.must(p.Line(0, 0), p.See("The server does not answer"))
	s.start()
	s.must(plays(p))
}

// TestASlowLine: the small copy follows by itself, with its progress where the lecture is shown;
// a student takes it, or the sound alone, and goes on where they were.
func TestASlowLine(t *testing.T) {
	ctx := context.Background()
	s := newStage(t, "tid-1")
	recording, err := postgres.Value[uuid.UUID](ctx, s.house.DB,
		`select r.id from recording r join lighting p on p.recording_id = r.id limit 1`)
	s.must(err)
	b := chromium(t)
	p := s.person(b, student)
	s.must(p.Go("/watch/"+recording.String()), p.Wait(`document.querySelector('video')?.readyState > 1`),
		p.See("Sound alone"))
	if none, err := hand.Ask[bool](p,
		`![...document.querySelectorAll('option')].some(o => o.innerText.startsWith('Small'))`); err != nil || !none {
		t.Errorf("a small copy is offered before there is one (%v)", err)
	}
	// It is made now, by a server that makes small copies.
	track, err := postgres.Value[uuid.UUID](ctx, s.house.DB,
		`select t.id from track t join recording_capture rc on rc.capture_id = t.capture_id where rc.recording_id = $1`,
		recording)
	s.must(err, s.house.Capture.AskSmall(ctx, track))
	s.until("there is a small copy", func() bool {
		r, err := s.house.Recordings.Recording(ctx, recording)
		s.must(err)
		_, err = s.house.Publication.Small(ctx, *r.EditionID)
		return err == nil && r.SmallState == "ready"
	})
	s.must(p.Go("/watch/"+recording.String()), p.See("Small, "), p.Click("Play"), plays(p))
	s.must(p.Set("How much comes over the line", "small"),
		p.Wait(`document.querySelector('video').videoHeight === 360`))
	s.must(p.Set("How much comes over the line", "large"), p.Wait(`document.querySelector('video').videoHeight > 360`))
	at, err := hand.Ask[float64](p, `document.querySelector('video').currentTime`)
	s.must(err, p.Set("How much comes over the line", "listen"),
		p.Wait(`document.querySelector('.on-screen .slide')?.naturalWidth > 0`), // the slides still turn
		p.Wait(`!document.querySelector('video').paused && document.querySelector('video').videoHeight === 0`))
	if now, err := hand.Ask[float64](p, `document.querySelector('video').currentTime`); err != nil || now < at-1 {
		t.Errorf("it goes on at %v s, after %v s (%v)", now, at, err)
	}
	// What hangs without a word is begun anew.
	s.must(p.Set("How much comes over the line", "large"),
		p.Wait(`document.querySelector('video').videoHeight > 360 && document.querySelector('video').readyState > 2`),
		p.Go("/watch/"+recording.String()+"?again"))
	s.must(p.Set("How much comes over the line", "listen"), p.Wait(`(() => {
		const add = MediaSource.prototype.addSourceBuffer;
		MediaSource.prototype.addSourceBuffer = function (type) {
			const buffer = add.call(this, type);
			if (type.startsWith('video')) {
				MediaSource.prototype.addSourceBuffer = add;
				buffer.appendBuffer = () => { window.hangs = true };
			}
			return buffer };
		return true })()`), p.Set("How much comes over the line", "large"), p.Wait(`window.hangs`), p.Click("Play"),
		plays(p), p.Set("How much comes over the line", "listen"))
	s.slowly(b, recording)
	// The choice is remembered.
	s.must(p.Go("/watch/"+recording.String()),
		p.Wait(`document.querySelector('[aria-label="How much comes over the line"]')?.value === 'listen'`))
}
