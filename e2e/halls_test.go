package e2e

import (
	"context"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"

	"latelantern/demo"
	"latelantern/e2e/hand"
	"latelantern/internal/standin/recorder"
)

// TestFromTheTimetableToALitLecture: a coordinator puts a recorder into a hall, and a lecture is
// set to capture by itself. From then on nobody touches it but to trim, to name and to light it.
func TestFromTheTimetableToALitLecture(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := newStage(t, "none")
	b := chromium(t)
	ines, maren, tavi := s.person(b, coordinator), s.person(b, lecturer), s.person(b, student)
	s.must(ines.Go("/halls"), ines.See("No recorder stands here."), ines.Click("Put a recorder here: Kelp Hall"))
	s.clean(ines, "the halls with a form")
	s.must(ines.Click("Put a recorder here"), ines.See("Give the recorder a name"),
		ines.Write("Name of the recorder", "Recorder in the lectern"), ines.Keys(kb.Enter),
		ines.See("It is shown this once."), ines.See("was never heard of"))
	token, err := hand.Ask[string](ines, `document.querySelector('.copy input').value`)
	s.must(err)
	s.clean(ines, "the halls with a token")

	lecture, _ := s.underWay()
	s.must(maren.Go("/lectures/"+lecture.String()), maren.Click("Change this lecture"),
		maren.Click("The recorder of the hall starts it by itself"), maren.Click("Keep the change"), maren.See("Undo"))

	film := filepath.Join(t.TempDir(), "talk.mp4")
	talk, err := demo.Film("tid-2")
	s.must(err, os.WriteFile(film, talk, 0o600))
	// the clock of the server is its own
	now, err := hand.Ask[int64](ines, `fetch('/api/me').then(r => r.json()).then(me => Date.parse(me.now))`)
	s.must(err)
	running, stop := context.WithCancel(ctx)
	d, err := recorder.Open(running,
		recorder.Config{Server: s.base(), Token: token, Folder: t.TempDir(), Lecture: film,
			Ahead: time.Until(time.UnixMilli(now)), Beat: time.Second})
	s.must(err)
	ended := make(chan error, 1)
	go func() { ended <- d.Run(running) }()
	t.Cleanup(func() { stop(); <-ended })

	s.must(ines.See("captured by Recorder in the lectern"),
		ines.Wait(`document.querySelector('.of-hall img')?.naturalWidth > 0`),
		ines.Wait(`document.querySelector('.of-hall [role=meter]')`), ines.See("Stop the capture"))
	s.clean(ines, "the halls while one captures")
	s.must(ines.Go("/run-sheet"), ines.See("Recorder in the lectern captures it"),
		ines.Wait(`document.querySelector('.head .recorder.capturing')`),
		tavi.Go("/catch-up"), tavi.See("TID 210 is on now"))

	// The lecture is long enough to trim; then its planned end has come, and its tail is short.
	s.must(ines.Wait(`/Safe up to (0:[1-5]\d|[1-9]:)/.test(document.body.innerText)`))
	_, err = s.house.DB.Exec(ctx, `update lecture set ends_at = $2, tail_min = 0 where id = $1`, lecture,
		s.house.Clock.Now())
	s.must(err, maren.Go("/board"), maren.Click("waits for a trim"),
		maren.Wait(`document.querySelectorAll('.strip [data-band]').length > 0 && document.querySelectorAll('video').length === 2`))
	s.must(maren.Wait(`document.querySelector('video').readyState > 1`), maren.Click("Keep it as it stands"),
		maren.Click("Keep this title"), maren.Click("Put it into the playlist of TID 210"),
		maren.Click("Light it for TID 210"), maren.Wait(`document.querySelector('aside .lantern.lit')`),
		tavi.Go("/catch-up"), tavi.Click("Currents in the narrows"),
		tavi.Wait(`document.querySelector('video')?.readyState > 2`), tavi.Click("Play"), plays(tavi))

	// A token that is taken back is worth nothing at once, and that can be undone.
	s.must(ines.Go("/halls"), ines.Wait(`document.querySelector('summary')`),
		ines.Click("Token, or take it out: Recorder in the lectern"), ines.Click("Take its token back"),
		ines.See("nothing more is taken from it"), ines.See("token taken back"),
		ines.Click("Undo"), ines.Wait(`!document.body.innerText.includes('token taken back')`))
}
