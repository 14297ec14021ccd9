package audience_test

import (
	"context"
	"fmt"
	"math/rand"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/recall"
	"latelantern/internal/playlists"
	"latelantern/internal/testhouse"
)

// openBeside opens a recording to everyone, and to someone by name.
func openBeside(s *testhouse.Stage, d dice, recording, person uuid.UUID) {
	id := uuid.Must(uuid.NewV7())
	kind := []string{"everyone", "people"}[d.Intn(2)]
	s.Do(`insert into opening (id, recording_id, kind, uses, from_kind, until_kind, made_at)
		values ($1, $2, $3, '{watch}', 'once', 'ever', $4)`, id, recording, kind, testhouse.Now)
	if kind == "people" {
		s.Do(`insert into opening_person (opening_id, person_id) values ($1, $2)`, id, person)
	}
}

// linkBeside has someone come by a link to all that a course shows in its main playlist.
func linkBeside(s *testhouse.Stage, course, person uuid.UUID) {
	id := uuid.Must(uuid.NewV7())
	s.Do(`insert into opening (id, playlist_id, kind, uses, from_kind, until_kind, made_at, made_by)
		select $1, id, 'link', '{watch}', 'once', 'ever', $2, $3 from playlist where main and course_id = $4`, id,
		testhouse.Now, s.Lecturer, course)
	s.Do(`insert into opening_person (opening_id, person_id) values ($1, $2)`, id, person)
}

// changesOfRights are all that a decision rests on, each changed somehow.
func changesOfRights(s *testhouse.Stage, d dice, recordings, people []uuid.UUID) map[string]func() {
	courses := []uuid.UUID{s.Course, s.Other}
	r := func() uuid.UUID { return recordings[d.Intn(len(recordings))] }
	p := func() uuid.UUID { return people[d.Intn(len(people))] }
	c := func() uuid.UUID { return courses[d.Intn(2)] }
	set := func(of audience.Scope, rule *viewing.Rule) { // of a recording that the course does not have there is none
		_ = s.Audience.SetRule(s.T.Context(), of, s.Lecturer, rule)
	}
	return map[string]func(){
		"lit": func() {
			id, course := r(), c()
			const lit = `select count(*) from released where recording_id = $1 and course_id = $2 and lit`
			if s.Count(lit, id, course) == 0 {
				s.LightRow(id, course, nil)
			}
		},
		"darkened": func() {
			s.Do(`update lighting set darkened_at = $2 where recording_id = $1`, r(), testhouse.Now)
		},
		"a rule of a course": func() { set(audience.Scope{Course: c()}, d.rule()) },
		"a rule of one":      func() { set(audience.Scope{Course: c(), Recording: r()}, d.rule()) },
		"a rule of all":      func() { set(audience.Scope{}, d.collegeRule()) },
		"opened":             func() { openBeside(s, d, r(), p()) },
		"an opening ends": func() {
			s.Do(`update opening set ended_at = $2 where recording_id = $1`, r(), testhouse.Now)
		},
		"an opening's uses": func() {
			s.Do(`update opening set uses = '{watch,read}' where recording_id = $1`, r())
		},
		"a link to a playlist": func() { linkBeside(s, c(), p()) },
		"in a playlist": func() {
			s.Do(`insert into playlist_entry (id, playlist_id, position, recording_id)
				select gen_random_uuid(), p.id, $2, $1 from playlist p where main and course_id = $3 and not exists
				(select 1 from playlist_entry where playlist_id = p.id and recording_id = $1)`,
				r(), d.Intn(1_000_000), c())
		},
		"out of a playlist": func() {
			s.Do(`delete from playlist_entry where recording_id = $1`, r())
		},
		"who made a link": func() {
			s.Do(`insert into membership (course_id, person_id, role, group_name) values ($1, $2, 'assistant', '')
				on conflict (course_id, person_id) do update set role = case membership.role when 'assistant'
				then 'lecturer' else 'assistant' end`, c(), s.Lecturer)
		},
		"who made it leaves": func() {
			s.Do(`delete from membership where course_id = $1 and person_id = $2`, c(), s.Lecturer)
		},
		"a renewed link": func() {
			s.Do(`update opening set turn = 3 - turn where playlist_id is not null`)
		},
		"named no more": func() { s.Do(`delete from opening_person where person_id = $1`, p()) },
		"shut out": func() {
			person, course, id := p(), c(), r()
			s.Do(`delete from shut_out where person_id = $1`, person)
			shutOut(s, d, person, course, id)
		},
		"let in": func() { s.Do(`delete from shut_out where person_id = $1`, p()) },
		"a group": func() {
			s.Do(`update membership set group_name = case group_name when 'A' then 'B' else 'A' end where person_id = $1`,
				people[d.Intn(3)])
		},
		"taken off": func() {
			s.Do(`delete from membership where role = 'student' and person_id = (select person_id from membership
				where role = 'student' and course_id = $1 order by person_id limit 1) and course_id = $1`, c())
		},
		"enrolled": func() {
			s.Do(`insert into membership (course_id, person_id, role, group_name) values ($1, $2, 'student', 'A')
				on conflict do nothing`, c(), p())
		},
		"a coordinator": func() { s.Do(`update person set coordinator = not coordinator where id = $1`, p()) },
		"binned": func() {
			s.Do(`update recording set deleted_at = case when deleted_at is null then $2::timestamptz end where id = $1`,
				r(), testhouse.Now)
		},
		"an edition": func() {
			s.Do(`update recording_edition set edition_id = case when edition_id is null then (select id from edition e
				where e.recording_id = $1 limit 1) end where recording_id = $1`, r())
		},
		"a lecture moved": func() {
			s.Do(`update lecture set starts_at = $2::timestamptz
				+ case when starts_at < $2 then 1 else -5 end * interval '1 hour'
				where id = (select lecture_id from recording where id = $1)`, r(), testhouse.Now)
		},
		"a capture stopped": func() {
			s.Do(`update capture set stopped_at = case when stopped_at is null then $2::timestamptz end
				where id in (select capture_id from recording_capture where recording_id = $1)`, r(),
				testhouse.Now.Add(-time.Hour))
		},
		"the term": func() {
			s.Do(`update term set last_day = case when last_day > $1 then $1::date - 3 else $1::date + 60 end`,
				testhouse.Now)
		},
	}
}

