package e2e

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/e2e/hand"
	"latelantern/internal/audience"
	"latelantern/internal/platform/postgres"
)

// The accounts of the demonstration, by what they are.
const (
	lecturer    = 0
	coordinator = 1
	inThree     = 3 // a student of TID 210, ALG 118 and WEA 220
	student     = 2
	inBoats     = 4 // a student of BOA 140
	outsider    = 4 // enrolled in another course
)

// moving is true when the video plays: its clock runs and its picture is not black.
const moving = `(async () => {
	const v = document.querySelector('video');
	if (!v || v.readyState < 2 || !v.videoWidth) return false;
	const from = v.currentTime;
	await new Promise(r => setTimeout(r, 400));
	const c = Object.assign(document.createElement('canvas'), {width: 64, height: 36}), pen = c.getContext('2d');
	pen.drawImage(v, 0, 0, 64, 36);
	const bright = pen.getImageData(0, 0, 64, 36).data.some((x, i) => i % 4 < 3 && x > 60);
	return bright && v.currentTime > from + 0.1;
})()`

func plays(p *hand.Page) error {
	deadline := time.Now().Add(2 * time.Minute)
	for {
		ok, err := hand.Ask[bool](p, moving)
		if ok {
			return nil
		}
		if time.Now().After(deadline) {
			state, _ := hand.Ask[string](p,
				`(v => v ? [v.readyState, v.currentTime, v.paused, v.error?.message, ...performance.getEntriesByType('resource').filter(r => r.name.includes('/media/')).map(r => r.name.slice(-40) + ' ' + [r.startTime, r.responseEnd].map(Math.round) + ' ' + r.responseStatus), document.body.innerText.slice(0, 600)].join('\n') : document.body.innerText.slice(0, 600))(document.querySelector('video'))`)
			return fmt.Errorf("the video does not play (%s): %w", state, err)
		}
	}
}

// seek moves the video of a trim bench, and waits until the bench stands there: keys begin from where it is.
func seek(p *hand.Page, d time.Duration) error {
	_, err := hand.Ask[float64](p, fmt.Sprintf(`document.querySelector('video').currentTime = %f`, d.Seconds()))
	at := int(d / time.Second)
	return errors.Join(err, p.See(fmt.Sprintf("Split at %d:%02d", at/60, at%60)),
		p.Wait(fmt.Sprintf(`(v => !v.seeking && Math.abs(v.currentTime - %f) < 0.1)(document.querySelector('video'))`,
			d.Seconds())))
}

// safe is up to where the desk says that all is saved, in seconds.
const safe = `Number((document.body.innerText.match(/Saved up to (\d+):(\d+)/) || [0, 0, 0]).slice(1).reduce((a, b) => a * 60 + Number(b), 0))`

