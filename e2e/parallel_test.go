package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp/kb"

	"latelantern/internal/platform/postgres"
)

// TestThreeLecturesForTwoMoreCourses: three captured lectures are lit for two more courses in one step, whose students
// find them in order and have one mail each, also who is of both.
func TestThreeLecturesForTwoMoreCourses(t *testing.T) {
	t.Parallel()
	s := newStage(t, "tid-1", "tid-2", "tid-3")
	b := chromium(t)
	p, reader := s.person(b, coordinator), s.person(b, inThree)
	last := "The tide table and its errors"
	order := "Two high waters a day|Spring tides and neap tides|" + last
	s.must(p.Go("/courses/"+s.course("TID 210").String()+"/playlist"), p.Click("Light many"),
		p.See(last))
	for _, course := range []string{"ALG 118 Seaweeds and Kelp Forests", "WEA 220 Weather from the Shore"} {
		s.must(p.Set("Courses", course), p.See(course[:7]), p.Keys(kb.Escape))
	}
	s.must(p.See("more can watch,"))
	s.must(p.Click("Tell the students, as soon as they can watch"), p.Click("for ALG 118, TID 210, and WEA 220"))
	s.must(p.See("The students are told as soon"))
	found := func(course string) string {
		return fmt.Sprintf(`[...document.querySelectorAll('section.course')]
			.filter(x => x.querySelector('h2').innerText.startsWith(%q))
			.flatMap(x => [...x.querySelectorAll('.lecture a')].map(a => a.innerText)).join('|') === %q`, course, order)
	}
	s.must(reader.Go("/catch-up"), reader.Wait(found("ALG 118")), reader.Wait(found("WEA 220")),
		reader.See("3 recordings are new to you"))

	students, err := postgres.Values[string](t.Context(), s.house.DB, `select distinct p.email from person p
		join membership m on m.person_id = p.id join course k on k.id = m.course_id
		where m.role = 'student' and k.code in ('ALG 118', 'WEA 220')`)
	s.must(err)
	s.until("each has a mail", func() bool {
		list, err := s.post.Letters()
		s.must(err)
		mails := map[string]int{}
		for _, l := range list {
			if l.Stop != "" {
				mails[l.To]++
			}
			if mails[l.To] > 1 {
				t.Fatalf("%s has %d mails", l.To, mails[l.To])
			}
		}
		n := 0
		for _, to := range students {
			n += mails[to]
		}
		return len(students) > 22 && n == len(students)
	})
}