// plain has every student be able to watch everything of their course, by a rule that every change touches: of a group,
// from the end of the lecture to that of the term.
func plain(s *testhouse.Stage, people []uuid.UUID) {
	for _, of := range []string{"shut_out", "opening", "viewing_rule"} {
		s.Do(`delete from ` + of)
	}
	rule := viewing.Rule{Audience: viewing.Groups, Groups: []string{"A"}, Uses: viewing.WatchRead,
		Window: viewing.Window{From: viewing.FromLecture, Until: viewing.UntilTerm}}
	for _, course := range []uuid.UUID{s.Course, s.Other} {
		s.Must(s.Audience.SetRule(s.T.Context(), audience.Scope{Course: course}, s.Lecturer, &rule))
	}
	s.Do(`update term set last_day = '2026-12-18'`)
	s.Do(`update recording set deleted_at = null`)
	s.Do(`update recording_edition r set edition_id = (select id from edition e where e.recording_id = r.recording_id)`)
	s.Do(`update lecture set starts_at = $1::timestamptz - interval '5 hours',
		ends_at = $1::timestamptz + interval '3 hours' where id in (select lecture_id from recording)`, testhouse.Now)
	s.Do(`update capture set stopped_at = $1`, testhouse.Now.Add(-time.Hour))
	s.Do(`update lighting set darkened_at = null where id in (select distinct on (recording_id, course_id) id
		from lighting order by recording_id, course_id, darkened_at nulls first)`)
	for _, course := range []uuid.UUID{s.Course, s.Other} {
		for _, id := range people[:3] {
			s.Do(`insert into membership (course_id, person_id, role, group_name) values ($1, $2, 'student', 'A')
				on conflict (course_id, person_id) do update set group_name = 'A'`, course, id)
		}
	}
}

