package release_test

import (
	"errors"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/clock"
	"latelantern/internal/release"
	"latelantern/internal/testhouse"
)

// at is the part of the house that gives light, by a clock of its own.
func at(s *testhouse.Stage, now time.Time) *release.Service {
	later := *s.Releases
	later.Clock = clock.Standing(now)
	return &later
}

// planning is a stage with two recordings that can be lit, and its lecturer teaches both courses.
func planning(t *testing.T) (*testhouse.Stage, release.Many, time.Time) {
	s := testhouse.New(t, true)
	stopped := testhouse.Now
	ids := []uuid.UUID{s.Bare(s.Lecture, true, &stopped), s.Bare(s.Later, true, &stopped)}
	s.Do(`update track set state = 'ready', packed_ms = 60000, stored = 5000`)
	s.Do(`insert into membership (course_id, person_id, role) values ($1, $2, 'lecturer')`, s.Other, s.Lecturer)
	return s, release.Many{Pairs: release.Every(ids, []uuid.UUID{s.Course, s.Other}),
		Giving: viewing.Giving{Lit: new(true)},
		Tell:   map[uuid.UUID]string{ids[0]: "The first"}}, testhouse.Now.Add(3 * time.Hour)
}

// look does what is due at a moment, in several processes at once.
func look(s *testhouse.Stage, now time.Time) {
	s.T.Helper()
	both := make(chan error, 3)
	for range cap(both) {
		go func() {
			_, err := at(s, now).LookPlanned(s.T.Context())
			both <- err
		}()
	}
	for range cap(both) {
		s.Must(<-both)
	}
}

// TestAStepAtItsHour is done once, not before, as one step that is taken back like any other.
func TestAStepAtItsHour(t *testing.T) {
	ctx := t.Context()
	s, many, hour := planning(t)
	step, err := s.Releases.Plan(ctx, s.Lecturer, many, hour)
	s.Must(err)
	list, err := s.Releases.Planned(ctx, []uuid.UUID{s.Course})
	s.Must(err)
	if len(list) != 1 || list[0].ID != step || !list[0].At.Equal(hour) || len(list[0].Theirs) != 2 ||
		len(list[0].Courses()) != 2 || *list[0].MadeBy != s.Lecturer || !*list[0].Asked.Lit {
		t.Fatalf("planned: %+v", list)
	}
	// Who teaches only the course that they are given to learns of them when they are lit.
	if list, err := s.Releases.Planned(ctx, []uuid.UUID{s.Other}); err != nil || len(list) != 0 {
		t.Errorf("of another course: %+v %v", list, err)
	}
	look(s, hour.Add(-time.Microsecond))
	if got := stands(s); got != [4]int{} {
		t.Errorf("before its hour it stands %v", got)
	}
	look(s, hour)
	if got := stands(s); got != [4]int{2, 2, 2, 2} {
		t.Errorf("at its hour it stands %v", got)
	}
	if n := s.Count(`select count(*) from news_plan where step_id = $1 and title = 'The first'`, step); n != 2 {
		t.Errorf("of %d courses the students are told", n)
	}
	if n := s.Count(`select count(*) from lighting where lit_by = $1`, s.Lecturer); n != 4 {
		t.Errorf("%d lightings by whoever asked for it", n)
	}
	look(s, hour.Add(time.Hour))
	if n := s.Count(`select count(*) from lighting`); n != 4 {
		t.Errorf("done again: %d lightings", n)
	}
	if list, err := s.Releases.Planned(ctx, []uuid.UUID{s.Course}); err != nil || len(list) != 0 {
		t.Errorf("done, and planned: %+v %v", list, err)
	}
	s.Must(s.Releases.TakeBack(ctx, step, s.Lecturer, false))
	if got := stands(s); got != [4]int{} {
		t.Errorf("taken back it stands %v", got)
	}
}

// TestAStepTakenBackBeforeItsHour is never done.
func TestAStepTakenBackBeforeItsHour(t *testing.T) {
	ctx := t.Context()
	s, many, hour := planning(t)
	step, err := s.Releases.Plan(ctx, s.Lecturer, many, hour)
	s.Must(err)
	if err := s.Releases.TakeBack(ctx, step, s.Colleague, false); !errors.Is(err, release.ErrUnknown) {
		t.Errorf("someone else takes it back: %v", err)
	}
	s.Must(s.Releases.TakeBack(ctx, step, s.Lecturer, false))
	look(s, hour)
	list, err := s.Releases.Planned(ctx, []uuid.UUID{s.Course})
	s.Must(err)
	if got := stands(s); got != [4]int{} || len(list) != 0 {
		t.Errorf("it stands %v, planned are %+v", got, list)
	}
}

