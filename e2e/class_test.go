package e2e

import (
	"context"
	"regexp"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"latelantern/demo"
	"latelantern/e2e/hand"
	"latelantern/internal/door"
	"latelantern/internal/platform/postgres"
)

// soon is within how long everyone is told how a live class goes: two seconds, and what a busy machine adds.
const soon = 6 * time.Second

// told checks that a page says something soon.
func told(s *stage, p *hand.Page, text string) {
	s.t.Helper()
	s.must(p.WaitFor("document.body.innerText.includes(`"+text+"`)", soon))
}

// TestALiveClass: a lecturer, two students and a guest, from the door to the end; each is told what happens, in words
// and soon.
func TestALiveClass(t *testing.T) {
	ctx := context.Background()
	const title = "Slides of another window"
	s := newStage(t, "none")
	b := chromium(t, chromedp.Flag("auto-select-tab-capture-source-by-title", title))
	lecture, by := s.underWay()
	_, err := s.house.DB.Exec(ctx, `update lecture set doorway = 'ask' where id = $1`, lecture)
	s.must(err)
	at := "/lectures/" + lecture.String()
	link, err := s.house.Door.Invite(ctx, lecture, by,
		door.GuestForm{Name: "Ebba Lindqvist-Rowe", Role: "listener", EndsAt: s.house.Clock.Now().Add(3 * time.Hour)})
	s.must(err)

	desk, tavi := s.person(b, lecturer), s.person(b, student)
	open := func() *hand.Page {
		p, err := b.Page(s.base())
		s.must(err)
		t.Cleanup(p.Close)
		return p
	}
	other, name := s.another(b, lecture, 0)
	guest := open()
	s.must(guest.Go(regexp.MustCompile(`/guest/.+`).FindString(link.Link)))

	// At the door: who asks stands at the desk, beside what starts and stops.
	s.must(desk.Go(at+"/capture"), desk.Click("Camera"), desk.See("The camera sees something"),
		desk.See("Sound is heard"), desk.Click("The class is there"))
	s.must(tavi.Go(at), tavi.Click("Ask to come in"), tavi.See("You have asked."))
	told(s, desk, "1 person asks to come in")
	s.must(other.Go(at), other.Click("Ask to come in"), guest.Click("Ask to come in"))
	told(s, desk, "3 people ask to come in")
	s.clean(desk, "the desk with people at the door")
	s.must(desk.Click("Let in Tavi Brandal"), desk.See("2 people ask to come in"), desk.Click("Let all of them in"),
		desk.See("3 people follow it now"))

	// Begun, and followed: whoever says that they have seen the sign sees it play.
	s.must(desk.Click("Start capture"), desk.Wait(safe+" >= 4"))
	for _, p := range []*hand.Page{tavi, other, guest} {
		s.must(p.Click("Come in"), p.Click("I have seen it"), p.See("Live, a few seconds behind"), plays(p))
	}
	s.clean(tavi, "the live page")
	// Who else is there is seen where the course lets it be, and not by guests.
	teacher, err := desk.Beside()
	s.must(err, teacher.Go("/courses/"+s.course("TID 210").String()+"/setting"),
		teacher.Click("Let those who follow a lecture see each other’s names"))
	told(s, tavi, "3 people follow this lecture")
	s.must(tavi.Click("3 people follow this lecture"), tavi.See(name), tavi.See("Ebba Lindqvist-Rowe"))
	s.clean(tavi, "the live page with who else follows it")
	const others = `document.body.innerText.includes("follow this lecture")`
	if there, err := hand.Ask[bool](guest, others); err != nil || there {
		t.Errorf("a guest is told who follows it (%v)", err)
	}
	s.must(teacher.Click("Let those who follow a lecture see each other’s names"),
		tavi.Wait("!"+others))
	teacher.Close()
	// Who came late goes to the beginning, and is with the others soon, at their speed again.
	const head, fast = `document.querySelector('video').`, `playbackRate === 2`
	s.must(tavi.WaitFor(head+`seekable.end(0) > 28`, 90*time.Second),
		tavi.Click("From the start, at twice the speed until now"),
		tavi.Wait(head+`currentTime < 6 && `+head+fast), tavi.Wait(head+`playbackRate === 1`))
	s.until("what played for them behind the others is kept", func() bool {
		n, err := postgres.Value[int](ctx, s.house.DB, `select count(*) from watched w join person_account p
			on p.id = w.person_id where p.email = $1 and not isempty(w.ranges)`, demo.Accounts[student].Email)
		s.must(err)
		return n == 1
	})
	sheet, err := desk.Beside()
	s.must(err, sheet.Go("/run-sheet"), sheet.Click("Who is in"), sheet.See("3 people follow it now"))
	s.clean(sheet, "the door on the run sheet")
	sheet.Close()

	// Paused, and gone on.
	s.must(desk.Click("Pause"), desk.See("Paused: nothing is captured"))
	for _, p := range []*hand.Page{tavi, other, guest} {
		told(s, p, "The lecturer has paused")
	}
	s.must(desk.Click("Go on capturing"))
	told(s, tavi, "Live, a few seconds behind")
	told(s, guest, "Live, a few seconds behind")

	// The microphone is muted with a sign, and the picture comes from elsewhere, while it captures.
	s.must(desk.Click("Mute the microphone"), desk.Wait(`document.querySelector('.pictures .muted')`),
		desk.Click("The microphone is muted: let it be heard again"),
		desk.Wait(`!document.querySelector('.pictures .muted')`))
	slides, err := desk.Beside()
	s.must(err, chromedp.Do(slides.Context(),
		chromedp.Navigate("data:text/html,<title>"+title+"</title><body style='background:rgb(200,20,200)'>")))
	shown := `(async () => { const v = document.querySelector('.picture video'); if (!v?.videoWidth) return false;
		const c = new OffscreenCanvas(8, 8).getContext('2d'); c.drawImage(v, 0, 0, 8, 8);
			const d = c.getImageData(4, 4, 1, 1).data; return d[0] > 150 && d[1] < 90 && d[2] > 150 })()`
	isOther := func() bool { ok, err := hand.Ask[bool](desk, shown); s.must(err); return ok }
	s.must(desk.Click("Screen, window or tab"), desk.See("The screen is shown"))
	s.until("the other window is captured", isOther)
	s.must(desk.Click("Camera"), desk.See("The camera sees something"))
	s.until("the camera is captured again", func() bool { return !isOther() })

	// Sent out: said at once, and nothing more is asked for.
	s.must(desk.Click("Send out " + name))
	told(s, other, "You were sent out of this lecture")
	asked := `performance.getEntriesByType('resource').filter(r => r.name.includes('/media/')).length`
	before, err := hand.Ask[int](other, asked)
	s.must(err)
	time.Sleep(3 * time.Second)
	if after, err := hand.Ask[int](other, asked); err != nil || after > before {
		t.Errorf("who was sent out asks %d times more (%v)", after-before, err)
	}
	s.must(desk.See("was sent out"), plays(tavi))

	// Broken off: the computer is gone, and nothing comes for two minutes.
	desk.Close()
	slides.Close()
	_, err = s.house.DB.Exec(ctx,
		`update track set arrived_at = arrived_at - interval '2 minutes' where length is null`)
	s.must(err, tavi.WaitFor(`document.body.innerText.includes('The capture broke off')`, 40*time.Second))
	told(s, guest, "The capture broke off")

	// Another computer goes on with it.
	desk = s.person(b, lecturer)
	s.must(desk.Go(at+"/capture"), desk.See("nothing has come from it for two minutes"),
		desk.Click("End the other where it stands"))
	told(s, tavi, "The lecture is over.")
	s.must(desk.Click("Camera"), desk.See("The camera sees something"), desk.Click("The class is there"),
		desk.Click("Start capture"), desk.Wait(safe+" >= 4"))
	s.must(tavi.See("Live, a few seconds behind"), plays(tavi))

	// Ended for everyone on another device: first taken back, then not. The desk stops by itself; all are told.
	tag, err := s.house.DB.Exec(ctx, `update viewing_rule set from_kind = 'days', days_after_lecture = 3
		where ended_at is null and recording_id is null
		and course_id = (select course_id from lecture where id = $1)`, lecture)
	if s.must(err); tag.RowsAffected() != 1 {
		t.Fatal("the course has no rule")
	}
	phone, err := desk.Beside()
	s.must(err, phone.Go(at+"/class"), phone.Click("End the class for everyone"), phone.See("The class ends for everyone in"))
	told(s, desk, "The class ends for everyone in")
	s.must(desk.Click("Do not end it"), desk.See("End the class for everyone"))
	s.must(phone.WaitFor(`!document.body.innerText.includes("The class ends for everyone in")`, soon))
	s.must(phone.Click("End the class for everyone"), phone.See("The class ends for everyone in"))
	s.clean(phone, "the class page as it ends")
	s.must(desk.WaitFor("document.body.innerText.includes('All of it is saved')", 25*time.Second),
		phone.See("ended it for everyone at"), phone.See("To its recording"))
	s.clean(phone, "the class page of a class that has ended")
	told(s, tavi, "The lecture is over. It can be watched here when")
	s.must(tavi.See("By the viewing rule it opens on"))
	told(s, guest, "The lecture is over. It can be watched here when")
	s.clean(tavi, "the live page of a lecture that is over")
	// Who comes now stands before a closed door, until it is opened again.
	late, _ := s.another(b, lecture, 1)
	where, err := hand.Ask[string](tavi, `location.pathname`)
	s.must(err, late.Go(where), late.See("This class of TID 210 has ended."))
	s.must(phone.Click("Open its doorway again"))
	told(s, late, "At this lecture of TID 210 someone lets you in.")
	s.must(tavi.Go(at), tavi.See("The lecture is over."))
	if on, err := hand.Ask[bool](tavi, `/is on now|being captured/.test(document.body.innerText)`); err != nil || on {
		t.Errorf("its page says that it is on (%v)", err)
	}
	// What begins after the end goes on, and opens the class again.
	_, err = s.house.DB.Exec(ctx, `insert into class_end (lecture_id, made_at, due_at) values ($1, $2, $2)`, lecture,
		s.house.Clock.Now().Add(-time.Second))
	s.must(err, desk.Click("Capture more of this lecture"), desk.Click("Camera"), desk.See("The camera sees something"),
		desk.Click("The class is there"), desk.Click("Start capture"), desk.Wait(safe+" >= 4"),
		desk.See("End the class for everyone"), desk.See("Stop capture"))
}
