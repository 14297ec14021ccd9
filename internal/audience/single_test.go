package audience_test

import (
	"errors"
	"math/rand"
	"slices"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/clock"
	"latelantern/internal/testhouse"
)

// TestWhatAPreviewOfARuleSaysComes, of a course and of one recording in it, over rules and clocks taken at random.
func TestWhatAPreviewOfARuleSaysComes(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	d := dice{rand.New(rand.NewSource(5))}
	ids := []uuid.UUID{s.Bare(s.Lecture, true, nil), s.Bare(s.AddLecture(s.Course, d.moment(), "x"), true, nil)}
	for _, id := range ids {
		s.LightRow(id, s.Course, nil)
	}
	if _, err := s.Audience.Preview(ctx, audience.Scope{Course: s.Other, Recording: ids[0]},
		viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead,
			Window: viewing.Window{From: viewing.FromLecture, Until: viewing.UntilEver}}); !errors.Is(err,
		audience.ErrUnknown) {
		t.Errorf("of a course that does not have it: %v", err)
	}
	gained, lost, single, shifts, refused := 0, 0, 0, 0, 0
	for range 150 {
		then := &audience.Service{DB: s.DB, Clock: clock.Standing(d.moment())}
		of := audience.Scope{Course: s.Course}
		if d.one(2) {
			of.Recording = ids[d.Intn(2)]
		}
		rule := d.rule()
		if rule == nil {
			s.Must(then.SetRule(ctx, of, s.Lecturer, nil))
			continue
		}
		can := func() map[string][]bool {
			out := map[string][]bool{}
			for _, id := range ids {
				if of.Recording != uuid.Nil && of.Recording != id {
					continue
				}
				seats, err := then.Seats(ctx, s.Course, id)
				s.Must(err)
				for _, x := range seats {
					out[x.Name] = append(out[x.Name], x.Reason == viewing.ByRule)
				}
			}
			return out
		}
		said, err := then.Preview(ctx, of, *rule)
		if errors.Is(err, audience.ErrInvalid) { // nobody could ever watch
			refused++
			continue
		}
		s.Must(err)
		before, did := can(), may(s, then, ids, of.Recording)
		s.Must(then.ReplaceRule(ctx, of, s.Lecturer, rule, version(s, of)))
		after := can()
		shifts += shifted(t, said, did, may(s, then, ids, of.Recording))
		some := 0
		for name, now := range after {
			gains, loses := false, false
			for i, can := range now {
				gains, loses = gains || can && !before[name][i], loses || !can && before[name][i]
			}
			is := func(n audience.Name) bool { return n.Name == name }
			if slices.ContainsFunc(said.Gain, is) != gains || slices.ContainsFunc(said.Lose, is) != loses {
				t.Fatalf("%s gains %v, loses %v, and said is %+v", name, gains, loses, said)
			}
			if slices.Contains(now, true) {
				some++
			}
		}
		if said.Can != some || said.Of != len(after) {
			t.Fatalf("%d of %d can watch, and said is %+v", some, len(after), said)
		}
		gained, lost = gained+len(said.Gain), lost+len(said.Lose)
		if of.Recording != uuid.Nil && len(said.Gain)+len(said.Lose) > 0 {
			single++
		}
	}
	if gained < 20 || lost < 20 || single < 10 || shifts < 20 || refused < 20 {
		t.Errorf("%d gained, %d lost, %d by rules of single recordings, %d shifts, %d refused prove little",
			gained, lost,
			single, shifts, refused)
	}
}

func version(s *testhouse.Stage, of audience.Scope) string {
	s.T.Helper()
	held, err := s.Audience.Held(s.T.Context(), of)
	s.Must(err)
	return held.Version
}

// may is what the students of the course may do, by name and recording.
func may(s *testhouse.Stage, then *audience.Service, ids []uuid.UUID, only uuid.UUID) map[string][]viewing.Uses {
	s.T.Helper()
	out := map[string][]viewing.Uses{}
	for name, person := range map[string]uuid.UUID{"student": s.Student, "second": s.Second, "third": s.Third} {
		doors, err := then.DecideAll(s.T.Context(), person, ids)
		s.Must(err)
		for _, id := range ids {
			if only == uuid.Nil || only == id {
				out[name] = append(out[name], doors[id].Uses)
			}
		}
	}
	return out
}

