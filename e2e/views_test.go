package e2e

import (
	"context"
	"errors"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/google/uuid"

	"latelantern/e2e/hand"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/signin"
)

// place is a view, how one gets there, and what shows that it is whole.
type place struct {
	name string
	who  int // -1 for nobody
	path string
	do   func(*hand.Page) error
	wait string
}

func (s *stage) places() []place {
	ctx := context.Background()
	id := func(sql string) string {
		v, err := postgres.Value[uuid.UUID](ctx, s.house.DB, sql)
		s.must(err)
		return v.String()
	}
	course := id(`select id from course where code = 'TID 210'`)
	lecture := id(`select l.id from lecture l join course c on c.id = l.course_id where c.code = 'TID 210'
		order by starts_at offset 3 limit 1`)
	lit := id(`select r.id from recording r join lighting p on p.recording_id = r.id join course c on c.id = p.course_id
		where c.code = 'TID 210' limit 1`)
	waits := id(`select r.id from recorded r join lecture l on l.id = r.lecture_id join course c on c.id = l.course_id
		where c.code = 'ALG 118' and r.cut_list_id is null`)
	next := id(`select l.id from lecture l join course c on c.id = l.course_id where c.code = 'TID 210'
		order by starts_at offset 4 limit 1`)
	key, err := s.house.SignIn.Key(ctx,
		uuid.MustParse(id(`select id from person_account where not active and not guest limit 1`)), signin.Invitation)
	s.must(err)
	welcome, err := url.Parse(key)
	s.must(err)
	pick := func(p *hand.Page) error { return errors.Join(p.Click("Tuesday"), p.Set("Hall", "Kelp Hall")) }
	sheet := filepath.Join(s.t.TempDir(), "roster.csv")
	s.must(os.WriteFile(sheet,
		[]byte("email,name,course,part,group\nnew@skerry.example,New One,TID 210,student,\nnobody,No Address,TID 210,student,\n"), 0o600))
	calendar := s.calendar("")
	board := `document.querySelectorAll('.lantern').length > 20`
	return []place{
		{"sign-in", -1, "/sign-in", nil, `document.querySelector('#password')`},
		{"sign-in refused", -1, "/sign-in", func(p *hand.Page) error {
			p.Write("email", "nobody@skerry.example")
			p.Write("password", "wrong")
			return p.Click("Sign in")
		}, `document.querySelector('[role=alert]')`},
		{"term board", coordinator, "/board", nil, board},
		{"lecture sheet", coordinator, "/board?lecture=" + lecture, nil,
			`document.querySelector('.drop') && document.querySelector('.el-drawer').getBoundingClientRect().right <= innerWidth + 1`},
		{"nowhere", coordinator, "/no/such/place", nil, `document.querySelector('h1')`},
		{"choose a lecture", lecturer, "/capture", nil, `document.querySelector('main .lantern')`},
		{"capture desk", lecturer, "/lectures/" + lecture + "/capture",
			func(p *hand.Page) error { return p.Click("Camera") },
			`/server answers/.test(document.body.innerText) && document.querySelector('video').videoWidth`},
		{"trim bench", coordinator, "/recordings/" + waits, nil,
			`document.querySelectorAll('.strip [data-band]').length > 3 && document.querySelector('video').readyState > 1`},
		{"trim bench, keys", coordinator, "/recordings/" + waits, func(p *hand.Page) error {
			p.Wait(`document.querySelectorAll('.strip [data-band]').length > 3`)
			return p.Keys("?")
		}, `/widen the selection/.test(document.body.innerText) && document.querySelector('.el-drawer').getBoundingClientRect().right <= innerWidth + 1`},
		{"trim bench, who", coordinator, "/recordings/" + waits, func(p *hand.Page) error {
			// What comes late moves what is to be pressed.
			return errors.Join(p.See("Captions:"), p.See("Chapters:"), p.See("before the lecture"),
				p.Click("Who and why"))
		}, `/22 cannot/.test(document.body.innerText) && document.querySelector('.el-drawer').getBoundingClientRect().right <= innerWidth + 1`},
		{"viewing rule", lecturer, "/courses/" + course + "/rule", func(p *hand.Page) error {
			p.Click("30 days after term")
			return p.Click("a day")
		}, `document.querySelector('.el-date-editor input') && /can watch what is lit/.test(document.body.innerText)`},
		{"choose a course", coordinator, "/playlists", nil, `document.querySelectorAll('main li').length === 5`},
		{"playlist", coordinator, "/courses/" + course + "/playlist", nil,
			`document.querySelectorAll('[data-entry]').length > 0`},
		{"catch-up", student, "/catch-up", nil, `document.querySelectorAll('.lecture').length > 0`},
		{"search", student, "/search?words=boathouse", nil, `document.querySelectorAll('.hit').length > 0`},
		{"plan of catching up", student, "/catch-up",
			func(p *hand.Page) error { return p.Click("What fits into the time I have") },
			`/That takes/.test(document.body.innerText)`},
		{"watch", student, "/watch/" + lit, nil,
			`document.querySelector('video')?.readyState > 1 && document.querySelectorAll('aside li').length > 5`},
		{"frame of a recording", student, "/embed/recordings/" + lit, nil,
			`document.querySelector('video')?.readyState > 1`},
		{"frame of a playlist", student, "/embed/courses/" + course + "/lists/main",
			func(p *hand.Page) error { return p.Click("Two high waters a day") },
			`document.querySelector('video')?.readyState > 1`},
		{"frame, not signed in", -1, "/embed/recordings/" + lit, nil, `document.querySelector('.door button')`},
		{"run sheet", coordinator, "/run-sheet", nil, `document.querySelectorAll('.entry-of').length > 2`},
		{"courses", coordinator, "/courses", nil, `document.querySelectorAll('main li').length === 5`},
		{"add a course", coordinator, "/courses", func(p *hand.Page) error { return p.Click("Add a course") },
			`document.querySelector('form')`},
		{"course", lecturer, "/courses/" + course, nil, `document.querySelectorAll('.date').length === 10`},
		{"plan with a clash", lecturer, "/courses/" + course + "/plan", pick,
			`document.querySelectorAll('.dates > li').length > 3`},
		{"plan with a fault", lecturer, "/courses/" + course + "/plan",
			func(p *hand.Page) error { pick(p); return p.Write("Ends at", "9") },
			`document.querySelector('[role=alert]')`},
		{"timetable", lecturer, "/courses/" + course + "/timetable",
			func(p *hand.Page) error { return p.Give("Choose an iCalendar file", calendar) },
			`document.querySelectorAll('.dates > li').length > 1`},
		{"lecture", lecturer, "/lectures/" + next, func(p *hand.Page) error { return p.Click("Change this lecture") },
			`document.querySelector('.edit') && document.querySelector('aside form')`},
		{"class page", lecturer, "/lectures/" + lecture + "/class", func(p *hand.Page) error {
			return errors.Join(says(p, "Good morning"), p.Click("Show the code"), p.Click("Change the line of"),
				p.Click("Ask everyone something"))
		}, `document.querySelectorAll('.chat-line').length > 0 && document.querySelector('.hall-code') && document.querySelector('.seat') && document.querySelector('.question')`},
		{"wall of a hall", lecturer, "/lectures/" + lecture + "/wall", nil, `document.querySelector('.code')`},
		{"questions to all", lecturer, "/courses/" + course + "/questions-to-all",
			func(p *hand.Page) error { return p.Click("Write a question") }, `document.querySelector('.question')`},
		{"questions of a course", lecturer, "/courses/" + course + "/questions", nil, `document.querySelector('.waiting')`},
		{"register of a course", lecturer, "/courses/" + course + "/register", nil,
			`document.querySelectorAll('.el-table__row').length > 1`},
		{"one's own register", student, "/courses/" + course + "/register",
			func(p *hand.Page) error { return p.Click("This is not right") }, `document.querySelector('.own form')`},
		{"standing room", lecturer, "/courses/" + course + "/standing-room", nil,
			`document.querySelector('.room form')`},
		{"people of a course", coordinator, "/courses/" + course + "/people",
			func(p *hand.Page) error { return p.Click("Enrol someone") },
			`document.querySelectorAll('tr').length > 20 && document.querySelector('form')`},
		{"words of a course", lecturer, "/courses/" + course + "/words", nil,
			`document.querySelector('textarea')`},
		{"setting of a course", coordinator, "/courses/" + course + "/setting", nil, `document.querySelector('form')`},
		{"carry a course", coordinator, "/courses/" + course + "/carry", nil, `document.querySelector('.page h2')`},
		{"bin", coordinator, "/bin", nil, `/lies here for/.test(document.body.innerText)`},
		{"all recordings", coordinator, "/recordings?waits=hand", func(p *hand.Page) error { return p.Click("Choose all") },
			`document.querySelectorAll('.el-table-v2__row').length > 0`},
		{"titles", coordinator, "/titles", nil, `document.querySelectorAll('tbody tr').length > 0`},
		{"captions", coordinator, "/recordings/" + lit + "/captions", nil, `document.querySelector('h1')`},
		{"halls", coordinator, "/halls", nil, `document.querySelectorAll('.of-hall').length > 2`},
		{"files", coordinator, "/files", func(p *hand.Page) error { return p.Click("Change the lecture of") },
			`document.querySelectorAll('article').length > 0 && document.querySelectorAll('.choice .el-select').length === 2`},
		{"people", coordinator, "/people", nil, `document.querySelectorAll('tr').length > 20`},
		{"roster", coordinator, "/roster", func(p *hand.Page) error { return p.Give("Choose the files", sheet) },
			`document.querySelector('.faults') && document.querySelector('table')`},
		{"terms and halls", coordinator, "/terms", func(p *hand.Page) error { return p.Click("Change Autumn term") },
			`document.querySelector('fieldset')`},
		{"course of a student", student, "/courses/" + course, nil, `document.querySelectorAll('.date').length === 10`},
		{"lecture of a student", student, "/lectures/" + next, nil, `document.querySelector('.now')`},
		{"standing room of a student", student, "/courses/" + course + "/standing-room", nil,
			`document.querySelector('.room')`},
		{"dates", student, "/dates", func(p *hand.Page) error { return p.Click("Show the address") },
			`document.querySelectorAll('.date').length > 5 && document.querySelector('.copy')`},
		{"account", student, "/account", nil, `document.querySelector('form')`},
		{"welcome", -1, welcome.Path, nil, `document.querySelector('form')`},
		{"forgotten", -1, "/forgotten", nil, `document.querySelector('form')`},
		{"guest", -1, "/guest/AAAA", nil, `document.querySelector('[role=alert]')`},
		{"closed door", outsider, "/watch/" + lit, nil, `/This door is closed/.test(document.body.innerText)`},
	}
}

