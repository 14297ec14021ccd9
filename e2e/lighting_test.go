package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"latelantern/internal/platform/postgres"
)

// TestLitForParallelCoursesInOneStep: who gains is seen before, students of the other course find it and are told, and
// one press takes all of it back.
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
		p.See("0 → 22 of 22"), p.Keys(kb.Escape), p.See("more can watch,"), p.Click("Names"),
		p.Click("Tell the students, as soon as they can watch"))
	s.clean(p, "light for courses")
	s.must(p.Click("Light it for ALG 118 and TID 210"), p.See("The students are told as soon"), p.See("All of this is lit"))
	lit(2)
	student := s.person(b, inThree)
	const found = `[...document.querySelectorAll('a')].filter(a => a.innerText === 'Two high waters a day')`
	s.must(student.Go("/catch-up"), student.Wait(found+`.length === 3`),
		student.See("One recording is new to you"))
	other := s.person(b, coordinator)
	s.must(other.Go("/courses/"+s.course("ALG 118").String()+"/playlist"), other.See("from TID 210"), other.See("22/22"))
	s.must(p.Click("Undo"), p.See("Undone"))
	lit(1)
	s.must(other.Wait(`!document.body.innerText.includes('from TID 210')`),
		student.Wait(found+`.length === 1 && !document.body.innerText.includes('new to you')`))
	// Darkened where it is not of, it stays lit where it is.
	s.must(p.Click("Light it for"), p.See("Lit."), other.See("from TID 210"), other.Click("Darken"), other.See("0/22"))
	lit(1)
	s.must(other.Click("Undo"), other.See("22/22"))
	lit(2)
}

// TestLanternsAreChosenOnTheBoard, by keyboard and as a range, and their recordings are given a rule in one step.
func TestLanternsAreChosenOnTheBoard(t *testing.T) {
	t.Parallel()
	s := newStage(t, "tid-1", "tid-2")
	b := chromium(t)
	p := s.person(b, coordinator)
	const picked = `document.querySelectorAll('.hangs[aria-pressed=true]').length`
	const row = `[...document.querySelectorAll('.row')].find(r => r.innerText.includes('TID 210'))`
	s.must(p.Go("/"), p.Click("Choose lanterns"), p.See("Nothing is chosen."))
	s.clean(p, "lanterns to choose")
	hung := row + `.querySelectorAll('.hangs')`
	s.must(p.Wait(hung+`[0].focus(), document.activeElement === `+hung+`[0]`), p.Keys(kb.Enter),
		p.See("One lantern is chosen."), p.Wait(hung+`[1].focus(), document.activeElement === `+hung+`[1]`))
	s.must(p.Press(kb.Enter, chromedp.ModifierShift), p.See("2 lanterns are chosen."), p.Wait(picked+` === 2`))
	s.must(p.Click("All of week 1"), p.Wait(picked+` === 1`), p.Click("All of TID 210"), p.Wait(picked+` === 2`),
		p.Click("Light, or give a rule"), p.See("Each for the course of its own lecture"), p.See("Two high waters a day"),
		p.Click("Leave the light"), p.Click("A rule of its own"), p.Click("watch and read along, and take everything away"),
		p.Click("the video"), p.See("may no longer take away the video"))
	s.clean(p, "a rule for several")
	rules := func(want int) {
		t.Helper()
		s.until("rules of their own", func() bool {
			n, err := postgres.Value[int](t.Context(), s.house.DB, `select count(*) from viewing_rule
				where recording_id is not null and ended_at is null and not 'take_video' = any(uses)`)
			s.must(err)
			return n == want
		})
	}
	s.must(p.Click("Change 2 rules in TID 210"), p.See("2 rules changed at once."), p.See("Nothing changes"))
	rules(2)
	s.must(p.Click("Undo"), p.See("Undone"))
	rules(0)
	s.must(p.Keys(kb.Escape), p.Click("Done"), p.Wait(picked+` === 0`), p.Wait(`!document.querySelector('.chosen')`))
}
