package audience_test

import (
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/clock"
	"latelantern/internal/release"
	"latelantern/internal/testhouse"
)

// TestTheHistoryOfRights says each change with who, when, from what to what; what was done to many at once as one.
func TestTheHistoryOfRights(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t)
	one, other := filmed(s), s.Bare(s.Later, true, nil)
	minute := 0
	at := func() (*audience.Service, *release.Service) {
		minute++
		c := clock.Standing(testhouse.Now.Add(time.Duration(minute) * time.Minute))
		a, r := *s.Audience, *s.Releases
		a.Clock, r.Clock, r.Rules = c, c, &a
		return &a, &r
	}
	a, _ := at()
	course, of := audience.Scope{Course: s.Course}, audience.Scope{Course: s.Course, Recording: one}
	rule := func(days int) *viewing.Rule {
		return &viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead,
			Window: viewing.Window{From: viewing.FromOnce, Until: viewing.UntilTerm, DaysAfterTerm: days}}
	}
	s.Must(a.SetRule(ctx, course, s.Lecturer, rule(1)))
	a, _ = at()
	s.Must(a.SetRule(ctx, course, s.Colleague, rule(2)))
	_, r := at()
	both := release.Many{Pairs: release.Every([]uuid.UUID{one, other}, []uuid.UUID{s.Course}),
		Giving: viewing.Giving{Rule: &viewing.Ruling{Own: rule(3)}}}
	_, err := r.Change(ctx, s.Lecturer, both)
	s.Must(err)
	_, r = at()
	both.Giving = viewing.Giving{Rule: &viewing.Ruling{}}
	both.Pairs = both.Pairs[:1]
	_, err = r.Change(ctx, s.Lecturer, both)
	s.Must(err)
	_, r = at()
	s.Must(r.Light(ctx, s.Course, one, s.Lecturer))
	a, _ = at()
	shut, err := a.ShutOut(ctx, s.Lecturer, audience.ShutForm{Scope: course, Person: s.Student})
	s.Must(err)
	a, _ = at()
	s.Must(a.LetIn(ctx, s.Course, shut, s.Colleague, false))
	_, r = at()
	s.Must(r.Darken(ctx, s.Course, one, s.Lecturer))
	a, _ = at()
	opening, err := a.Open(ctx, audience.Opens{Recording: one}, s.Lecturer, audience.OpeningForm{Kind: audience.ForHolders, Name: "A guest",
		Opening: atOnce})
	s.Must(err)
	a, _ = at()
	s.Must(a.ChangeOpening(ctx, audience.Opens{Recording: one}, opening, s.Colleague, audience.OpeningForm{Name: "The guest", Opening: atOnce}))
	a, _ = at()
	s.Must(a.Renew(ctx, audience.Opens{Recording: one}, opening, s.Lecturer))
	a, _ = at()
	s.Must(a.TakeBack(ctx, audience.Opens{Recording: one}, opening, s.Lecturer, false))

	later := testhouse.Now.AddDate(1, 0, 0)
	list, next, err := s.Audience.History(ctx, course, later)
	s.Must(err)
	want := []struct {
		what       audience.What
		by         string
		recordings int
		rule, was  int // days after term; 0 for none
	}{
		{audience.WasTakenBack, "lecturer", 1, 0, 0}, {audience.WasRenewed, "lecturer", 1, 0, 0},
		{audience.WasChanged, "colleague", 1, 0, 0}, {audience.WasOpened, "lecturer", 1, 0, 0},
		{audience.WasDarkened, "lecturer", 1, 0, 0}, {audience.WasLetIn, "colleague", 0, 0, 0},
		{audience.WasShutOut, "lecturer", 0, 0, 0}, {audience.WasLit, "lecturer", 1, 0, 0},
		{audience.WasUnruled, "lecturer", 1, 0, 3}, {audience.WasRuled, "lecturer", 2, 3, 0},
		{audience.WasRuled, "colleague", 0, 2, 1}, {audience.WasRuled, "lecturer", 0, 1, 0},
	}
	if len(list) != len(want) || !next.IsZero() {
		t.Fatalf("%d changes, and more %v: %+v", len(list), next, list)
	}
	days := func(r *viewing.Rule) int {
		if r == nil {
			return 0
		}
		return r.DaysAfterTerm
	}
	for i, x := range list {
		w := want[i]
		if x.What != w.what || x.By != w.by || len(x.Recordings) != w.recordings || days(x.Rule) != w.rule ||
			days(x.Was) != w.was || i > 0 && !x.At.Before(list[i-1].At) {
			t.Errorf("change %d is %+v, want %+v", i, x, w)
		}
	}
	if o := list[2]; o.Opening.Name != "The guest" || o.OpeningWas == nil || o.OpeningWas.Name != "A guest" {
		t.Errorf("it was made %+v from %+v", o.Opening, o.OpeningWas)
	}
	if x := list[6]; x.Person != "student" || x.Until != nil {
		t.Errorf("shut out was %+v", x)
	}
	a, _ = at()
	s.Must(a.SetRule(ctx, course, uuid.Nil, nil))
	list, _, err = s.Audience.History(ctx, course, later)
	if s.Must(err); list[0].What != audience.WasUnruled || list[0].By != "" || days(list[0].Was) != 2 {
		t.Errorf("taken away by nobody it is %+v", list[0])
	}
	list, _, err = s.Audience.History(ctx, of, later)
	if s.Must(err); len(list) != 8 {
		t.Errorf("of one recording there are %d: %+v", len(list), list)
	}
	list, _, err = s.Audience.History(ctx, audience.Scope{Course: s.Other}, later)
	if s.Must(err); len(list) != 0 {
		t.Errorf("of another course there are %+v", list)
	}
}

// TestALongHistoryIsReadInParts, and nothing of it twice or never, also where much was done at one moment.
func TestALongHistoryIsReadInParts(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	id := s.Bare(s.Lecture, true, nil)
	made := 0
	for i := range 150 {
		s.Do(`insert into lighting (id, recording_id, course_id, lit_by, lit_at, darkened_by, darkened_at)
			values ($1, $2, $3, $4, $5, $4, $5)`, uuid.Must(uuid.NewV7()), id, s.Course, s.Lecturer,
			testhouse.Now.Add(time.Duration(i/40)*time.Hour))
		made += 2
	}
	for i := range 70 {
		s.Do(`insert into viewing_rule (id, course_id, audience, uses, from_kind, until_kind, made_at, ended_at)
			values ($1, $2, 'everyone', '{watch}', 'once', 'ever', $3, $4)`, uuid.Must(uuid.NewV7()), s.Course,
			testhouse.Now.Add(time.Duration(i)*time.Minute), testhouse.Now.Add(time.Duration(i+1)*time.Minute))
		made++
	}
	made++ // the last of them was taken away
	read, parts, before := 0, 0, testhouse.Now.AddDate(1, 0, 0)
	for !before.IsZero() && parts < 100 {
		list, next, err := s.Audience.History(ctx, audience.Scope{Course: s.Course}, before)
		s.Must(err)
		for _, x := range list {
			read += max(1, len(x.Recordings))
			if !x.At.Before(before) || x.At.Before(next) {
				t.Errorf("from %v to %v it says what was at %v", next, before, x.At)
			}
		}
		before = next
		parts++
	}
	if read != made || parts < 3 {
		t.Errorf("%d of %d are read, in %d parts", read, made, parts)
	}
}