func night(p *hand.Page) error { return scheme(p, "dark") }

func day(p *hand.Page) error { return scheme(p, "light") }

func scheme(p *hand.Page, name string) error {
	_, err := chromedp.Call(p.Context(), emulation.SetEmulatedMedia,
		emulation.SetEmulatedMediaParams{Features: []*emulation.MediaFeature{
			{Name: "prefers-color-scheme", Value: name}, {Name: "prefers-reduced-motion", Value: "reduce"}}})
	return err
}

// TestAxeFindsNothing on any view, by day and by night; and nothing scrolls sideways.
func TestAxeFindsNothing(t *testing.T) {
	axe, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	if err != nil {
		t.Fatal(err)
	}
	s := newStage(t, "tid-1", "alg-3")
	b := chromium(t)
	pages := map[int]*hand.Page{}
	for _, x := range s.places() {
		t.Run(x.name, func(t *testing.T) {
			p := pages[x.who]
			if p == nil {
				if x.who < 0 {
					p, err = b.Page(s.base())
					s.must(err)
					t.Cleanup(p.Close)
				} else {
					p = s.person(b, x.who)
					pages[x.who] = p
				}
			}
			s.must(day(p), p.Go(x.path))
			if x.do != nil {
				s.must(x.do(p))
			}
			if err := p.Wait(x.wait); err != nil {
				delete(pages, x.who)
				t.Fatal(err)
			}
			none := func(when string, findings []hand.Finding, err error) {
				if err != nil {
					t.Fatal(err)
				}
				for _, f := range findings {
					t.Errorf("%s: %s: %s\n%s", when, f.ID, f.Help, f.Target)
				}
			}
			findings, err := p.Axe(string(axe))
			none("by day", findings, err)
			// A text that is not in the catalogue shows as its key.
			if keys, err := hand.Ask[[]string](p, shownKeys); err != nil || len(keys) > 0 {
				t.Errorf("keys are shown: %v (%v)", keys, err)
			}
			if wide, err := hand.Ask[bool](p, `document.documentElement.scrollWidth > innerWidth`); err != nil || wide {
				t.Errorf("it scrolls sideways at 1280 (%v)", err)
			}
			// The night changes colours and nothing else.
			s.must(night(p))
			findings, err = p.Contrast()
			none("by night", findings, err)
		})
	}
}