// TestWhatIsRecalledIsWhatTheDatabaseSays: after each change of whatever a decision rests on, two processes that
// remember decisions say of everyone what the database says within two seconds, while others ask all the time.
func TestWhatIsRecalledIsWhatTheDatabaseSays(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	d := dice{rand.New(rand.NewSource(11))}
	var recordings []uuid.UUID
	for i := range 4 {
		lecture := s.AddLecture([]uuid.UUID{s.Course, s.Other}[i/3], testhouse.Now.Add(-5*time.Hour), "x")
		id := s.Bare(lecture, true, nil)
		recordings = append(recordings, id)
		s.LightRow(id, []uuid.UUID{s.Course, s.Other}[i/2], nil)
	}
	for i, course := range []uuid.UUID{s.Course, s.Other} {
		s.Must(s.Playlists.Add(ctx, playlists.Of{Course: course}, []uuid.UUID{s.Course, s.Other}, recordings[2*i:]...))
	}
	people := []uuid.UUID{s.Student, s.Third, s.Outsider, s.Colleague, s.Person("nobody", uuid.Nil, "", "")}
	var processes []*audience.Service
	for range 2 {
		line := recall.Listen(ctx, s.DB)
		t.Cleanup(line.Close)
		processes = append(processes, &audience.Service{DB: s.DB, Clock: s.Clock,
			Decided: audience.NewMemory(line, s.Clock)})
	}
	// differs says where a process says something else than the database.
	differs := func() string {
		for _, person := range people {
			for _, id := range recordings {
				want, unknown := s.Audience.Decide(ctx, person, id)
				for i, process := range processes {
					got, err := process.Recall(ctx, person, id)
					if (err == nil) != (unknown == nil) || err == nil && got.Decision != want.Decision {
						return fmt.Sprintf("process %d says %v (%v), the database %v (%v)", i+1, got.Decision, err,
							want.Decision, unknown)
					}
				}
			}
		}
		return ""
	}
	stop, asking := make(chan struct{}), sync.WaitGroup{}
	for i, process := range processes {
		asking.Go(func() {
			mine := rand.New(rand.NewSource(int64(i)))
			for {
				select {
				case <-stop:
					return
				case <-time.After(time.Millisecond):
					_, _ = process.Recall(ctx, people[mine.Intn(len(people))], recordings[mine.Intn(len(recordings))])
				}
			}
		})
	}
	defer asking.Wait()
	defer close(stop)
	changes := changesOfRights(s, d, recordings, people)
	agree := func(after string) {
		t.Helper()
		began := time.Now()
		for why := differs(); why != ""; why = differs() {
			if time.Since(began) > 2*time.Second {
				t.Fatalf("two seconds after %q %s", after, why)
			}
		}
	}
	for round := range 3 {
		for name, change := range changes {
			if round%2 == 0 {
				plain(s, people)
				agree("all is plain")
			}
			change()
			agree(name)
		}
	}
}

// TestWhatAReleaseRestsOnIsHeard: of what the random changes do not touch each is heard by itself, of whom or what it
// is, and of nothing else.
func TestWhatAReleaseRestsOnIsHeard(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	recording := s.Bare(s.AddLecture(s.Course, testhouse.Now.Add(-5*time.Hour), "x"), true, nil)
	line := recall.Listen(ctx, s.DB)
	t.Cleanup(line.Close)
	memory := recall.NewMemory[recall.Subject, int](line, 10, s.Clock.Now)
	asked := map[recall.Subject]int{}
	answer := func(of recall.Subject) int {
		n, err := memory.Get(ctx, of, func(context.Context) (recall.Answer[int], error) {
			asked[of]++
			return recall.Answer[int]{Value: asked[of], Subjects: []recall.Subject{of}}, nil
		})
		s.Must(err)
		return n
	}
	course, bystander := recall.Course(s.Course), recall.Recording(uuid.New())
	s.Do(`insert into term (id, name, first_day, last_day, zone) select gen_random_uuid(), 'Another', first_day - 400,
		last_day - 400, zone from term`)
	it := recall.Recording(recording)
	for _, x := range []struct {
		of   recall.Subject
		what string
	}{
		{it, `insert into release (recording_id, course_id, own, made_at) select $1, id, false, now()
			from course where id <> (select course_id from release where recording_id = $1) limit 1`},
		{it, `update release set made_at = now() where recording_id = $1`},
		{it, `delete from release where not own and recording_id = $1`},
		{it, `update recording_capture set capture_id = capture_id where recording_id = $1`},
		{it, `delete from recording_capture where recording_id = $1`},
		{course, `update course set term_id = (select id from term where name = 'Another')
			where id = (select course_id from release where own and recording_id = $1)`},
	} {
		of, what := x.of, x.what
		before, other := answer(of), answer(bystander)
		s.Do(what, recording)
		for until := time.Now().Add(30 * time.Second); answer(of) == before; time.Sleep(5 * time.Millisecond) {
			if time.Now().After(until) {
				t.Fatalf("nobody heard of: %s", what)
			}
		}
		if answer(bystander) != other {
			t.Errorf("what has nothing to do with it was forgotten after: %s", what)
		}
	}
}