// TestOneLectureFromStartToStudent is the whole line: captured, killed in the middle, followed,
// stopped, trimmed, titled, ruled, listed, lit and watched.
func TestOneLectureFromStartToStudent(t *testing.T) {
	ctx := context.Background()
	s := newStage(t, "tid-1", "boa-1")
	course, err := postgres.Value[uuid.UUID](ctx, s.house.DB, `select id from course where code = 'TID 210'`)
	s.must(err, s.house.Audience.SetRule(ctx, audience.Scope{Course: course}, uuid.Nil, nil))
	_, err = s.house.DB.Exec(ctx,
		`update membership set group_name = case when get_byte(uuid_send(person_id), 15) % 2 = 0 then 'Even'
			else 'Odd' end where course_id = $1 and role = 'student'`, course)
	s.must(err)

	b := chromium(t)
	desk := s.person(b, lecturer)
	s.must(desk.Click("nobody has pressed start"), desk.Click("Camera"), desk.See("The server answers"),
		desk.See("Sound is heard"),
		desk.Click("Start capture"), desk.Wait(safe+" >= 3"))

	recording, err := postgres.Value[uuid.UUID](ctx, s.house.DB,
		`select r.id from recording r join recording_capture rc on rc.recording_id = r.id
			join capture c on c.id = rc.capture_id where c.source = 'desk'`)
	s.must(err)

	follower := s.person(b, student)
	s.must(follower.See("TID 210 is on now"), follower.Click("Follow it"),
		follower.See("This lecture is being captured"))
	s.clean(follower, "the sign")
	s.must(follower.Click("I have seen it"), follower.See("Live, a few seconds behind"), plays(follower))

	door := s.person(b, outsider)
	s.must(door.Go("/watch/"+recording.String()), door.See("This door is closed"),
		door.See("you are not on its roster"))

	// A power cut of the server: what was acknowledged is there, and the page goes on by itself.
	stored := func() int64 {
		n, err := postgres.Value[int64](ctx, s.house.DB,
			`select t.stored from track t join recording_capture rc on rc.capture_id = t.capture_id
				where rc.recording_id = $1`, recording)
		s.must(err)
		return n
	}
	s.kill()
	before := stored()
	s.must(desk.See("The server cannot be reached"))
	saved, err := hand.Ask[float64](desk, safe)
	s.must(err)
	s.start()
	if after := stored(); after < before {
		t.Fatalf("%d bytes are stored after the kill, %d were acknowledged", after, before)
	}
	s.must(desk.Wait(fmt.Sprintf("%s >= %v", safe, saved+4)))
	s.must(plays(follower))

	elapsed, err := hand.Ask[string](desk, `document.querySelector('.elapsed').innerText`)
	s.must(err)
	stopped := time.Now()
	s.must(desk.Click("Stop capture"), desk.See("it can be watched now"))
	t.Logf("stopped at %s, watchable %v after the stop", elapsed, time.Since(stopped).Round(time.Millisecond))
	rec, err := s.house.Recordings.Recording(ctx, recording)
	s.must(err)
	var minutes, seconds int
	fmt.Sscanf(elapsed, "%d:%d", &minutes, &seconds)
	// A recorder may start late, the more so on a machine that is busy.
	if captured, length := time.Duration(minutes*60+seconds)*time.Second, rec.Length; length < captured-4*time.Second ||
		length > captured+30*time.Second {
		t.Errorf("%v can be watched of a capture of %v", length, captured)
	}

	trim(t, s, desk)

	// The rule in its sentence: first one group, then everyone.
	s.must(desk.Click("Keep this title"), desk.Click("Set the viewing rule of TID 210"),
		desk.Click("Everyone in TID 210"), desk.Click("Even"), desk.See("can watch what is lit"),
		desk.Click("Keep this rule"), desk.See("This rule holds"), desk.Click("Back to the recording"),
		desk.See("0 of 24 of TID 210 can watch"), desk.Click("Put it into the playlist of TID 210"),
		desk.Click("Light it for TID 210"),
		desk.Wait(`/\b([1-9]|1\d|2[0-3]) of 24 of TID 210 can watch/.test(document.body.innerText)`),
		desk.Wait(`document.querySelector('.lantern.part_lit')`))
	s.must(desk.Click("Viewing rule"), desk.Click("Even of TID 210"), desk.Click("Everyone in TID 210"),
		desk.See("After this 24 of 24 can watch"), desk.Click("Keep this rule"),
		desk.Click("Back to the recording"), desk.See("24 of 24 of TID 210 can watch"),
		desk.Wait(`document.querySelector('aside .lantern.lit')`))

	watch(t, s, b, recording)
}