// shownKeys are the words of a page that look like keys of the catalogue.
const shownKeys = `(document.body.innerText.match(/(?<![\w@.-])[a-z]+(_[a-z]+)*\.[a-z]+(_[a-z]+)*(?![\w.@-])/g) ?? [])
	.filter(w => !/\.(example|csv|ics|vtt|mp4)$/.test(w))`

// installs checks that a browser would keep the application as one of its own.
func installs(s *stage, p *hand.Page) {
	s.t.Helper()
	s.must(p.Go("/catch-up"))
	m, err := chromedp.Call(p.Context(), page.GetAppManifest, page.GetAppManifestParams{})
	s.must(err)
	for _, e := range m.Errors {
		s.t.Errorf("its manifest: %s", e.Message)
	}
	if !strings.HasSuffix(m.URL, "/app.webmanifest") || !strings.Contains(m.Data, `"Late Lantern"`) {
		s.t.Errorf("its manifest is %s: %q", m.URL, m.Data)
	}
	why, err := chromedp.Call(p.Context(), page.GetInstallabilityErrors, cdp.Empty{})
	s.must(err)
	for _, e := range why.InstallabilityErrors {
		if e.ErrorID != "in-incognito" { // each page of a test has a store of its own
			s.t.Errorf("it is not kept: %s", e.ErrorID)
		}
	}
}