// shifted counts what people who can watch before and after may do more or less, and wants it said.
func shifted(t *testing.T, said audience.Change, before, after map[string][]viewing.Uses) (n int) {
	t.Helper()
	for name, now := range after {
		var more, less viewing.Uses
		for i, uses := range now {
			if was := before[name][i]; uses != 0 && was != 0 {
				more, less = more|uses&^was, less|was&^uses
			}
		}
		for _, x := range []struct {
			uses viewing.Uses
			list []audience.Shift
		}{{more, said.More}, {less, said.Less}} {
			for _, use := range viewing.AllUses.Names() {
				bit, _ := viewing.UsesOf(use)
				told := slices.ContainsFunc(x.list, func(s audience.Shift) bool {
					return s.Use == use &&
						slices.ContainsFunc(s.People, func(n audience.Name) bool { return n.Name == name })
				})
				if told != (x.uses&bit != 0) {
					t.Fatalf("%s may %v more and %v less, and said is %+v", name, more.Names(), less.Names(), said)
				}
				if told {
					n++
				}
			}
		}
	}
	return n
}

// TestTheRuleOfTheCollege holds where a course has none, and a preview says for whom.
func TestTheRuleOfTheCollege(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	id := s.Bare(s.Lecture, true, nil)
	s.LightRow(id, s.Course, nil)
	rule := viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead, Window: atOnce.Window}
	college, course := audience.Scope{}, audience.Scope{Course: s.Course}
	is := func(want viewing.Reason, whence string) {
		t.Helper()
		if d, err := s.Audience.Decide(ctx, s.Student, id); err != nil || d.Reason != want || d.Whence != whence {
			t.Errorf("it is %s by %q, want %s by %q (%v)", d.Reason, d.Whence, want, whence, err)
		}
	}
	is(viewing.NoRule, "")
	change, err := s.Audience.Preview(ctx, college, rule)
	if s.Must(err); len(change.Gain) != 3 || change.Can != 3 || change.Recordings != 1 {
		t.Errorf("it would change %+v", change)
	}
	s.Must(s.Audience.ReplaceRule(ctx, college, s.Coordinator, &rule, ""))
	is(viewing.ByRule, "college")
	only := rule
	only.Audience, only.Groups = viewing.Groups, []string{"B"}
	if _, err := s.Audience.Preview(ctx, college, only); !errors.Is(err, audience.ErrInvalid) {
		t.Errorf("for groups of the college: %v", err)
	}
	s.Must(s.Audience.SetRule(ctx, course, s.Lecturer, &only))
	is(viewing.OtherGroup, "course")
	if change, err = s.Audience.Preview(ctx, college, rule); err != nil || change.Recordings != 0 {
		t.Errorf("where the course has a rule it would change %+v (%v)", change, err)
	}
	s.Must(s.Audience.SetRule(ctx, audience.Scope{Course: s.Course, Recording: id}, s.Lecturer, &rule))
	is(viewing.ByRule, "recording")
	if err := s.Audience.ReplaceRule(ctx, college, s.Coordinator, nil, ""); !errors.Is(err, audience.ErrChanged) {
		t.Errorf("taken away by someone who saw none: %v", err)
	}
}

// TestRulesUnderWhichNobodyCouldWatch are refused in a sentence that says why.
func TestRulesUnderWhichNobodyCouldWatch(t *testing.T) {
	s := testhouse.New(t, true)
	rule := func(change func(*viewing.Rule)) viewing.Rule {
		r := viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead, Window: atOnce.Window}
		change(&r)
		return r
	}
	for code, r := range map[fault.Code]viewing.Rule{
		"rule.nobody": rule(func(r *viewing.Rule) { r.Audience, r.Groups = viewing.Groups, []string{"A", "nobody"} }),
		"rule.past":   rule(func(r *viewing.Rule) { r.Until, r.UntilAt = viewing.UntilDate, testhouse.Now }),
		"rule.never": rule(func(r *viewing.Rule) {
			r.From, r.FromAt, r.Until = viewing.FromDate, testhouse.Now.AddDate(1, 0, 0), viewing.UntilTerm
		}),
		"rule.watch": rule(func(r *viewing.Rule) { r.Uses = viewing.Takeaway }),
		"rule.group": rule(func(r *viewing.Rule) { r.Audience = viewing.Groups }),
	} {
		err := s.Audience.Possible(t.Context(), audience.Scope{Course: s.Course}, r)
		if !errors.Is(err, audience.ErrInvalid) || !slices.Contains(fault.Codes(err), code) {
			t.Errorf("%s: %v", code, err)
		}
		if err := s.Audience.ReplaceRule(t.Context(), audience.Scope{Course: s.Course}, s.Lecturer, &r,
			""); !errors.Is(err, audience.ErrInvalid) {
			t.Errorf("%s: kept (%v)", code, err)
		}
	}
	open := rule(func(*viewing.Rule) {})
	if err := s.Audience.Possible(t.Context(), audience.Scope{Course: uuid.New()}, open); !errors.Is(err,
		audience.ErrUnknown) {
		t.Errorf("of no course: %v", err)
	}
}

