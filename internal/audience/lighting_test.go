package audience_test

import (
	"math/rand"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/clock"
	"latelantern/internal/testhouse"
)

// TestWhatAPreviewOfLightSaysComes, over rules, rosters, what is lit and clocks taken at random.
func TestWhatAPreviewOfLightSaysComes(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	d := dice{rand.New(rand.NewSource(11))}
	courses := []uuid.UUID{s.Course, s.Other, uuid.Must(uuid.NewV7())}
	s.Do(`insert into course (id, term_id, code, title) select $1, id, 'THI 3', 'A course' from term`, courses[2])
	people := []uuid.UUID{s.Student, s.Second, s.Third, s.Outsider}
	for i, id := range people { // in several
		s.Do(`insert into membership (course_id, person_id, role, group_name) values ($1, $2, 'student', $3)
			on conflict do nothing`, courses[1+i%2], id, []string{"A", "B", "", "C"}[i])
	}
	var recordings []uuid.UUID
	for i := range 4 {
		recordings = append(recordings, s.Bare(s.AddLecture(courses[i%2], d.moment(), "x"), true, nil))
	}
	gained, lost, lacks := 0, 0, map[viewing.Reason]int{}
	for range 60 {
		for _, course := range courses {
			s.Must(s.Audience.SetRule(ctx, audience.Scope{Course: course}, s.Lecturer, d.rule()))
		}
		s.Do(`delete from lighting`)
		for _, id := range recordings {
			for _, course := range courses {
				if d.one(2) {
					s.LightRow(id, course, nil)
				}
			}
		}
		some := recordings[:1+d.Intn(len(recordings))]
		of, lit := courses[d.Intn(2):1+d.Intn(2)+1], d.one(2)
		then := &audience.Service{DB: s.DB, Clock: clock.Standing(d.moment())}
		pairs := [2][]uuid.UUID{}
		for _, id := range some {
			for _, course := range of {
				pairs[0], pairs[1] = append(pairs[0], id), append(pairs[1], course)
			}
		}
		said, err := then.PreviewGiving(ctx, pairs[0], pairs[1], viewing.Giving{Lit: &lit}, time.Time{})
		s.Must(err)
		check := func(when string, now bool) map[uuid.UUID]map[uuid.UUID]bool {
			t.Helper()
			for _, c := range said.Cells {
				counts, err := then.Counts(ctx, c.Course)
				s.Must(err)
				want := c.Then
				if now {
					want = c.Now
				}
				if got := counts[c.Recording]; got.Can != want || got.Of != c.Of && got.Of != 0 {
					t.Fatalf("%s %d of %d can watch, and %+v was said", when, got.Can, got.Of, c)
				}
			}
			can := map[uuid.UUID]map[uuid.UUID]bool{}
			for _, person := range people {
				can[person] = map[uuid.UUID]bool{}
				doors, err := then.DecideAll(ctx, person, some)
				s.Must(err)
				for id, door := range doors {
					can[person][id] = door.Watch()
				}
			}
			return can
		}
		before := check("before", true)
		for _, id := range some {
			for _, course := range of {
				s.Do(`delete from lighting where recording_id = $1 and course_id = $2`, id, course)
				if lit {
					s.LightRow(id, course, nil)
				}
			}
		}
		after := check("after", false)
		for _, person := range people {
			gains, loses := false, false
			for _, id := range some {
				gains = gains || after[person][id] && !before[person][id]
				loses = loses || before[person][id] && !after[person][id]
			}
			is := func(n audience.Name) bool { return n.PersonID == person }
			if gains != slices.ContainsFunc(said.Gain, is) || loses != slices.ContainsFunc(said.Lose, is) {
				t.Fatalf("gains %v, loses %v, and said is %+v", gains, loses, said)
			}
		}
		gained, lost = gained+len(said.Gain), lost+len(said.Lose)
		for _, c := range said.Cells {
			lacks[c.Why]++
			if (c.Why == viewing.NotYet) == c.Opens.IsZero() {
				t.Fatalf("when it opens is not said: %+v", c)
			}
		}
	}
	if gained < 10 || lost < 10 || len(lacks) < 5 {
		t.Errorf("%d gained, %d lost, and lacks of %v prove little", gained, lost, lacks)
	}
}
