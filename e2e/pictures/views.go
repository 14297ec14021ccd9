package main

import (
	"errors"
	"fmt"
	"slices"

	"latelantern/e2e/hand"
)

// view is one picture.
type view struct {
	name   string
	who    int // of demo.Accounts
	path   string
	wait   string // until this is true
	more   func(*hand.Page) error
	night  bool
	narrow bool
}

const link = `[...document.querySelectorAll('a')].find(a => a.textContent.includes(%q))`

// Who looks, of demo.Accounts.
const lecturer, coordinator, student = 0, 1, 3

const (
	board = `document.querySelectorAll('.lantern').length > 40`
	ready = `document.querySelector('video')?.readyState > 2`
)

// views are all of them, in the order in which they are taken.
func views(slide string) []view {
	return slices.Concat(boardViews(), courseworkViews(), dayViews(), planViews(slide))
}

// boardViews are the board and what one press away from it is done to a recording.
func boardViews() []view {
	return []view{
		{name: "term-board", who: coordinator, path: "/board",
			wait: board},
		{name: "trim-bench", who: coordinator, path: "/board",
			wait: board, more: func(p *hand.Page) error {
				return errors.Join(p.Click("waits for its title"),
					p.Wait(`document.querySelectorAll('.strip .row').length > 4 && `+ready))
			}},
		{name: "captions", who: coordinator, path: "/board", wait: board,
			more: func(p *hand.Page) error {
				return errors.Join(p.Click("are a draft that nobody has looked at"),
					p.Wait(`document.querySelectorAll('.lines li').length > 10 && `+ready), p.Click("Play each line"),
					p.Focus(".lines li:nth-child(4) textarea"))
			}},
	}
}

// courseworkViews are of what is done for many recordings at once.
func courseworkViews() []view {
	return []view{
		{name: "recordings", who: coordinator, path: "/recordings",
			wait: `document.querySelectorAll('.el-table-v2__row').length > 5`, more: func(p *hand.Page) error {
				return errors.Join(p.Click("Choose Fog"), p.Click("Choose The character of a light"), p.See("2 recordings are"),
					p.Wait(`document.querySelectorAll('.el-table-v2__row .is-checked').length === 2`))
			}},
		{name: "viewing-rule", who: coordinator, path: "/board",
			wait: board, more: func(p *hand.Page) error {
				return errors.Join(p.Click("BOA 140 week"), p.Click("Bench 1 and Bench 2"), p.Click("Bench 3"),
					p.See("more can watch"))
			}},
		{name: "sight", who: lecturer, path: "/playlists", wait: fmt.Sprintf(link, "TID 210"),
			more: func(p *hand.Page) error {
				return errors.Join(p.Click("TID 210"), p.Click("23/24"), p.See("Davin Fjeldvik"), p.Click("Close"),
					p.Click("Seen as"), p.Set("Whose eyes", "Davin Fjeldvik"), p.See("as Davin Fjeldvik sees it"))
			}},
		{name: "playlist", who: lecturer, path: "/playlists", wait: fmt.Sprintf(link, "TID 210"),
			more: func(p *hand.Page) error {
				return errors.Join(p.Click("TID 210"), p.Click("For the examination"), p.See("Also shown in"),
					p.Wait(`document.querySelectorAll('[data-entry]').length > 3`))
			}},
	}
}

// dayViews are what students see, and what a day needs.
func dayViews() []view {
	return []view{
		{name: "catch-up", who: student, path: "/catch-up", wait: `document.querySelectorAll('.lecture').length > 3`},
		{name: "catch-up-phone", who: student, path: "/catch-up",
			wait: `document.querySelectorAll('.lecture').length > 3`, narrow: true, night: true},
		{name: "search", who: student, path: "/search?words=water",
			wait: `[...document.querySelectorAll('.hit img')].filter(i => i.complete && i.naturalWidth > 0).length > 5`},
		{name: "watch", who: student, path: "/catch-up", wait: `document.querySelectorAll('.lecture').length > 3`,
			more: func(p *hand.Page) error {
				return errors.Join(p.Click("Spring tides"), p.Wait(ready),
					p.Click("From springs to neaps"),
					p.Wait(`document.querySelector('video').currentTime > 15 && document.querySelector('video').readyState > 2`))
			}},
		{name: "run-sheet", who: coordinator, path: "/run-sheet",
			wait: `document.querySelectorAll('.entry-of').length > 3`},
		{name: "halls", who: coordinator, path: "/halls",
			wait: `document.querySelectorAll('.of-hall img').length > 1 && ` +
				`[...document.querySelectorAll('.of-hall img')].every(i => i.complete)`,
			more: func(p *hand.Page) error {
				return errors.Join(p.Click("Start: BOA 140"),
					p.Wait(`/saved up to 0:(0[4-9]|[1-5])/.test(document.body.innerText)`))
			}},
	}
}

// planViews are a course, what it is planned with, and the desk.
func planViews(slide string) []view {
	return []view{
		{name: "course", who: lecturer, path: "/courses", wait: fmt.Sprintf(link, "TID 210"),
			more: func(p *hand.Page) error {
				return errors.Join(p.Click("TID 210"), p.See("To come"))
			}},
		{name: "plan", who: lecturer, path: "/courses", wait: fmt.Sprintf(link, "TID 210"),
			more: func(p *hand.Page) error {
				return errors.Join(p.Click("TID 210"), p.See("To come"), p.Click("Plan lectures"),
					p.See("Choose a day of the week"), clash(p))
			}},
		{name: "lecture", who: lecturer, path: "/courses", wait: fmt.Sprintf(link, "TID 210"),
			more: func(p *hand.Page) error {
				return errors.Join(p.Click("TID 210"), p.See("To come"), p.Click("Currents in the narrows"),
					p.See("Doorway"), p.Click("Change this lecture"), p.See("Keep the change"))
			}},
		{name: "class", who: lecturer, path: "/courses", wait: fmt.Sprintf(link, "TID 210"),
			more: func(p *hand.Page) error {
				return errors.Join(p.Click("TID 210"), p.See("To come"), p.Click("Currents in the narrows"),
					p.Click("Class page"), p.See("Same question here."), p.See("have not answered"), p.See("are there."))
			}},
		{name: "files", who: coordinator, path: "/files", wait: `document.querySelectorAll('article').length > 4`},
		{name: "capture-desk-ready", who: lecturer, path: "/board",
			wait: `document.querySelectorAll('.lantern').length > 5`, more: func(p *hand.Page) error {
				return both(p, slide)
			}},
		// This one leaves a capture behind, so it comes last.
		{name: "capture-desk", who: lecturer, path: "/board", wait: `document.querySelectorAll('.lantern').length > 5`,
			more: func(p *hand.Page) error {
				return errors.Join(both(p, slide), p.Click("Start capture"),
					p.Wait(`/Saved up to 0:0[5-9]/.test(document.body.innerText)`), p.Click("Flag this moment"),
					p.Write("A word for the moment", "the tide turns"),
					p.Wait(`/Saved up to 0:1[2-9]/.test(document.body.innerText)`))
			}},
	}
}
