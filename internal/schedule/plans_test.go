package schedule_test

import (
	"errors"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/doorway"
	"latelantern/internal/core/timetable"
	"latelantern/internal/schedule"
	"latelantern/internal/testhouse"
)

// TestAPlanKeepsItsHourWhenSummerTimeEnds: the clocks of the college count, not UTC.
func TestAPlanKeepsItsHourWhenSummerTimeEnds(t *testing.T) {
	s := testhouse.New(t, true)
	kelp := hall(s, "Kelp Hall")
	form := weekly(time.Thursday, "2026-10-15", 3, &kelp)
	form.CaptureAuto, form.LeadMin, form.TailMin, form.Doorway = true, 3, 20, doorway.Ask
	look, err := s.Schedule.PreviewPlan(t.Context(), s.Course, form)
	s.Must(err)
	if len(look.Lectures) != 3 || look.Lectures[0].Week != 4 || len(planned(s, s.Course)) != 0 {
		t.Errorf("a look makes %+v and leaves %d", look, len(planned(s, s.Course)))
	}
	_, err = s.Schedule.AddPlan(t.Context(), s.Course, s.Lecturer, form)
	s.Must(err)
	list := planned(s, s.Course)
	if got := starts(list); !slices.Equal(got,
		[]string{"2026-10-15T09:15Z", "2026-10-22T09:15Z", "2026-10-29T10:15Z"}) {
		t.Errorf("planned at %v", got)
	}
	for i, l := range list {
		if !l.StartsAt.Equal(look.Lectures[i].Start) || l.Hall != "Kelp Hall" || l.Doorway != doorway.Ask ||
			!l.CaptureAuto || l.LeadMin != 3 || l.TailMin != 20 || l.Moved() {
			t.Errorf("%+v", l)
		}
	}
	plans, err := s.Schedule.Plans(t.Context(), s.Course)
	s.Must(err)
	if len(plans) != 1 || !slices.Equal(plans[0].Weekdays, []int{4}) || plans[0].AtMin != 615 ||
		plans[0].LastsMin != 90 || plans[0].Lectures != 3 || plans[0].Hall != "Kelp Hall" {
		t.Errorf("the plan is %+v", plans)
	}
}

// TestBreaksAreLeftOut, and are named.
func TestBreaksAreLeftOut(t *testing.T) {
	s := testhouse.New(t, true)
	s.Do(`insert into term_break (term_id, first_day, last_day, name) select id, '2026-10-19', '2026-10-23', 'Half term'
		from term`)
	look, err := s.Schedule.PreviewPlan(t.Context(), s.Course, weekly(time.Thursday, "2026-10-15", 2, nil))
	s.Must(err)
	if len(look.Lectures) != 2 || look.Lectures[1].Start.Day() != 29 || len(look.Skipped) != 1 ||
		look.Skipped[0].Break != "Half term" {
		t.Errorf("%+v", look)
	}
	form := weekly(time.Thursday, "2026-10-15", 2, nil)
	form.OverBreaks = true
	if look, err = s.Schedule.PreviewPlan(t.Context(), s.Course,
		form); err != nil || look.Lectures[1].Start.Day() != 22 || look.Lectures[1].Break != "Half term" {
		t.Errorf("over the break: %+v %v", look, err)
	}
}

// TestClashes are found with what stands in the hall, with what the course has, and with where
// its lecturer has to be; each says with what.
func TestClashes(t *testing.T) {
	s := testhouse.New(t, true)
	kelp, loft := hall(s, "Kelp Hall"), hall(s, "Net Loft")
	_, err := s.Schedule.AddPlan(t.Context(), s.Other, s.Colleague, weekly(time.Thursday, "2026-10-22", 1, &kelp))
	s.Must(err)
	look := func(course uuid.UUID, in *uuid.UUID, at time.Duration) []schedule.With {
		t.Helper()
		form := weekly(time.Thursday, "2026-10-22", 1, in)
		form.At = at
		got, err := s.Schedule.PreviewPlan(t.Context(), course, form)
		s.Must(err)
		return got.Lectures[0].Clashes
	}
	taken := look(s.Course, &kelp, 11*time.Hour)
	if len(taken) != 1 || !taken[0].InHall || taken[0].OfCourse || taken[0].Course != "OTH 2" ||
		taken[0].Hall != "Kelp Hall" || taken[0].Lecture != planned(s, s.Other)[0].ID {
		t.Errorf("in a hall that is taken: %+v", taken)
	}
	if c := look(s.Course, &kelp, 11*time.Hour+45*time.Minute); len(c) != 0 {
		t.Errorf("from the minute at which the hall is free: %+v", c)
	}
	if c := look(s.Course, &loft, 11*time.Hour); len(c) != 0 {
		t.Errorf("in another hall: %+v", c)
	}
	if c := look(s.Course, nil, 11*time.Hour); len(c) != 0 {
		t.Errorf("without a hall: %+v", c)
	}
	if c := look(s.Other, &loft, 11*time.Hour); len(c) != 1 || !c[0].OfCourse || c[0].InHall {
		t.Errorf("of the same course: %+v", c)
	}
	s.Do(`insert into membership (course_id, person_id, role) values ($1, $2, 'lecturer')`, s.Course, s.Colleague)
	if c := look(s.Course, &loft, 11*time.Hour); len(c) != 1 || c[0].Lecturer != "colleague" || c[0].InHall ||
		c[0].OfCourse {
		t.Errorf("with a lecturer who is elsewhere: %+v", c)
	}
	// What was called off is in nobody's way.
	off := true
	_, err = s.Schedule.Edit(t.Context(), planned(s, s.Other)[0].ID, s.Colleague, schedule.Edit{CalledOff: &off})
	s.Must(err)
	if c := look(s.Course, &kelp, 11*time.Hour); len(c) != 0 {
		t.Errorf("with one that was called off: %+v", c)
	}
}

