package e2e

import (
	"context"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/timetable"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/schedule"
)

// TestACourseBeginsAnewInAnotherTerm: what comes and what stays is read before, it is done with one press, taken back
// with another, and done again; then the course stands there with its lectures and its headings.
func TestACourseBeginsAnewInAnotherTerm(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := newStage(t)
	p := s.person(chromium(t), coordinator)
	tides := s.course("TID 210")
	s.must(p.Go("/courses/"+tides.String()+"/setting"), p.Click("Carry it to another term"),
		p.See("There is no other term yet"))
	s.clean(p, "no other term")
	first := timetable.Monday(s.house.Clock.Now().AddDate(0, 6, 0)).UTC().Truncate(24 * time.Hour)
	_, err := s.house.Schedule.KeepTerm(ctx, uuid.Nil, schedule.TermForm{Name: "Spring term", Zone: "UTC",
		Term: timetable.Term{First: first, Last: first.AddDate(0, 0, 6*7-3)}})
	s.must(err)
	count := func(what string) int {
		n, err := postgres.Value[int](ctx, s.house.DB, `select count(*)::int from `+what+` where course_id in (
			select c.id from course c join term t on t.id = c.term_id
			where c.code = 'TID 210' and t.name = 'Spring term')`)
		s.must(err)
		return n
	}
	s.must(p.Go("/courses/"+tides.String()+"/carry"), p.See("6 lectures, from"), p.See("have no day in that term"),
		p.See("Students come with the roster"))
	s.clean(p, "a course that is carried")
	if n := count("lecture"); n != 0 {
		t.Fatalf("only looked at, %d lectures came", n)
	}
	s.must(p.Click("with their recordings, to be shown again"), p.See("of them lit"), p.Click("Carry it"),
		p.See("TID 210 begins anew in Spring term"))
	if a, b := count("lecture"), count("released"); a != 6 || b == 0 {
		t.Errorf("%d lectures and %d recordings came", a, b)
	}
	s.must(p.Click("Undo"), p.See("Undone"))
	if a, b := count("lecture"), count("playlist"); a != 0 || b != 0 {
		t.Errorf("taken back, %d lectures and %d playlists are there", a, b)
	}
	s.must(p.Go("/courses/"+tides.String()+"/carry"), p.See("6 lectures, from"),
		p.Write("Code", "BOA 140"), p.Write("Code", " "), p.See("Enter the code of the course"), p.Write("Code", "TID 210"),
		p.See("6 lectures, from"), p.Click("Carry it"), p.Click("Open the course there"), p.See("· Spring term ·"),
		p.Wait(`document.querySelectorAll('.date').length === 6`))
	// It is there now, and has something already.
	s.must(p.Go("/courses/"+tides.String()+"/carry"), p.See("Something is planned in that course already"),
		p.See("Carried before"))
	s.clean(p, "carried before")
}