// trim strikes both ends and a piece of the middle, restores, undoes, and listens to the result.
func trim(t *testing.T, s *stage, p *hand.Page) {
	t.Helper()
	s.must(p.Click("Trim and title it"), p.Wait(`document.querySelectorAll('.strip [data-band]').length > 0`),
		p.Wait(`document.querySelector('video')?.readyState > 2`))
	length, err := hand.Ask[float64](p, `document.querySelector('video').duration * 1000`)
	s.must(err)
	// at is where a moment lies on the page.
	at := func(ms float64) (x, y float64) {
		t.Helper()
		place, err := hand.Ask[[2]float64](p, fmt.Sprintf(`(() => {
			const bands = [...document.querySelectorAll('.strip [data-band]')],
				step = [10,15,20,30,60].map(x => x * 1000).find(x => %v / x <= 6.5);
			const n = Math.min(bands.length - 1, Math.floor(%v / step)); bands[n].scrollIntoView({block: 'center'});
			const r = bands[n].getBoundingClientRect();
				return [r.x + r.width * (%v - n * step) / step, r.y + r.height / 2] })()`, length, ms, ms))
		s.must(err)
		return place[0], place[1]
	}
	strike := func(from, to float64) {
		t.Helper()
		x2, y2 := at(to)
		x1, y1 := at(from)
		s.must(p.Drag(x1, y1, x2, y2), p.Wait(`document.querySelector('.tools [role=status]')`), p.Keys("x"),
			p.Wait(`!document.querySelector('.tools [role=status]')`))
	}
	strike(length-1500, length-1)
	strike(1, 2000)
	strike(4000, 6000)
	s.must(p.See("3 stretches struck"), p.Click("Undo"), p.See("2 stretches struck"), p.Click("Redo"),
		p.See("3 stretches struck"),
		p.Click("Restore struck at 0:00"), p.See("2 stretches struck"), p.Click("Undo"), p.See("3 stretches struck"))

	// The player beside it plays what is kept: it never shows a moment of the middle cut.
	x, y := at(3300)
	s.must(p.Drag(x, y, x, y), p.Wait(`Math.abs(document.querySelector('video').currentTime - 3.3) < 0.3`))
	seen, err := hand.Ask[[]float64](p, `(async () => {
		const v = document.querySelector('video'), out = [];
		document.querySelector('.controls button').click();
		for (const until = performance.now() + 30000;
			performance.now() < until && v.currentTime < 6.8;) { out.push(v.currentTime);
			await new Promise(r => requestAnimationFrame(r)) }
		v.pause();
		return out })()`)
	s.must(err)
	inside, beyond := 0, 0
	for _, at := range seen {
		if at > 4.1 && at < 5.9 {
			inside++
		}
		if at >= 5.95 {
			beyond++
		}
	}
	if inside > 2 || beyond == 0 { // a picture may be late on a busy machine
		t.Errorf("the player was %d times inside what is struck, %d times beyond it: %v", inside, beyond, seen)
	}

	// A title is prefilled and can be changed in place.
	title, err := hand.Ask[string](p, `document.querySelector('.heading .title input').value`)
	s.must(err)
	if !strings.HasPrefix(title, "TID 210, week 4 · ") || !strings.HasSuffix(title, "Currents in the narrows") {
		t.Errorf("the title is prefilled with %q", title)
	}
}

// watch finds the recording as a student, scrubs, goes on where it was left, and finds every door closed as someone
// else.
func watch(t *testing.T, s *stage, b *hand.Browser, recording uuid.UUID) {
	t.Helper()
	p := s.person(b, student)
	s.must(p.Go("/catch-up"), p.Click("Currents in the narrows"),
		p.Wait(`document.querySelector('video')?.readyState > 2`), p.Click("Play"), plays(p))
	length, err := hand.Ask[float64](p, `document.querySelector('video').duration`)
	s.must(err)
	edition, err := s.house.Recordings.Recording(context.Background(), recording)
	s.must(err)
	kept := edition.Cuts().Published().Seconds()
	if length < kept-0.3 || length > kept+0.3 {
		t.Errorf("students see %.2f s, and %.2f s are kept", length, kept)
	}
	s.must(p.Wait(`document.querySelector('select').value = '1.5', document.querySelector('select').dispatchEvent(new Event('change')), document.querySelector('video').playbackRate === 1.5`),
		p.Wait(`document.querySelector('.scrub').value = 5000, document.querySelector('.scrub').dispatchEvent(new Event('input')), document.querySelector('video').currentTime >= 5`),
		p.Click("Pause"))
	media, err := hand.Ask[[]string](p,
		`performance.getEntriesByType('resource').map(e => e.name).filter(n => n.includes('/media/'))`)
	s.must(err)
	s.must(p.Go("/catch-up"), p.Wait(`document.querySelector('.had .watched')`), p.Click("Currents in the narrows"), p.See("where you stopped"),
		p.Wait(`document.querySelector('video')?.currentTime >= 4.9`))

	if len(media) < 4 {
		t.Fatalf("only %d addresses of media were seen", len(media))
	}
	closed := s.person(b, outsider)
	s.must(closed.Go("/watch/"+recording.String()), closed.See("This door is closed"),
		closed.See("you are not on its roster"))
	if page, err := hand.Ask[string](closed, `document.body.innerText`); err != nil ||
		strings.Contains(page, "narrows") {
		t.Errorf("the closed door shows what is behind it: %s (%v)", page, err)
	}
	for _, address := range media {
		u, err := url.Parse(address)
		s.must(err)
		status, err := hand.Ask[int](closed, fmt.Sprintf(`fetch(%q).then(r => r.status)`, u.Path))
		if err != nil || status != 404 {
			t.Errorf("someone of another course gets %d (%v) for %s", status, err,
				u.Path[strings.LastIndex(u.Path, "/"):])
		}
	}
}
