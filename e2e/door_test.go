package e2e

import (
	"context"
	"regexp"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/google/uuid"

	"latelantern/e2e/hand"
	"latelantern/internal/capture"
	"latelantern/internal/platform/postgres"
)

// underWay is the lecture of TID 210 that is on, with who teaches it.
func (s *stage) underWay() (lecture, by uuid.UUID) {
	s.t.Helper()
	row, err := postgres.One[struct{ Lecture, By uuid.UUID }](context.Background(), s.house.DB,
		`select l.id as lecture, m.person_id as by from lecture l join course c on c.id = l.course_id
			join membership m on m.course_id = c.id and m.role = 'lecturer'
			where c.code = 'TID 210' and not l.unplanned and $1 between l.starts_at and l.ends_at`, s.house.Clock.Now())
	s.must(err)
	return row.Lecture, row.By
}

// TestTheDoorway: a student asks and is let in; a guest comes by a link and is out when it is
// taken back. Neither page is loaded anew by hand for what the other side does.
func TestTheDoorway(t *testing.T) {
	s := newStage(t, "none")
	b := chromium(t)
	lecture, by := s.underWay()
	at := "/lectures/" + lecture.String()
	p := s.person(b, lecturer)
	s.must(p.Go(at), p.See("The doorway is open."), p.Click("Change this lecture"))
	s.must(p.Click("Someone who teaches lets each one in."), p.Click("Keep the change"), p.See("The change is kept."),
		p.Click("Close"))

	tavi := s.person(b, student)
	s.must(tavi.Go(at), tavi.See("At this lecture someone lets you in."), tavi.Click("Ask to come in"),
		tavi.See("You have asked."))
	s.must(p.See("Tavi Brandal"), p.Click("Let in Tavi Brandal"), p.See("1 person follows it now"),
		tavi.Wait(`!/You have asked/.test(document.body.innerText)`))
	begun, err := s.house.Capture.Begin(context.Background(),
		capture.Start{Lecture: lecture, By: by, Source: capture.Desk})
	s.must(err)
	s.must(tavi.See("This lecture is being captured."),
		tavi.Wait(`[...document.querySelectorAll('a.el-button')].some(a => a.innerText === 'Come in' && a.pathname === '/watch/`+begun.Recording.String()+`')`))
	s.must(p.Click("Send out Tavi Brandal"), tavi.See("You were sent out of this lecture"), p.See("was sent out"),
		p.Click("Let in again: Tavi Brandal"), tavi.See("Come in"))

	// With a word, and from now on everyone.
	s.must(p.Click("with a word to Tavi Brandal"), p.Wait(`document.activeElement.ariaLabel === 'A word to Tavi Brandal'`),
		p.Keys("Please come in the break."), p.Keys(kb.Enter), tavi.See("“Please come in the break.”"))
	s.clean(tavi, "the page of a lecture of which one was sent out")
	s.must(p.Click("Let in again: Tavi Brandal"), tavi.See("Come in"))
	young, name := s.another(b, lecture, 0)
	s.must(young.Go(at), young.Click("Ask to come in"), young.See("You have asked."), p.See("1 person asks to come in"))
	s.clean(p, "a lecture with someone at its door")
	s.must(p.Click("Send away: "+name), young.See("Ask to come in"), young.Click("Ask to come in"), p.Click("with a word to "+name),
		p.Keys("In five minutes."), p.Keys(kb.Enter), young.See("“In five minutes.”"), young.See("You were not let in."),
		young.Click("Ask to come in"), p.Click("From now on, let everyone in"), young.See("Come in"),
		p.See("Whoever comes is let in."), p.Click("Let them ask again"), young.See("Come in"))

	s.must(p.Write("Name of the guest", "Ebba Lindqvist-Rowe"), p.Click("Make a link"), p.See("Ebba Lindqvist-Rowe"))
	link, err := hand.Ask[string](p, `document.querySelector('.guest input').value`)
	s.must(err)
	path := regexp.MustCompile(`/guest/.+`).FindString(link)
	guest, err := b.Page(s.base())
	s.must(err)
	t.Cleanup(guest.Close)
	s.must(guest.Go(path), guest.Wait(`location.pathname === '`+at+`'`),
		guest.See("At this lecture someone lets you in."), guest.See("Ebba Lindqvist-Rowe"))
	for what, expression := range map[string]string{"places": `document.querySelectorAll('nav a').length`,
		"who is at the door": `document.querySelectorAll('aside form').length`} {
		if n, err := hand.Ask[int](guest, expression); err != nil || n != 0 {
			t.Errorf("a guest sees %s (%v)", what, err)
		}
	}
	s.must(guest.Go("/board"), guest.See("You are here as a guest of one lecture"), guest.Click("To the lecture"),
		guest.See("Ask to come in"))
	s.must(p.Click("Take the link back: Ebba Lindqvist-Rowe"), p.See("Whoever came in by it is out."), guest.Go(path),
		guest.See("This link does not hold any more."))
	s.must(p.Click("Undo"), p.See("Undone."), guest.Go(path), guest.See("At this lecture someone lets you in."))
}

