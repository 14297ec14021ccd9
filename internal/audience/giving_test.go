package audience_test

import (
	"errors"
	"maps"
	"math/rand"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/clock"
	"latelantern/internal/release"
	"latelantern/internal/testhouse"
)

// TestWhatAPreviewOfRulesForManySaysComes: over rules, courses and clocks taken at random, who can watch and do what
// afterwards is what was said before, and taken back all is as it was.
func TestWhatAPreviewOfRulesForManySaysComes(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	d := dice{rand.New(rand.NewSource(23))}
	courses := []uuid.UUID{s.Course, s.Other}
	people := []uuid.UUID{s.Student, s.Second, s.Third, s.Outsider}
	for i, id := range people {
		s.Do(`insert into membership (course_id, person_id, role, group_name) values ($1, $2, 'student', $3)
			on conflict do nothing`, courses[i%2], id, []string{"A", "B", "", "C"}[i])
	}
	var recordings []uuid.UUID
	for i := range 3 {
		id := s.Bare(s.AddLecture(courses[i%2], d.moment(), "x"), true, nil)
		recordings = append(recordings, id)
		for _, course := range courses[:1+i%2] {
			s.LightRow(id, course, nil)
		}
	}
	type at struct{ person, recording uuid.UUID }
	gained, lost, shifted, refused, nothing := 0, 0, 0, 0, 0
	for range 120 {
		then := &audience.Service{DB: s.DB, Clock: clock.Standing(d.moment())}
		releases := &release.Service{DB: s.DB, Clock: then.Clock, Editions: s.Publication, Playlists: s.Playlists,
			Rules: then, News: s.News}
		for _, course := range courses {
			s.Must(then.SetRule(ctx, audience.Scope{Course: course}, s.Lecturer, d.rule()))
		}
		pairs := release.Once(release.Every(recordings[:1+d.Intn(3)], courses[d.Intn(2):]))
		var of, in []uuid.UUID
		for _, x := range pairs {
			of, in = append(of, x.Recording), append(in, x.Course)
		}
		giving := viewing.Giving{Rule: &viewing.Ruling{Own: d.rule()}}
		stands := func() map[at]viewing.Uses {
			out := map[at]viewing.Uses{}
			for _, person := range people {
				doors, err := then.DecideAll(ctx, person, recordings)
				s.Must(err)
				for id, door := range doors {
					if door.Watch() {
						out[at{person, id}] = door.Uses
					}
				}
			}
			return out
		}
		before := stands()
		said, err := then.PreviewGiving(ctx, of, in, giving, time.Time{})
		if errors.Is(err, audience.ErrInvalid) {
			refused++
			if _, err := releases.Change(ctx, s.Lecturer, release.Many{Pairs: pairs,
				Giving: giving}); !errors.Is(err, audience.ErrInvalid) {
				t.Fatalf("a rule that was refused is kept: %v", err)
			}
			continue
		}
		s.Must(err)
		changes := slices.ContainsFunc(said.Cells, func(c audience.Cell) bool { return c.Changes })
		step, err := releases.Change(ctx, s.Lecturer, release.Many{Pairs: pairs, Giving: giving})
		if errors.Is(err, release.ErrNothing) != !changes {
			t.Fatalf("changes are said %v, and it gives %v", changes, err)
		}
		if !changes {
			nothing++
			continue
		}
		s.Must(err)
		after := stands()
		for _, person := range people {
			var gains, loses, more, less viewing.Uses
			for _, id := range recordings {
				was, is := before[at{person, id}], after[at{person, id}]
				switch {
				case was == 0:
					gains |= is
				case is == 0:
					loses |= was
				default:
					more, less = more|is&^was, less|was&^is
				}
			}
			named := func(list []audience.Name) bool {
				return slices.ContainsFunc(list, func(n audience.Name) bool { return n.PersonID == person })
			}
			shifts := func(list []audience.Shift) (out viewing.Uses) {
				for _, x := range list {
					if named(x.People) {
						use, _ := viewing.UsesOf(x.Use)
						out |= use
					}
				}
				return out
			}
			if named(said.Gain) != (gains != 0) || named(said.Lose) != (loses != 0) || shifts(said.More) != more ||
				shifts(said.Less) != less {
				t.Fatalf("gains %v, loses %v, more %v, less %v, and said is %+v", gains, loses, more, less, said.Change)
			}
		}
		gained, lost, shifted = gained+len(said.Gain), lost+len(said.Lose), shifted+len(said.More)+len(said.Less)
		if d.one(2) {
			s.Must(releases.TakeBack(ctx, step, s.Lecturer, false))
			if back := stands(); !maps.Equal(back, before) {
				t.Fatalf("taken back it is %v, and was %v", back, before)
			}
		}
	}
	if gained < 10 || lost < 10 || shifted < 10 || refused < 3 || nothing < 3 {
		t.Errorf("%d gained, %d lost, %d shifted, %d refused, %d nothing: they prove little", gained, lost, shifted,
			refused, nothing)
	}
}

// TestARuleMadeSinceStays when the step before it is taken back, and the earlier rule comes back where nobody made one.
func TestARuleMadeSinceStays(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	ids := []uuid.UUID{s.Bare(s.Lecture, true, nil), s.Bare(s.Later, true, nil), s.Bare(s.Later, true, nil)}
	of := func(i int) audience.Scope { return audience.Scope{Course: s.Course, Recording: ids[i]} }
	rule := func(days int) *viewing.Rule {
		return &viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead,
			Window: viewing.Window{From: viewing.FromOnce, Until: viewing.UntilTerm, DaysAfterTerm: days}}
	}
	want := func(when string, days ...int) {
		t.Helper()
		for i, n := range days {
			r, err := s.Audience.Rule(ctx, of(i))
			s.Must(err)
			if got := map[bool]int{false: -1}[r != nil]; r != nil && r.DaysAfterTerm != n || r == nil && got != n {
				t.Errorf("%s rule %d is %+v, want of %d days", when, i, r, n)
			}
		}
	}
	s.Must(s.Audience.SetRule(ctx, of(0), s.Lecturer, rule(1)), s.Audience.SetRule(ctx, of(2), s.Lecturer, rule(3)))
	many := release.Many{Pairs: release.Every(ids, []uuid.UUID{s.Course, s.Other}),
		Giving: viewing.Giving{Rule: &viewing.Ruling{Own: rule(3)}}}
	step, err := s.Releases.Change(ctx, s.Lecturer, many)
	s.Must(err)
	want("given", 3, 3, 3)
	if n := s.Count(`select count(*) from rule_change_part where change_id = $1`, step); n != 2 {
		t.Errorf("the step has %d parts: one was so before, and the other course has none of them", n)
	}
	s.Must(s.Audience.SetRule(ctx, of(1), s.Colleague, rule(9)), s.Releases.TakeBack(ctx, step, s.Lecturer, false))
	want("taken back", 1, 9, 3)
	many.Rule = &viewing.Ruling{}
	step, err = s.Releases.Change(ctx, s.Lecturer, many)
	s.Must(err)
	want("as the course", -1, -1, -1)
	s.Must(s.Audience.SetRule(ctx, of(2), s.Colleague, rule(4)), s.Releases.TakeBack(ctx, step, s.Lecturer, false))
	want("taken back again", 1, 9, 4)
}