// TestStudentsOnPhones: what students use fits 390x844 and 360x640, and is kept as an application of the phone's own.
func TestStudentsOnPhones(t *testing.T) {
	s := newStage(t, "tid-1", "alg-3")
	b := chromium(t)
	p := s.person(b, student)
	installs(s, p)
	for _, x := range s.places() {
		if x.who != student {
			continue
		}
		s.must(p.Size(390, 844), p.Go(x.path))
		if x.do != nil {
			s.must(x.do(p))
		}
		s.must(p.Wait(x.wait))
		for _, size := range [][2]int64{{390, 844}, {360, 640}} {
			s.must(p.Size(size[0], size[1]))
			wide, err := hand.Ask[int64](p, `document.documentElement.scrollWidth`)
			if err != nil || wide > size[0] {
				t.Errorf("%s is %v wide at %v (%v)", x.name, wide, size, err)
			}
			head, err := hand.Ask[float64](p, `document.querySelector('header')?.getBoundingClientRect().height ?? 0`)
			if err != nil || head > 60 {
				t.Errorf("the head of %s is %v high at %v (%v)", x.name, head, size, err)
			}
		}
		small, err := hand.Ask[[]string](p,
			`[...document.querySelectorAll('button, select, a.el-button, input')].filter(e => { const r = e.getBoundingClientRect(); return r.width > 0 && (r.width < 24 || r.height < 24) && getComputedStyle(e).position !== 'absolute' }).map(e => e.outerHTML.slice(0, 120))`)
		if err != nil || len(small) > 0 {
			t.Errorf("%s has targets below 24 pixels: %v (%v)", x.name, small, err)
		}
	}
}