// TestTheStandingRoom leads to today's lecture first, and shows what is unplanned only while someone captures it.
func TestTheStandingRoom(t *testing.T) {
	s := newStage(t, "none")
	b := chromium(t)
	p, tavi := s.person(b, lecturer), s.person(b, student)
	s.must(p.Go("/courses"), p.Click("TID 210"), p.Click("Go to the standing room"), p.See("Today’s lecture is here:"),
		p.See("Currents in the narrows"), p.See("Nothing is on in the standing room."))
	room, err := hand.Ask[string](p, `location.pathname`)
	s.must(err, tavi.Go(room), tavi.See("Nothing is on in the standing room."))
	s.must(p.Write("What it is about", "An hour of questions"), p.Click("Capture something unplanned"),
		p.Wait(`location.pathname.endsWith('/capture')`))
	id, err := hand.Ask[string](p, `location.pathname.split('/')[2]`)
	s.must(err, tavi.Go("/dates"))
	if there, err := hand.Ask[bool](tavi, `document.body.innerText.includes('An hour of questions')`); err != nil ||
		there {
		t.Errorf("before it is captured it stands among the dates (%v)", err)
	}
	s.must(tavi.Go(room), tavi.See("Nothing is on in the standing room."))
	_, by := s.underWay()
	_, err = s.house.Capture.Begin(context.Background(),
		capture.Start{Lecture: uuid.MustParse(id), By: by, Source: capture.Desk})
	s.must(err)
	s.must(tavi.See("Something unplanned is being captured now"), tavi.See("An hour of questions"),
		tavi.See("Currents in the narrows"))
	if first, err := hand.Ask[string](tavi, `document.querySelector('.date a').innerText`); err != nil ||
		first != "Currents in the narrows" {
		t.Errorf("the first lecture of the standing room is %q (%v)", first, err)
	}
	s.must(tavi.Click("An hour of questions"), tavi.See("Not planned: it comes from the standing room"))
	if told, err := hand.Ask[bool](tavi, `document.body.innerText.includes('This is not today')`); err != nil || told {
		t.Errorf("what is on in the standing room is told not to be today's lecture (%v)", err)
	}
}

// TestACalendarIsBroughtIn: what it would plan is shown, with what cannot be; then it is planned, and undone.
func TestACalendarIsBroughtIn(t *testing.T) {
	s := newStage(t, "none")
	b := chromium(t)
	p := s.person(b, lecturer)
	s.must(p.Go("/courses"), p.Click("TID 210"), p.Click("Bring in a calendar"),
		p.Give("Choose an iCalendar file", s.calendar("DTEND;TZID=Atlantic/Faroe:DAYT120000")), p.See("cannot be taken as it is"),
		p.See("line 17"))
	s.must(p.Give("Choose an iCalendar file", s.calendar("")), p.See("4 lectures."), p.See("There is no hall “The skerries” here"),
		p.See("Tides by the hour"), p.Click("Plan them"), p.See("4 lectures are planned."))
	s.must(p.Click("Lectures"), p.See("08:15 to 09:45 in Net Loft"))
	list, err := s.house.Schedule.Lectures(context.Background(), []uuid.UUID{s.course("TID 210")})
	s.must(err)
	if len(list) != 14 {
		t.Errorf("%d lectures, want 14", len(list))
	}
	s.must(p.Click("Take away"), p.See("were taken away"), p.Click("Undo"), p.See("Undone."))
	if again, err := s.house.Schedule.Lectures(context.Background(), []uuid.UUID{s.course("TID 210")}); err != nil ||
		len(again) != len(list) {
		t.Errorf("undone there are %d (%v)", len(again), err)
	}
}
