package e2e

import (
	"context"
	"testing"
)

// TestFortyCoursesAtAGlance: where they stand closest forty courses are seen on one screen, which is kept for whoever
// wants it so; and of a hundred those are found that one looks for.
func TestFortyCoursesAtAGlance(t *testing.T) {
	s := newStage(t, "tid-1")
	for _, sql := range []string{
		`insert into course (id, term_id, code, title)
			select gen_random_uuid(), t.id, 'CRS ' || n, 'Course number ' || n
			from term t, generate_series(101, 200) n`,
		`insert into lecture (id, course_id, hall_id, starts_at, ends_at, topic)
			select gen_random_uuid(), c.id, case when c.code like '%7' then h.id end, x, x + interval '1 hour', 'Topic'
			from course c join term t on t.id = c.term_id, generate_series(0, 9) w, hall h,
			lateral (select t.first_day + make_interval(days => 7 * w, hours => 17) as x) y
			where c.code like 'CRS%' and h.name = 'Kelp Hall'`,
	} {
		_, err := s.house.DB.Exec(context.Background(), sql)
		s.must(err)
	}
	const (
		rows = `[...document.querySelectorAll('.placed')].filter(r => r.getBoundingClientRect().bottom <= innerHeight)`
		two  = `document.querySelector('.board.closest')`
	)
	b := chromium(t)
	p := s.person(b, coordinator)
	s.must(p.Go("/board"), p.See("CRS 101"), p.Wait(rows+`.length < 10`), p.Click("Close"),
		p.Wait(rows+`.length > 8`), p.Click("Closest"), p.Wait(two), p.Wait(rows+`.length >= 40`),
		p.Wait(`document.documentElement.scrollWidth <= innerWidth`))
	// Nothing is too small to be pressed, nor lies over another.
	s.must(p.Wait(`[...document.querySelectorAll('.hangs')].every(e => {
		const r = e.getBoundingClientRect();
		return r.width >= 24 && r.height >= 24 || r.width === 0 })`))
	s.clean(p, "the closest board")
	s.must(p.Go("/board"), p.Wait(two), p.Write("Course, lecturer or hall", "crs 15"),
		p.Wait(`document.querySelectorAll('.placed').length === 11`), p.Set("Hall", "Kelp Hall"),
		p.Wait(`document.querySelectorAll('.placed').length === 1`), p.See("CRS 157"),
		p.Set("What its lectures are", "with what is part-lit"), p.See("No course is like that."),
		p.Click("Show all of them"), p.Wait(rows+`.length >= 40`))
	other := s.person(b, lecturer)
	s.must(other.Go("/board"), other.See("TID 210"), other.Wait(`document.querySelector('.board.roomy')`))
}