func TestFaultsStandAtTheirFields(t *testing.T) {
	s := testhouse.New(t, true)
	nowhere := uuid.New()
	for field, change := range map[string]func(*schedule.PlanForm){
		"weekdays":  func(f *schedule.PlanForm) { f.Weekdays = nil },
		"every":     func(f *schedule.PlanForm) { f.Every = 0 },
		"starts":    func(f *schedule.PlanForm) { f.At = 25 * time.Hour },
		"ends":      func(f *schedule.PlanForm) { f.Lasts = -time.Hour },
		"from":      func(f *schedule.PlanForm) { f.From = day("2026-09-20") },
		"times":     func(f *schedule.PlanForm) { f.Times = 10_000 },
		"until":     func(f *schedule.PlanForm) { f.Until = day("2027-01-10") },
		"hall":      func(f *schedule.PlanForm) { f.Hall = &nowhere },
		"doorway":   func(f *schedule.PlanForm) { f.Doorway = "ajar" },
		"opens_min": func(f *schedule.PlanForm) { f.OpensMin = -1 },
		"lead_min":  func(f *schedule.PlanForm) { f.LeadMin = 121 },
		"tail_min":  func(f *schedule.PlanForm) { f.TailMin = 241 },
	} {
		f := weekly(time.Thursday, "2026-10-15", 3, nil)
		change(&f)
		_, err := s.Schedule.AddPlan(t.Context(), s.Course, s.Lecturer, f)
		if got := fieldOf(t, err); got != field {
			t.Errorf("the fault stands at %q, want %q: %v", got, field, err)
		}
	}
	if n := len(planned(s, s.Course)); n != 0 {
		t.Errorf("%d lectures were planned all the same", n)
	}
	if _, err := s.Schedule.PreviewPlan(t.Context(), uuid.New(),
		weekly(time.Thursday, "2026-10-15", 3, nil)); !errors.Is(err, schedule.ErrUnknown) {
		t.Errorf("for no course: %v", err)
	}
}

func TestTerms(t *testing.T) {
	s := testhouse.New(t, true)
	form := func(first, last, zone string) schedule.TermForm {
		return schedule.TermForm{Name: "Next", Zone: zone, Term: timetable.Term{First: day(first), Last: day(last)}}
	}
	for _, c := range []struct {
		field string
		form  schedule.TermForm
	}{
		{"first_day", form("2026-12-18", "2027-03-01", "Europe/Berlin")}, // overlaps
		{"last_day", form("2027-03-01", "2027-01-04", "Europe/Berlin")},
		{"zone", form("2027-01-04", "2027-03-01", "Atlantis/Harbour")},
		{"zone", form("2027-01-04", "2027-03-01", "")},
	} {
		if _, err := s.Schedule.KeepTerm(t.Context(), uuid.Nil, c.form); fieldOf(t, err) != c.field {
			t.Errorf("want a fault at %s: %v", c.field, err)
		}
	}
	id, err := s.Schedule.KeepTerm(t.Context(), uuid.Nil, form("2027-01-04", "2027-03-01", "Europe/Berlin"))
	s.Must(err)
	terms, err := s.Schedule.Terms(t.Context())
	s.Must(err)
	if len(terms) != 2 || terms[0].ID != id || terms[1].Courses != 2 || terms[0].Courses != 0 {
		t.Errorf("%+v", terms)
	}
	// A term in which something is planned cannot shrink away from it, nor change its clocks.
	old := terms[1]
	change := schedule.TermForm{Name: "Term", Zone: "Atlantic/Faroe",
		Term: timetable.Term{First: day("2026-09-21"), Last: day("2026-10-20")}}
	if _, err := s.Schedule.KeepTerm(t.Context(), old.ID, change); fieldOf(t, err) != "last_day" {
		t.Errorf("shrunk: %v", err)
	}
	change.Last, change.Zone = day("2026-12-18"), "Europe/Berlin"
	if _, err := s.Schedule.KeepTerm(t.Context(), old.ID, change); fieldOf(t, err) != "zone" {
		t.Errorf("in another zone: %v", err)
	}
	change.Zone = "Atlantic/Faroe"
	change.Breaks = []timetable.Break{{First: day("2026-10-19"), Last: day("2026-10-23"), Name: "Half term"}}
	if _, err := s.Schedule.KeepTerm(t.Context(), old.ID, change); err != nil {
		t.Errorf("with a break: %v", err)
	}
	if again, err := s.Schedule.Term(t.Context(), old.ID); err != nil || len(again.Plan.Breaks) != 1 ||
		again.Week(testhouse.Now.AddDate(0, 0, 14)).Number != 5 {
		t.Errorf("%+v %v", again, err)
	}
	if err := s.Schedule.RemoveTerm(t.Context(), old.ID); !errors.Is(err, schedule.ErrInUse) {
		t.Errorf("a term with courses is removed: %v", err)
	}
	if err := s.Schedule.RemoveTerm(t.Context(), id); err != nil {
		t.Errorf("an empty term: %v", err)
	}
}

