package e2e

import (
	"testing"

	"latelantern/demo"
)

// TestFortyCoursesAtAGlance: where they stand closest forty courses are seen on one screen, which is kept for whoever
// wants it so; and of a hundred those are found that one looks for.
func TestFortyCoursesAtAGlance(t *testing.T) {
	s := newStage(t, "tid-1")
	for range 2 { // what is there is not added again
		s.must(demo.Fill(t.Context(), s.house, demo.Size{Courses: 105, Students: 20}))
	}
	const (
		rows = `[...document.querySelectorAll('.placed')].filter(r => r.getBoundingClientRect().bottom <= innerHeight)`
		two  = `document.querySelector('.board.closest')`
	)
	b := chromium(t)
	p := s.person(b, coordinator)
	s.must(p.Go("/board"), p.See("COA 400"), p.Wait(rows+`.length < 10`), p.Click("Close"),
		p.Wait(rows+`.length > 8`), p.Click("Closest"), p.Wait(two), p.Wait(rows+`.length >= 40`),
		p.Wait(`document.documentElement.scrollWidth <= innerWidth`))
	// Nothing is too small to be pressed, nor lies over another.
	s.must(p.Wait(`[...document.querySelectorAll('.hangs')].every(e => {
		const r = e.getBoundingClientRect();
		return r.width >= 24 && r.height >= 24 || r.width === 0 })`))
	s.clean(p, "the closest board")
	s.must(p.Go("/board"), p.Wait(two), p.Write("Course, lecturer or hall", "in practice"),
		p.Wait(`document.querySelectorAll('.placed').length === 20`), p.Set("Hall", "Quay 3"),
		p.Wait(`document.querySelectorAll('.placed').length === 9`), p.See("SHI 401"),
		p.Set("What its lectures are", "with what waits for a hand"),
		p.Wait(`document.querySelectorAll('.placed').length < 9`),
		p.Set("Hall", "Kelp Hall"), p.See("No course is like that."),
		// The list of halls lies over it until it has gone.
		p.Wait(`![...document.querySelectorAll('.el-select__popper')].some(e => e.checkVisibility())`),
		p.Click("Show all of them"), p.Wait(rows+`.length >= 40`))
	other := s.person(b, lecturer)
	s.must(other.Go("/board"), other.See("TID 210"), other.Wait(`document.querySelector('.board.roomy')`))
}
