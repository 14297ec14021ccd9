package e2e

import (
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/demo"
	"latelantern/e2e/hand"
	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// theOne is the recording of a stage with a single one.
func (s *stage) theOne() uuid.UUID {
	s.t.Helper()
	id, err := postgres.Value[uuid.UUID](s.t.Context(), s.house.DB, `select id from recording`)
	s.must(err)
	return id
}

// TestALinkInAnotherBrowser is made by a lecturer, opens the recording to a stranger with its pass phrase, is worth
// nothing elsewhere, and ends while it plays: by the clock, and when it is renewed.
func TestALinkInAnotherBrowser(t *testing.T) {
	t.Parallel()
	s := newStage(t, "tid-1")
	id := s.theOne()
	p := s.person(chromium(t), lecturer)
	s.must(p.Go("/courses/"+s.course("TID 210").String()+"/rule?for="+id.String()), p.Click("Make a link for outsiders"),
		p.Write("Name of the link", "The examiner"), p.Write("Pass phrase", "short"),
		p.See("A pass phrase has at least 8 characters."), p.Write("Pass phrase", "a bell at low water"),
		p.Click("Make the link"), p.See("Nobody has come by it yet"), p.See("asks for a pass phrase"))
	s.clean(p, "a link for outsiders")
	address := func() string {
		link, err := hand.Ask[string](p, `document.querySelector('.link input').value`)
		s.must(err)
		return link[strings.Index(link, "/open/"):]
	}
	old := address()
	b := chromium(t)
	guest, err := b.Page(s.base())
	s.must(err)
	come := func() {
		t.Helper()
		s.must(guest.See("You were given a link"), guest.Write("Pass phrase", "a bell at low water"),
			guest.Click("Come in"), guest.Wait(`document.querySelector('video')?.readyState > 1`),
			guest.Click("Play"), plays(guest))
	}
	s.must(guest.Go(old), guest.See("Your name"), guest.Write("Your name", "Ada Voss"))
	s.clean(guest, "the door of a link")
	come()
	s.clean(guest, "a recording by a link")
	for _, told := range []string{"TID 210", "Reading the Tides", "Next in the playlist"} {
		s.must(guest.Wait(`![...document.querySelectorAll('body *:not(script)')].some(e =>
			!e.closest('.transcript, li') && e.children.length === 0 && e.innerText?.includes('` + told + `'))`))
	}
	// Nothing but that recording: the places of the college are not hers, nor her media address another browser's.
	media, err := hand.Ask[string](guest, `fetch('/api/watch/`+id.String()+`').then(r => r.json()).then(w => w.media)`)
	s.must(err, guest.Go("/catch-up"), guest.See("The recording you have a link to is still open to you"),
		guest.Go("/watch/"+id.String()))
	other := s.person(chromium(t), student)
	status, err := hand.Ask[int](other, `fetch('`+media+`').then(r => r.status)`)
	if s.must(err); status != 404 {
		t.Errorf("in another browser her address is answered with %d", status)
	}
	s.must(p.See("One person came by it"), p.See("Ada Voss"))
	// A right that ends by the clock stops what plays.
	opening, err := postgres.Value[uuid.UUID](t.Context(), s.house.DB, `select id from opening`)
	s.must(err)
	by, err := postgres.Value[uuid.UUID](t.Context(), s.house.DB, `select made_by from opening`)
	s.must(err, guest.Wait(`document.querySelector('video')?.readyState > 1`), guest.Click("Play"), plays(guest))
	soon := viewing.Opening{Uses: viewing.WatchRead, Window: viewing.Window{From: viewing.FromOnce,
		Until: viewing.UntilDate, UntilAt: s.house.Clock.Now().Add(8 * time.Second)}}
	s.must(s.house.Audience.ChangeOpening(t.Context(), audience.Opens{Recording: id}, opening, by,
		audience.OpeningForm{Name: "The examiner", Opening: soon}))
	s.must(guest.WaitFor(`!document.querySelector('video')`, time.Minute))
	soon.Until = viewing.UntilEver
	s.must(s.house.Audience.ChangeOpening(t.Context(), audience.Opens{Recording: id}, opening, by,
		audience.OpeningForm{Name: "The examiner", Opening: soon}), guest.Go(old))
	come()
	s.must(p.Click("New address"), p.See("Whoever came by the old one is out"),
		guest.WaitFor(`!document.querySelector('video')`, time.Minute), guest.Go(old), guest.See("This link opens nothing"))
	if now := address(); now == old {
		t.Errorf("it is still %s", now)
	}
	s.must(p.Click("Take it back"), p.See("It is closed to them again."), p.Click("Undo"), p.See("The examiner"))
}

// TestALinkToAPlaylistInAnotherBrowser opens to a stranger what stands in it, as it is at the time, and nothing else.
func TestALinkToAPlaylistInAnotherBrowser(t *testing.T) {
	t.Parallel()
	s := newStage(t, "tid-1", "tid-2")
	b := chromium(t)
	p := s.person(b, lecturer)
	s.must(p.Go("/courses/"+s.course("TID 210").String()+"/playlist"), p.Click("Two high waters a day"),
		p.Go("/courses/"+s.course("TID 210").String()+"/playlist"), p.Click("Links for outsiders"),
		p.See("Whoever has such a link"), p.Click("Make a link for outsiders"), p.Write("Name of the link", "The board"),
		p.See("Whoever has it can watch"), p.Click("Make the link"), p.See("Nobody has come by it yet"))
	s.clean(p, "links to a playlist")
	link, err := hand.Ask[string](p, `document.querySelector('.link input').value`)
	s.must(err)
	guest, err := chromium(t).Page(s.base())
	s.must(err, guest.Go(link[strings.Index(link, "/open/"):]), guest.Write("Your name", "Ada Voss"),
		guest.Click("Come in"), guest.See("Reading the Tides"), guest.See("Two high waters a day"))
	s.clean(guest, "a playlist by a link")
	s.must(guest.Click("Two high waters a day"), guest.Wait(`document.querySelector('video')?.readyState > 1`),
		guest.Click("Play"), plays(guest), guest.See("All of Reading the Tides"))
	// What is not its page leads back to it; taken back, nothing is left of it.
	s.must(guest.Go("/catch-up"), guest.See("The playlist you have a link to is still open to you"),
		guest.Click("To the playlist"), guest.See("Two high waters a day"), p.See("One person came by it"),
		p.Click("Take it back"), p.See("It is closed to them again."), guest.Go("/"), guest.See("Sign in"),
		p.Click("Undo"), p.See("Ada Voss"))
}

// TestOpenToPeopleAndEveryone: who gains is seen before, they find it in their catch-up at once, and lose it again.
func TestOpenToPeopleAndEveryone(t *testing.T) {
	t.Parallel()
	s := newStage(t, "tid-1")
	id := s.theOne()
	b := chromium(t)
	p, far := s.person(b, lecturer), s.person(b, inBoats)
	const found = `[...document.querySelectorAll('a')].some(a => a.innerText === 'Two high waters a day')`
	s.must(far.Go("/catch-up"), far.Wait(`!`+found),
		p.Go("/courses/"+s.course("TID 210").String()+"/rule?for="+id.String()), p.Click("Open it to everyone here"),
		p.See("more can watch."), p.Click("Open it"), p.See("Everyone with an account here"), far.Wait(found),
		far.See("Also open to you"), far.Click("Two high waters a day"),
		far.Wait(`document.querySelector('video')?.readyState > 1`))
	s.must(p.Click("Take it back"), p.See("It is closed to them again."), far.See("This door is closed"),
		p.Click("Undo"), p.See("Everyone with an account here"))
	s.clean(p, "openings of a recording")
}

// TestShutOutFromTheSheet: with what it changes, whoever watches is out, and one press lets them in again.
func TestShutOutFromTheSheet(t *testing.T) {
	t.Parallel()
	s := newStage(t, "tid-1")
	id := s.theOne()
	b := chromium(t)
	p, reader := s.person(b, lecturer), s.person(b, student)
	name, err := postgres.Value[string](t.Context(), s.house.DB, `select p.name from person p
		join membership m on m.person_id = p.id join course k on k.id = m.course_id
		where k.code = 'TID 210' and m.role = 'student' and p.email = $1`, demo.Accounts[student].Email)
	s.must(err, reader.Go("/watch/"+id.String()), reader.Wait(`document.querySelector('video')?.readyState > 1`),
		p.Go("/courses/"+s.course("TID 210").String()+"/playlist"), p.Click("24/24"), p.See("24 of 24 can watch now"),
		p.Click("Shut out "+name), p.See("can then watch one recording less"), p.Write("Note", "Not before the re-sit"))
	s.clean(p, "shutting someone out")
	s.must(p.Click("Shut "+name+" out"), p.See(name+" is shut out."), p.See("23 of 24 can watch now"),
		p.See("Not before the re-sit"), reader.See("You were shut out of this recording"),
		p.Click("Undo"), p.See("24 of 24 can watch now"), reader.Go("/watch/"+id.String()),
		reader.Wait(`document.querySelector('video')?.readyState > 1`))
}
