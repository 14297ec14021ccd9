package e2e

import (
	"testing"

	"latelantern/internal/platform/postgres"
)

// TestTheReadersLanguage: chosen before one signs in or in one's account, kept on this computer, in whatever the pages,
// the library and the server say.
func TestTheReadersLanguage(t *testing.T) {
	s := newStage(t, "tid-1")
	b := chromium(t)
	p, err := b.Page(s.base())
	s.must(err)
	t.Cleanup(p.Close)
	s.must(p.Go("/sign-in"), p.See("With the address and password of your college."), p.Click("Deutsch"),
		p.See("Mit der Adresse und dem Passwort Ihrer Hochschule."),
		p.Wait(`document.documentElement.lang === 'de'`), p.Write("Mailadresse", "nobody@skerry.example"),
		p.Write("Passwort", "wrong"), p.Click("Anmelden"), p.See("Die Adresse oder das Passwort stimmt nicht."))
	s.clean(p, "the sign-in in German")
	q := s.person(b, lecturer)
	s.must(q.Go("/account"), q.See("Language of these pages"), q.Click("Deutsch"), q.See("Sprache dieser Seiten"),
		q.Go("/courses"), q.See("Teilnehmerliste"))
	s.until("the account reads German", func() bool {
		n, err := postgres.Value[int](t.Context(), s.house.DB, `select count(*) from account where language = 'de'`)
		s.must(err)
		return n == 1
	})
	elsewhere := s.person(chromium(t), lecturer) // another computer, which has English
	// It turns German as one is signed in.
	s.must(elsewhere.See("Semestertafel"), elsewhere.Go("/courses"), elsewhere.See("Teilnehmerliste"))
	for _, path := range []string{"/board", "/run-sheet", "/courses", "/dates", "/files", "/titles", "/recordings", "/bin", "/terms"} {
		s.must(q.Go(path), q.Wait(`document.querySelector('main h1')`),
			q.Wait(`document.documentElement.scrollWidth <= innerWidth`))
		s.clean(q, path+" in German")
	}
	s.must(q.Go("/courses/"+s.course("TID 210").String()+"/plan"), q.See("Vorlesungen planen"), q.See("Mo"),
		q.Click("Di"), q.Write("Endet um", "9"), q.See("Geben Sie eine Tageszeit ein, etwa 11:45."),
		// What was entered is not left by a slip.
		q.Wait(`(window.confirm = words => { window.asked = words; return false }, true)`), q.Click("Dateien"),
		q.Wait(`window.asked?.includes('noch nicht gespeichert') && location.pathname.endsWith('/plan')`),
		q.Go("/account"), q.Click("English"), q.See("Language of these pages"))
}