// TestShuttingOut does what was said before, is ended and brought back.
func TestShuttingOut(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	one, other := s.Bare(s.Lecture, true, nil), s.Bare(s.Lecture, true, nil)
	dark := s.Bare(s.Lecture, true, nil)
	for _, id := range []uuid.UUID{one, other} {
		s.LightRow(id, s.Course, nil)
	}
	s.LightRow(one, s.Other, nil)
	open := &viewing.Rule{Audience: viewing.Everyone, Uses: viewing.AllUses, Window: atOnce.Window}
	s.Must(s.Audience.SetRule(ctx, audience.Scope{}, s.Coordinator, open))
	s.Do(`insert into membership (course_id, person_id, role) values ($1, $2, 'student')`, s.Other, s.Student)
	can := func() (out []uuid.UUID) {
		t.Helper()
		doors, err := s.Audience.DecideAll(ctx, s.Student, []uuid.UUID{one, other, dark})
		s.Must(err)
		for _, id := range []uuid.UUID{one, other, dark} {
			if doors[id].Watch() {
				out = append(out, id)
			}
		}
		return out
	}
	for name, c := range map[string]struct {
		of    audience.Scope
		fewer []uuid.UUID
	}{
		"of all that the course of the lecture has": {audience.Scope{Course: s.Course}, []uuid.UUID{one, other}},
		"of one recording": {audience.Scope{Course: s.Course, Recording: other},
			[]uuid.UUID{other}},
		"of what is dark":    {audience.Scope{Course: s.Course, Recording: dark}, nil},
		"by one of two ways": {audience.Scope{Course: s.Other}, nil},
	} {
		before := can()
		fewer, err := s.Audience.PreviewShut(ctx, c.of, s.Student)
		if s.Must(err); !same(fewer, c.fewer) {
			t.Errorf("%s they would lose %v, want %v", name, fewer, c.fewer)
		}
		id, err := s.Audience.ShutOut(ctx, s.Lecturer, audience.ShutForm{Scope: c.of, Person: s.Student, Note: " re-sit "})
		s.Must(err)
		if after := can(); len(after) != len(before)-len(c.fewer) {
			t.Errorf("%s they can watch %v", name, after)
		}
		shuts, err := s.Audience.Shuts(ctx, c.of.Course)
		if s.Must(err); len(shuts) != 1 || shuts[0].Note != "re-sit" || shuts[0].By != "lecturer" {
			t.Errorf("%s it stands %+v", name, shuts)
		}
		s.Must(s.Audience.LetIn(ctx, c.of.Course, id, s.Lecturer, false))
		if !same(can(), before) {
			t.Errorf("%s and let in they can watch %v", name, can())
		}
		s.Must(s.Audience.LetIn(ctx, c.of.Course, id, s.Lecturer, true))
		if n := len(can()); n != len(before)-len(c.fewer) {
			t.Errorf("%s again they can watch %d", name, n)
		}
		s.Must(s.Audience.LetIn(ctx, c.of.Course, id, s.Lecturer, false))
		if err := s.Audience.LetIn(ctx, c.of.Course, id, s.Lecturer, false); !errors.Is(err, audience.ErrUnknown) {
			t.Errorf("%s let in twice: %v", name, err)
		}
	}
	past := testhouse.Now
	if _, err := s.Audience.ShutOut(ctx, s.Lecturer, audience.ShutForm{Scope: audience.Scope{Course: s.Course},
		Person: s.Student, Until: &past}); len(fault.All(err)) != 1 {
		t.Errorf("until now: %v", err)
	}
	for name, who := range map[string]uuid.UUID{"of another course": s.Outsider, "who teaches": s.Lecturer} {
		of := audience.Scope{Course: s.Course}
		if _, err := s.Audience.ShutOut(ctx, s.Lecturer, audience.ShutForm{Scope: of, Person: who}); !errors.Is(err,
			audience.ErrUnknown) {
			t.Errorf("someone %s: %v", name, err)
		}
		if _, err := s.Audience.PreviewShut(ctx, of, who); !errors.Is(err, audience.ErrUnknown) {
			t.Errorf("looked at for someone %s: %v", name, err)
		}
	}
}

// same reports whether both have the same, in any order.
func same(a, b []uuid.UUID) bool {
	return len(a) == len(b) && !slices.ContainsFunc(a, func(id uuid.UUID) bool { return !slices.Contains(b, id) })
}