func TestHallsAndCoursesHaveOneOfEachName(t *testing.T) {
	s := testhouse.New(t, true)
	if _, err := s.Schedule.KeepHall(t.Context(), uuid.Nil, "  hall "); fieldOf(t, err) != "name" {
		t.Errorf("a second hall of one name: %v", err)
	}
	loft := hall(s, "Net Loft")
	if _, err := s.Schedule.KeepHall(t.Context(), loft, "Net  loft"); err != nil {
		t.Errorf("renamed: %v", err)
	}
	s.Must(s.Schedule.RemoveHall(t.Context(), loft))
	halls, err := s.Schedule.Halls(t.Context())
	s.Must(err)
	if len(halls) != 1 || halls[0].Lectures != 3 {
		t.Errorf("%+v", halls)
	}
	if err := s.Schedule.RemoveHall(t.Context(), halls[0].ID); !errors.Is(err, schedule.ErrInUse) {
		t.Errorf("a hall in use is removed: %v", err)
	}
	term, err := s.Schedule.CurrentTerm(t.Context())
	s.Must(err)
	if _, err := s.Schedule.KeepCourse(t.Context(), uuid.Nil,
		schedule.CourseForm{Term: term.ID, Code: "cou 1", Title: "Again"}); fieldOf(t, err) != "code" {
		t.Errorf("a second course of one code: %v", err)
	}
	if _, err := s.Schedule.KeepCourse(t.Context(), uuid.Nil,
		schedule.CourseForm{Term: term.ID, Code: "NEW 1"}); fieldOf(t, err) != "title" {
		t.Errorf("without a title: %v", err)
	}
	id, err := s.Schedule.KeepCourse(t.Context(), uuid.Nil,
		schedule.CourseForm{Term: term.ID, Code: "NEW 1", Title: "New"})
	s.Must(err)
	if err := s.Schedule.RemoveCourse(t.Context(), s.Course); !errors.Is(err, schedule.ErrInUse) {
		t.Errorf("a course with lectures is removed: %v", err)
	}
	s.Must(s.Schedule.RemoveCourse(t.Context(), id))
}

// TestWeeksAreThoseOfTheCore on every day of a term with breaks, and around it.
func TestWeeksAreThoseOfTheCore(t *testing.T) {
	s := testhouse.New(t, true)
	s.Do(`insert into term_break (term_id, first_day, last_day, name) select id, '2026-10-19', '2026-10-25', 'Half term'
		from term`)
	term, err := s.Schedule.CurrentTerm(t.Context())
	s.Must(err)
	numbers := map[int]bool{}
	for d := day("2026-08-01"); d.Before(day("2027-02-01")); d = d.AddDate(0, 0, 1) {
		want, within := term.Plan.WeekOf(d)
		got := term.Week(timetable.On(d, 23*time.Hour+59*time.Minute, term.Zone))
		if got.Number != want.Number || got.Break != want.Break || within && !got.Monday.Equal(want.Monday) ||
			!got.Monday.Equal(timetable.Monday(d)) {
			t.Fatalf("%v lies in %+v, and the core says %+v", d, got, want)
		}
		numbers[got.Number] = true
	}
	if len(numbers) != 13 { // twelve weeks of teaching, and none
		t.Errorf("there are %d numbers", len(numbers))
	}
	if w := (schedule.Term{Zone: time.UTC}).Week(testhouse.Now); w.Number != 0 {
		t.Errorf("a term without weeks has %+v", w)
	}
}
