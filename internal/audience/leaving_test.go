package audience_test

import (
	"math/rand"
	"slices"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/format/rosterfile"
	"latelantern/internal/platform/clock"
	"latelantern/internal/roster"
	"latelantern/internal/testhouse"
)

// TestWhatALookAtTheRosterSaysComes: over rules, what is lit, groups and clocks taken at random, who could watch
// more or less after an import, and after one student is taken off, is what was said before.
func TestWhatALookAtTheRosterSaysComes(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	d := dice{rand.New(rand.NewSource(31))}
	codes, courses := []string{"COU 1", "OTH 2"}, []uuid.UUID{s.Course, s.Other}
	s.Do(`update course set code = 'OTH 2' where id = $1`, s.Other)
	names := []string{"student", "second", "third", "outsider"}
	people := []uuid.UUID{s.Student, s.Second, s.Third, s.Outsider}
	var recordings []uuid.UUID
	for i := range 4 {
		id := s.Bare(s.AddLecture([]uuid.UUID{s.Course, s.Other}[i%2], d.moment(), "x"), true, nil)
		recordings = append(recordings, id)
		for _, course := range courses {
			if d.one(2) {
				s.LightRow(id, course, nil)
			}
		}
	}
	term, err := s.Schedule.CurrentTerm(ctx)
	s.Must(err)
	coordinator, err := s.Roster.Person(ctx, s.Coordinator)
	s.Must(err)
	gained, lost, off := 0, 0, 0
	for range 80 {
		then := &audience.Service{DB: s.DB, Clock: clock.Standing(d.moment())}
		here := &roster.Service{DB: s.DB, Courses: s.Schedule, Clock: then.Clock, Watch: then}
		for _, course := range courses {
			s.Must(then.SetRule(ctx, audience.Scope{Course: course}, s.Lecturer, d.rule()))
		}
		can := func(person uuid.UUID) (out []uuid.UUID) {
			doors, err := then.DecideAll(ctx, person, recordings)
			s.Must(err)
			for id, door := range doors {
				if door.Watch() {
					out = append(out, id)
				}
			}
			return out
		}
		lines := "email,name,course,part,group\n"
		for _, code := range codes {
			for _, name := range names {
				if d.one(2) {
					lines += name + "@college.example," + name + "," + code + ",student," +
						[]string{"A", "B", ""}[d.Intn(3)] + "\n"
				}
			}
		}
		files := []rosterfile.File{{Name: "roster.csv", Data: []byte(lines)}}
		look, err := here.PreviewImport(ctx, term.ID, coordinator, files)
		s.Must(err)
		if look.FaultsAll > 0 || look.Effect == nil {
			t.Fatalf("a look at %s says %+v", lines, look)
		}
		before := map[uuid.UUID][]uuid.UUID{}
		for _, p := range people {
			before[p] = can(p)
		}
		_, err = here.ApplyImport(ctx, term.ID, coordinator, files, look.Digest)
		s.Must(err)
		less := func(a, b []uuid.UUID) bool {
			return slices.ContainsFunc(a, func(id uuid.UUID) bool { return !slices.Contains(b, id) })
		}
		for i, p := range people {
			gains, loses := less(can(p), before[p]), less(before[p], can(p))
			if slices.Contains(look.Effect.Gain, names[i]) != gains ||
				slices.Contains(look.Effect.Lose, names[i]) != loses {
				t.Fatalf("%s gains %v, loses %v, and said is %+v", names[i], gains, loses, *look.Effect)
			}
		}
		gained, lost = gained+len(look.Effect.Gain), lost+len(look.Effect.Lose)
		person, course := people[d.Intn(4)], courses[d.Intn(2)]
		fewer, err := then.PreviewOff(ctx, course, person)
		s.Must(err)
		was := can(person)
		s.Do(`delete from membership where course_id = $1 and person_id = $2`, course, person)
		is := can(person)
		gone := slices.DeleteFunc(slices.Clone(was), func(id uuid.UUID) bool { return slices.Contains(is, id) })
		if !same(fewer, gone) {
			t.Fatalf("taken off someone loses %v, and said was %v", gone, fewer)
		}
		off += len(gone)
	}
	if gained < 10 || lost < 10 || off < 10 {
		t.Errorf("%d gained, %d lost, %d by being taken off: they prove little", gained, lost, off)
	}
}