// TestWhatIsOtherAtItsHour: what lies in the bin is left out; who teaches a course no more gives nothing any more; what
// cannot be done says why and is not tried again; what is so already is done.
func TestWhatIsOtherAtItsHour(t *testing.T) {
	for _, c := range []struct {
		name   string
		change func(s *testhouse.Stage, m release.Many)
		stands [4]int
		why    string
	}{
		{"one in the bin", func(s *testhouse.Stage, m release.Many) {
			s.Must(s.Library.SetDeleted(t.Context(), m.Pairs[0].Recording, s.Lecturer, true))
		}, [4]int{1, 1, 1, 1}, ""},
		{"all in the bin", func(s *testhouse.Stage, _ release.Many) {
			s.Do(`update recording set deleted_at = $1`, testhouse.Now)
		}, [4]int{}, "release.gone"},
		{"teaches one of them no more", func(s *testhouse.Stage, _ release.Many) {
			s.Do(`delete from membership where course_id = $1 and person_id = $2`, s.Other, s.Lecturer)
		}, [4]int{}, "release.rights"},
		{"teaches theirs no more", func(s *testhouse.Stage, _ release.Many) {
			s.Do(`update membership set role = 'student' where course_id = $1 and person_id = $2`, s.Course, s.Lecturer)
		}, [4]int{}, "release.rights"},
		{"coordinates meanwhile", func(s *testhouse.Stage, _ release.Many) {
			s.Do(`delete from membership where person_id = $1`, s.Lecturer)
			s.Do(`update person set coordinator = true where id = $1`, s.Lecturer)
		}, [4]int{2, 2, 2, 2}, ""},
		{"nothing of one came", func(s *testhouse.Stage, m release.Many) {
			s.Do(`update track set state = 'failed', packed_ms = 0 where capture_id in
				(select capture_id from recording_capture where recording_id = $1)`, m.Pairs[0].Recording)
			s.Do(`delete from recording_edition where recording_id = $1`, m.Pairs[0].Recording)
		}, [4]int{}, "recording.not_ready"},
		{"lit by hand", func(s *testhouse.Stage, m release.Many) {
			_, err := s.Releases.Change(t.Context(), s.Lecturer, m)
			s.Must(err)
		}, [4]int{2, 2, 2, 2}, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			s, many, hour := planning(t)
			_, err := s.Releases.Plan(t.Context(), s.Lecturer, many, hour)
			s.Must(err)
			c.change(s, many)
			look(s, hour)
			look(s, hour.Add(time.Minute))
			list, err := s.Releases.Planned(t.Context(), []uuid.UUID{s.Course})
			s.Must(err)
			why := ""
			for _, x := range list {
				why = x.GaveUp
			}
			if got := stands(s); got != c.stands && c.name != "one in the bin" || why != c.why {
				t.Errorf("it stands %v, want %v; given up for %q, want %q", got, c.stands, why, c.why)
			}
			done := s.Count(`select count(*) from light_change where at is not null and done_at is not null`)
			if (done == 1) != (c.why == "") {
				t.Errorf("%d are done", done)
			}
		})
	}
}

// TestOneStepThatFails keeps none of the others waiting.
func TestOneStepThatFails(t *testing.T) {
	s, many, hour := planning(t)
	broken, err := s.Releases.Plan(t.Context(), s.Lecturer, many, hour.Add(-time.Minute))
	s.Must(err)
	s.Do(`update light_change set asked = '{"Pairs": 7}' where id = $1`, broken)
	_, err = s.Releases.Plan(t.Context(), s.Lecturer, many, hour)
	s.Must(err)
	if done, err := at(s, hour).LookPlanned(t.Context()); done != 1 || err == nil {
		t.Errorf("%d are done, and %v", done, err)
	}
	if got := stands(s); got != [4]int{2, 2, 2, 2} {
		t.Errorf("it stands %v", got)
	}
}

// TestWhichHourCanBeSet: one that is still to come, within a year.
func TestWhichHourCanBeSet(t *testing.T) {
	s, many, _ := planning(t)
	for hour, code := range map[time.Time]fault.Code{
		testhouse.Now:                                      "release.past",
		testhouse.Now.Add(-time.Hour):                      "release.past",
		testhouse.Now.Add(time.Microsecond):                "",
		testhouse.Now.Add(release.MostAhead):               "",
		testhouse.Now.Add(release.MostAhead + time.Second): "release.far",
	} {
		_, err := at(s, testhouse.Now).Plan(t.Context(), s.Lecturer, many, hour)
		said := append(fault.All(err), fault.Text{})
		if got := said[0].Code; got != code {
			t.Errorf("%v: %q, want %q", hour, got, code)
		}
	}
}
