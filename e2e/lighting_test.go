package e2e

import (
	"testing"

	"github.com/chromedp/chromedp/kb"

	"latelantern/internal/platform/postgres"
)

// TestLitForParallelCoursesInOneStep: who gains is seen before, students of the other course find it, and one press
// takes all of it back.
func TestLitForParallelCoursesInOneStep(t *testing.T) {
	t.Parallel()
	s := newStage(t, "tid-1")
	b := chromium(t)
	lit := func(want int) {
		t.Helper()
		s.until("it gives light", func() bool {
			n, err := postgres.Value[int](t.Context(), s.house.DB, `select count(*) from released where lit`)
			s.must(err)
			return n == want
		})
	}
	lit(1)
	p := s.person(b, coordinator)
	s.must(p.Go("/courses/"+s.course("TID 210").String()+"/playlist"), p.Click("Light many"), p.See("Two high waters a day"),
		p.See("All of this is lit"), p.Set("Courses", "ALG 118 Seaweeds and Kelp Forests"),
		p.See("0 → 22 of 22"), p.Keys(kb.Escape), p.See("more can watch."), p.Click("Names"))
	s.clean(p, "light for courses")
	s.must(p.Click("Light it for TID 210 and ALG 118"), p.See("Lit."), p.See("All of this is lit"))
	lit(2)
	student := s.person(b, inThree)
	const found = `[...document.querySelectorAll('a')].filter(a => a.innerText === 'Two high waters a day')`
	s.must(student.Go("/catch-up"), student.Wait(found+`.length === 2`))
	other := s.person(b, coordinator)
	s.must(other.Go("/courses/"+s.course("ALG 118").String()+"/playlist"), other.See("from TID 210"), other.See("22/22"))
	s.must(p.Click("Undo"), p.See("Undone"))
	lit(1)
	s.must(other.Wait(`!document.body.innerText.includes('from TID 210')`),
		student.Wait(found+`.length === 1`))
	// Darkened where it is not of, it stays lit where it is.
	s.must(p.Click("Light it for"), p.See("Lit."), other.See("from TID 210"), other.Click("Darken"), other.See("0/22"))
	lit(1)
	s.must(other.Click("Undo"), other.See("22/22"))
	lit(2)
}
