package e2e

import (
	"context"
	"math"
	"strconv"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/demo"
	"latelantern/e2e/hand"
	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/publication"
)

// TestWhoWatchesGoesOver to what is published meanwhile, by itself and at the same moment of the lecture; and what may
// be taken away is made once, with its progress, and says its true size.
func TestWhoWatchesGoesOver(t *testing.T) {
	ctx := context.Background()
	s := newStage(t, "tid-1")
	recording, err := postgres.Value[uuid.UUID](ctx, s.house.DB,
		`select r.id from recording r join lighting p on p.recording_id = r.id limit 1`)
	s.must(err)
	r, err := s.house.Recordings.Recording(ctx, recording)
	s.must(err)
	teacher, err := postgres.Value[uuid.UUID](ctx, s.house.DB, `select id from person where email = $1`,
		demo.Accounts[lecturer].Email)
	s.must(err)
	kept := r.Kept().Spans()
	first := kept[0]
	p := s.person(chromium(t), student)
	s.must(p.Go("/watch/"+recording.String()), p.Wait(`document.querySelector('video')?.readyState > 1`),
		p.Click("Play"), plays(p),
		p.Wait(`(document.querySelector('video').currentTime = 25, true)`),
		p.Wait(`document.querySelector('video').currentTime > 26`))
	_, err = hand.Ask[bool](p, `(v => {
		window.moments = [];
		setInterval(() => window.moments.push([performance.now() / 1000, v.currentTime, v.paused ? 1 : 0]), 50);
		return true })(document.querySelector('video'))`)
	s.must(err, s.house.Cuts.Change(ctx, recording, teacher, cuts.Strike,
		span.Span{Start: first.Start + 5*time.Second, End: first.Start + 15*time.Second}),
		s.house.Releases.Light(ctx, r.CourseID, recording, teacher))
	s.must(p.Wait(`window.moments.some((m, i, all) => i > 0 && m[1] < all[i - 1][1] - 5)
		&& document.querySelector('video').currentTime > 12`), plays(p))
	// Ten seconds before the moment were struck: the clock of the player goes back by as much, and else goes on.
	moments, err := hand.Ask[[][3]float64](p, `window.moments`)
	s.must(err)
	start, end := moments[0], moments[len(moments)-1]
	if off := (end[1] + 10 - start[1]) - (end[0] - start[0]); math.Abs(off) > 6 || end[2] != 0 {
		t.Errorf("it goes on %v s away from where it was; paused %v", off, end[2] == 1)
	}
	s.must(p.Click("Make the video"), p.See("the video, "))
	s.clean(p, "a copy to take away")
	size, err := hand.Ask[float64](p,
		`fetch(document.querySelector('a[download]').href, {method: 'GET', headers: {Range: 'bytes=0-0'}}).then(r => Number(r.headers.get('Content-Range').split('/')[1]))`)
	s.must(err)
	now, err := s.house.Recordings.Recording(ctx, recording)
	s.must(err)
	if c, err := s.house.Publication.CopyOf(ctx, *now.EditionID, publication.CopyVideo); err != nil ||
		c.Bytes != int64(size) || c.Bytes == 0 {
		t.Errorf("it says %d bytes, and has %v (%v)", c.Bytes, size, err)
	}
	// Taken back, it is closed where it plays.
	s.must(s.house.Releases.Darken(ctx, r.CourseID, recording, teacher), p.See("This door is closed"),
		p.See("is not lit yet"))
}

// TestAnAccountIsClosed by a coordinator: whoever is in is out, and learns why; and many guesses only slow one down.
func TestAnAccountIsClosed(t *testing.T) {
	s := newStage(t)
	name, err := postgres.Value[string](context.Background(), s.house.DB, `select name from person where email = $1`,
		demo.Accounts[student].Email)
	s.must(err)
	b := chromium(t)
	p := s.person(b, student)
	s.must(p.Go("/dates"), p.See("Today"))
	boss := s.person(chromium(t), coordinator)
	s.must(boss.Go("/people"), boss.Write("Find by name or address", name),
		boss.Wait(`document.querySelectorAll('tbody tr').length === 1`))
	s.must(boss.Click("End sessions: "+name), boss.See("All sessions of "+name+" have ended"),
		p.See("Your sign-in has ended"))
	s.clean(p, "a sign-in that has ended")
	s.must(p.Write("email", demo.Accounts[student].Email), p.Write("password", demo.Password), p.Click("Sign in"),
		p.See("Today"))
	s.must(boss.Click("Close the account: "+name), boss.See("is closed, and their sessions have ended"),
		p.See("Your sign-in has ended"))
	s.clean(boss, "people, one of them closed")
	s.must(p.Write("email", demo.Accounts[student].Email), p.Write("password", demo.Password), p.Click("Sign in"),
		p.See("This account is closed"))
	s.clean(p, "a closed account")
	s.must(boss.Click("Undo"), boss.Wait(`!/closed/.test(document.querySelector('tbody').innerText)`),
		p.Click("Sign in"), p.Wait(`location.pathname === "/dates"`))

	other, err := chromium(t).Page(s.base())
	s.must(err)
	t.Cleanup(other.Close)
	s.must(other.Go("/sign-in"), other.Write("email", demo.Accounts[lecturer].Email),
		other.Write("password", "not this one"))
	for slow := false; !slow; {
		s.must(other.Wait(`!document.querySelector('button[type=submit]').disabled`), other.Click("Sign in"),
			other.Wait(`!document.querySelector('button[type=submit]').disabled || /The next one can be made/.test(document.body.innerText)`))
		slow, err = hand.Ask[bool](other, `/The next one can be made/.test(document.body.innerText)`)
		s.must(err)
	}
	s.clean(other, "a sign-in that waits")
	s.must(other.Wait(`!document.querySelector('button[type=submit]').disabled`),
		other.Write("password", demo.Password), other.Click("Sign in"), other.Wait(`location.pathname !== "/sign-in"`))
}

// TestASessionEndsWhileSomeoneCaptures: the desk captures on, keeps what comes on its computer, says why it is not
// stored, and goes on once they have signed in again in another tab.
func TestASessionEndsWhileSomeoneCaptures(t *testing.T) {
	ctx := context.Background()
	s := newStage(t, "none")
	b := chromium(t)
	desk := s.person(b, lecturer)
	s.must(desk.Click("nobody has pressed start"), desk.Click("Camera"), desk.See("Sound is heard"),
		desk.Click("Start capture"), desk.Wait(safe+" >= 3"))
	teacher, err := postgres.Value[uuid.UUID](ctx, s.house.DB, `select id from person where email = $1`,
		demo.Accounts[lecturer].Email)
	s.must(err, s.house.SignIn.EndSessions(ctx, teacher), desk.See("Your sign-in has ended"))
	before, err := hand.Ask[float64](desk, safe)
	s.must(err)
	time.Sleep(stays) // nothing tells that it does not go away
	if at, err := hand.Ask[string](desk, `location.pathname`); err != nil || at == "/sign-in" {
		t.Fatalf("the desk was left for %s (%v)", at, err)
	}
	again, err := desk.Beside()
	s.must(err)
	t.Cleanup(again.Close)
	s.must(again.SignIn(demo.Accounts[lecturer].Email, demo.Password),
		desk.Wait(safe+" >= "+strconv.Itoa(int(before)+10)), desk.Click("Stop capture"),
		desk.See("it can be watched now"))
}

// stays is longer than a page takes to hear that its session has ended.
const stays = 15 * time.Second
