package audience_test

import (
	"context"
	"errors"
	"fmt"
	"math/rand"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/testdb"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// dice are what a small college is made of at random.
type dice struct{ *rand.Rand }

func (d dice) one(of int) bool { return d.Intn(of) == 0 }

func (d dice) moment() time.Time {
	return testhouse.Now.Add(time.Duration(d.Intn(200)-100) * 37 * time.Hour)
}

// uses are some, to watch among them.
func (d dice) uses() viewing.Uses { return viewing.Uses(d.Intn(1<<6)) | viewing.Uses(viewing.ToWatch) }

// window is any that can be.
func (d dice) window() viewing.Window {
	for {
		w := viewing.Window{Until: viewing.UntilEver}
		switch w.From = viewing.FromLecture; d.Intn(5) {
		case 0:
			w.From = viewing.FromOnce
		case 1:
			w.From, w.DaysAfterLecture = viewing.FromDays, 1+d.Intn(30)
		case 2, 3:
			w.From, w.FromAt = viewing.FromDate, d.moment()
		}
		switch d.Intn(3) {
		case 0:
			w.Until, w.UntilAt = viewing.UntilDate, d.moment()
		case 1:
			w.Until, w.DaysAfterTerm = viewing.UntilTerm, d.Intn(40)
		}
		if w.Check() == nil {
			return w
		}
	}
}

// rule is one that can be, or nil.
func (d dice) rule() *viewing.Rule {
	rule := &viewing.Rule{Audience: viewing.Everyone, Uses: d.uses(), Window: d.window()}
	if d.one(2) {
		rule.Audience, rule.Groups = viewing.Groups, [][]string{{"A"}, {"B", "C"}, {"nobody"}}[d.Intn(3)]
	}
	if d.one(8) {
		return nil
	}
	return rule
}

// collegeRule is one that can be that of the college, or nil.
func (d dice) collegeRule() *viewing.Rule {
	if d.one(2) {
		return nil
	}
	return &viewing.Rule{Audience: viewing.Everyone, Uses: d.uses(), Window: d.window()}
}

// nearness are the reasons a student meets, from the best on.
var nearness = []viewing.Reason{viewing.ByRule, viewing.NotYet, viewing.ShutOut, viewing.OtherGroup, viewing.NoLonger,
	viewing.NoRule,
	viewing.NotLit, viewing.NotEnrolled}

// TestSQLAndCoreAgree decides for every person and recording of a small college in Go and in SQL, under releases, rules
// of courses and of single recordings, rosters and clocks taken at random, and wants the same answers: what lets
// someone in is the best of what the courses say.
func TestSQLAndCoreAgree(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	d := dice{rand.New(rand.NewSource(7))}
	courses := []uuid.UUID{s.Course, s.Other}
	var recordings []uuid.UUID
	for i := range 8 {
		var stopped *time.Time
		if d.one(2) {
			x := d.moment()
			stopped = &x
		}
		id := s.Bare(s.AddLecture(courses[i%4/3], d.moment(), "x"), !d.one(4), stopped)
		recordings = append(recordings, id)
		for _, course := range courses {
			switch d.Intn(4) {
			case 0, 1:
				s.LightRow(id, course, nil)
			case 2:
				x := d.moment()
				s.LightRow(id, course, &x)
			}
		}
	}
	people := []uuid.UUID{s.Student, s.Second, s.Third}
	for i := range 4 {
		people = append(people,
			s.Person(fmt.Sprint("more", i), courses[i%2], "student", []string{"", "A", "B", "C"}[i]))
	}
	for i, id := range people[:4] { // who is in both
		s.Do(`insert into membership (course_id, person_id, role, group_name) values ($1, $2, 'student', $3)
			on conflict do nothing`,
			s.Other, id, []string{"A", "B", "", "C"}[i])
	}
	viewers := map[seat]viewing.Viewer{} // by person and course
	rows, err := postgres.All[struct {
		PersonID, CourseID uuid.UUID
		Role, Group        string
	}](ctx, s.DB, `select person_id, course_id, role, group_name as "group" from membership`)
	s.Must(err)
	for _, m := range rows {
		viewers[seat{m.PersonID, m.CourseID}] = viewing.Viewer{Role: viewing.Role(m.Role), Group: m.Group}
	}
	reasons, own, best := map[viewing.Reason]int{}, 0, 0
	for range 100 {
		for _, course := range courses {
			s.Must(s.Audience.SetRule(ctx, audience.Scope{Course: course}, s.Lecturer, d.rule()))
		}
		s.Must(s.Audience.SetRule(ctx, audience.Scope{}, s.Coordinator, d.collegeRule()))
		s.Do(`delete from shut_out`)
		for range d.Intn(5) {
			shutOut(s, d, people[d.Intn(len(people))], courses[d.Intn(2)], recordings[d.Intn(len(recordings))])
		}
		single := recordings[d.Intn(len(recordings))]
		rule := d.rule()
		if err := s.Audience.SetRule(ctx, audience.Scope{Course: s.Other, Recording: single}, s.Lecturer,
			rule); err == nil && rule != nil {
			own++
		}
		now := d.moment()
		if r, err := s.Audience.Rule(ctx,
			audience.Scope{Course: s.Course}); err == nil && r != nil && r.Until == viewing.UntilTerm && d.one(2) {
			// The very moment at which the rule ends, and the one before, in the zone of the college.
			now = time.Date(2026, 12, 19+r.DaysAfterTerm, 0, 0, 0, 0,
				time.UTC).Add(-time.Duration(d.Intn(2)) * time.Microsecond)
		}
		then := &audience.Service{DB: s.DB, Clock: clock.Standing(now)}
		said := agreeOnCounts(t, then, courses, recordings)
		for _, person := range people {
			doors, err := then.DecideAll(ctx, person, recordings)
			s.Must(err)
			for _, id := range recordings {
				want := said[seat{person, id}]
				slices.SortFunc(want,
					func(a, b viewing.Reason) int { return slices.Index(nearness, a) - slices.Index(nearness, b) })
				if len(want) > 1 && want[0] != want[1] {
					best++
				}
				want = append(want, viewing.NotEnrolled)
				if got := doors[id]; got.Reason != want[0] || got.Watch() != (want[0] == viewing.ByRule) {
					t.Fatalf("at %v the core says %s and SQL says %s", now, got.Reason, want)
				}
				reasons[want[0]]++
				released, err := then.Released(ctx, id)
				s.Must(err)
				if got := released.Door(person, false, func(course uuid.UUID) viewing.Viewer {
					return viewers[seat{person, course}]
				},
					now); got != doors[id] {
					if got.Decision != doors[id].Decision || got.Course != doors[id].Course {
						t.Fatalf("at %v the door is %+v for one and %+v for many", now, doors[id], got)
					}
				}
			}
		}
	}
	for _, x := range nearness {
		if reasons[x] < 20 {
			t.Errorf("%s was decided only %d times, which proves little", x, reasons[x])
		}
	}
	if own < 20 || best < 200 {
		t.Errorf("%d rules of single recordings and %d choices between ways prove little", own, best)
	}
}

// shutOut shuts a person out of one of the recordings or of what a course has, for good, until a moment, or no more.
func shutOut(s *testhouse.Stage, d dice, person, course, recording uuid.UUID) {
	var of *uuid.UUID
	if d.one(2) {
		of = &recording
	}
	var until, ended *time.Time
	if d.one(2) {
		x := d.moment()
		until = &x
	}
	if d.one(4) {
		x := d.moment()
		ended = &x
	}
	s.Do(`insert into shut_out (id, person_id, course_id, recording_id, until_at, made_at, ended_at)
		values ($1, $2, $3, $4, $5, $6, $7) on conflict do nothing`, uuid.Must(uuid.NewV7()), person, course, of, until,
		testhouse.Now, ended)
}

type seat struct{ person, recording uuid.UUID }

// agreeOnCounts is what SQL decides in each course that has a recording, and wants the counts to be of that.
func agreeOnCounts(t *testing.T, then *audience.Service, courses, recordings []uuid.UUID) map[seat][]viewing.Reason {
	t.Helper()
	said := map[seat][]viewing.Reason{}
	for _, course := range courses {
		counts, err := then.Counts(t.Context(), course)
		if err != nil {
			t.Fatal(err)
		}
		for _, id := range recordings {
			seats, err := then.Seats(t.Context(), course, id)
			if err != nil && !errors.Is(err, audience.ErrUnknown) { // a course may not have it
				t.Fatal(err)
			}
			want := viewing.Count{Of: len(seats)}
			for _, x := range seats {
				at := seat{x.PersonID, id}
				said[at] = append(said[at], x.Reason)
				if x.Reason == viewing.ByRule {
					want.Can++
				}
			}
			if counts[id] != want {
				t.Fatalf("the count is %+v, and %+v were decided", counts[id], want)
			}
		}
	}
	return said
}

func TestDoorsOfOthers(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	id := s.Bare(s.Lecture, true, nil)
	s.LightRow(id, s.Course, nil)
	s.Must(s.Audience.SetRule(ctx, audience.Scope{Course: s.Course}, s.Lecturer,
		&viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead,
			Window: viewing.Window{From: viewing.FromDate, FromAt: testhouse.Now.Add(-time.Hour),
				Until: viewing.UntilEver}}))
	for who, want := range map[uuid.UUID]viewing.Reason{
		s.Student: viewing.ByRule, s.Outsider: viewing.NotEnrolled, s.Colleague: viewing.NotEnrolled,
		s.Lecturer: viewing.AsStaff, s.Coordinator: viewing.AsStaff,
	} {
		if door, err := s.Audience.Decide(ctx, who, id); err != nil || door.Reason != want {
			t.Errorf("%v: %s, want %s (%v)", who, door.Reason, want, err)
		}
	}
	// Someone taken off the roster is out at once.
	s.Do(`delete from membership where person_id = $1`, s.Student)
	if door, err := s.Audience.Decide(ctx, s.Student, id); err != nil || door.Watch() {
		t.Errorf("off the roster: %+v %v", door, err)
	}
	// A recording that was taken away is not there for anyone.
	s.Must(s.Library.SetDeleted(ctx, id, uuid.Nil, true))
	if _, err := s.Audience.Decide(ctx, s.Lecturer, id); !errors.Is(err, audience.ErrUnknown) {
		t.Errorf("taken away: %v", err)
	}
	if counts, err := s.Audience.Counts(ctx, s.Course); err != nil || len(counts) != 0 {
		t.Errorf("taken away, and still counted: %v %v", counts, err)
	}
}

func TestPreviewTellsWhatChanges(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	id := s.Bare(s.Lecture, true, nil)
	everyone := viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead,
		Window: viewing.Window{From: viewing.FromDate, FromAt: testhouse.Now.Add(-time.Hour), Until: viewing.UntilEver}}
	onlyA := everyone
	onlyA.Audience, onlyA.Groups = viewing.Groups, []string{"A"}
	onlyB := everyone
	onlyB.Audience, onlyB.Groups = viewing.Groups, []string{"B"}
	look := func(r viewing.Rule) audience.Change {
		t.Helper()
		c, err := s.Audience.Preview(ctx, audience.Scope{Course: s.Course}, r)
		s.Must(err)
		return c
	}
	if c := look(onlyA); c.Recordings != 0 || c.Can != 0 || c.Of != 3 || c.Covered != 2 || len(c.Gain) != 0 {
		t.Errorf("nothing lit: %+v", c)
	}
	s.LightRow(id, s.Course, nil)
	if c := look(everyone); c.Can != 3 || len(c.Gain) != 3 || len(c.Lose) != 0 || c.Recordings != 1 {
		t.Errorf("the first rule: %+v", c)
	}
	s.Must(s.Audience.SetRule(ctx, audience.Scope{Course: s.Course}, s.Lecturer, &onlyA))
	if c := look(onlyB); c.Can != 1 || len(c.Gain) != 1 || c.Gain[0].Name != "third" || len(c.Lose) != 2 ||
		c.Lose[0].Name != "second" {
		t.Errorf("from one group to another: %+v", c)
	}
	if c := look(onlyA); len(c.Gain) != 0 || len(c.Lose) != 0 || c.Can != 2 {
		t.Errorf("the rule as it is: %+v", c)
	}
	// A rule that lets them do more or less changes nobody who can watch, and says whom it concerns, use by use.
	copies := onlyA
	copies.Uses = viewing.WatchRead | viewing.Uses(viewing.TakeSound)
	if c := look(copies); len(c.Gain)+len(c.Lose)+len(c.Less) != 0 || len(c.More) != 1 ||
		c.More[0].Use != "take_sound" || len(c.More[0].People) != 2 {
		t.Errorf("copies for those who can watch: %+v", c)
	}
	s.Must(s.Audience.SetRule(ctx, audience.Scope{Course: s.Course}, s.Lecturer, &copies))
	onlyWatch := onlyA
	onlyWatch.Uses = viewing.Uses(viewing.ToWatch)
	if c := look(onlyWatch); len(c.Gain)+len(c.Lose)+len(c.More) != 0 || len(c.Less) != 2 || c.Less[0].Use != "read" ||
		c.Less[1].Use != "take_sound" || len(c.Less[1].People) != 2 || c.Less[1].People[0].Name != "second" {
		t.Errorf("nothing but to watch: %+v", c)
	}
	if c := look(onlyB); len(c.Less) != 0 || len(c.Lose) != 2 {
		t.Errorf("who can no longer watch: %+v", c)
	}
	s.Must(s.Audience.SetRule(ctx, audience.Scope{Course: s.Course}, s.Lecturer, &onlyA))
	// A preview changes nothing.
	if r, err := s.Audience.Rule(ctx, audience.Scope{Course: s.Course}); err != nil || r == nil || r.Groups[0] != "A" {
		t.Errorf("the rule is now %+v (%v)", r, err)
	}
	turned := everyone
	turned.Until, turned.UntilAt = viewing.UntilDate, everyone.FromAt.Add(-time.Hour)
	if _, err := s.Audience.Preview(ctx, audience.Scope{Course: s.Course}, turned); !errors.Is(err,
		audience.ErrInvalid) {
		t.Errorf("an end before the start: %v", err)
	}
	if err := s.Audience.SetRule(ctx, audience.Scope{Course: s.Course}, s.Lecturer, &turned); !errors.Is(err,
		audience.ErrInvalid) {
		t.Errorf("an end before the start is kept: %v", err)
	}
}

// TestEarlierRulesAreKept with who made them.
func TestEarlierRulesAreKept(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	rule := &viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead,
		Window: viewing.Window{From: viewing.FromLecture, Until: viewing.UntilTerm, DaysAfterTerm: 3}}
	s.Must(s.Audience.SetRule(ctx, audience.Scope{Course: s.Course}, s.Lecturer, rule))
	rule.DaysAfterTerm = 5
	s.Must(s.Audience.SetRule(ctx, audience.Scope{Course: s.Course}, s.Coordinator, rule),
		s.Audience.SetRule(ctx, audience.Scope{Course: s.Course}, s.Coordinator, nil))
	if n := s.Count(`select count(*) from viewing_rule
		where course_id = $1 and ended_at is not null and made_by is not null`, s.Course); n != 2 {
		t.Errorf("%d rules are kept", n)
	}
	if r, err := s.Audience.Rule(ctx, audience.Scope{Course: s.Course}); err != nil || r != nil {
		t.Errorf("a rule that was taken away: %+v %v", r, err)
	}
}

// TestALightedRecordingIsSeen goes the whole way once, with a film.
func TestALightedRecordingIsSeen(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	path := filepath.Join(t.TempDir(), "a.mp4")
	s.Must(testfilm.Film{Length: 3 * time.Second, Width: 320, Height: 180}.Make(ctx, path))
	id, _ := s.File(s.Lecture, path)
	s.Settled(id)
	s.Must(s.Audience.SetRule(ctx, audience.Scope{Course: s.Course}, s.Lecturer,
		&viewing.Rule{Audience: viewing.Groups, Groups: []string{"A"}, Uses: viewing.WatchRead,
			Window: viewing.Window{From: viewing.FromDate, FromAt: testhouse.Now.Add(-time.Hour),
				Until: viewing.UntilEver}}))
	light := func() viewing.Light {
		c, err := s.Audience.Counts(ctx, s.Course)
		s.Must(err)
		return c[id].Light()
	}
	if light() != viewing.Dark {
		t.Error("it is not dark before it is lit")
	}
	s.Lit(id)
	if light() != viewing.PartLit {
		t.Error("it is not part-lit for one group")
	}
	s.Must(s.Audience.SetRule(ctx, audience.Scope{Course: s.Course}, s.Lecturer,
		&viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead,
			Window: viewing.Window{From: viewing.FromDate, FromAt: testhouse.Now.Add(-time.Hour),
				Until: viewing.UntilEver}}))
	if light() != viewing.Lit {
		t.Error("it is not lit for everyone")
	}
	s.Must(s.Releases.Darken(ctx, s.Course, id, s.Lecturer))
	if light() != viewing.Dark {
		t.Error("it is not dark after it was taken back")
	}
}

// TestARuleOfOneRecording holds for it alone, in that course alone, and the others' stays when it is taken away.
func TestARuleOfOneRecording(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	one, other := s.Bare(s.Lecture, true, nil), s.Bare(s.Lecture, true, nil)
	s.LightRow(one, s.Course, nil)
	s.LightRow(other, s.Course, nil)
	everyone := &viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead,
		Window: viewing.Window{From: viewing.FromDate, FromAt: testhouse.Now.Add(-time.Hour), Until: viewing.UntilEver}}
	closed := *everyone
	closed.FromAt = testhouse.Now.Add(time.Hour)
	single := audience.Scope{Course: s.Course, Recording: one}
	s.Must(s.Audience.SetRule(ctx, audience.Scope{Course: s.Course}, s.Lecturer, everyone),
		s.Audience.SetRule(ctx, single, s.Lecturer, &closed))
	want := func(first, second viewing.Reason) {
		t.Helper()
		doors, err := s.Audience.DecideAll(ctx, s.Student, []uuid.UUID{one, other})
		if s.Must(err); doors[one].Reason != first || doors[other].Reason != second {
			t.Errorf("they are %s and %s, want %s and %s", doors[one].Reason, doors[other].Reason, first, second)
		}
	}
	want(viewing.NotYet, viewing.ByRule)
	if r, err := s.Audience.Rule(ctx, single); err != nil || r == nil || !r.FromAt.Equal(closed.FromAt) {
		t.Errorf("its rule is %+v (%v)", r, err)
	}
	s.Must(s.Audience.SetRule(ctx, audience.Scope{Course: s.Course}, s.Lecturer, nil))
	want(viewing.NotYet, viewing.NoRule)
	s.Must(s.Audience.SetRule(ctx, single, s.Lecturer, nil))
	want(viewing.NoRule, viewing.NoRule)
	elsewhere := audience.Scope{Course: s.Other, Recording: one}
	if err := s.Audience.SetRule(ctx, elsewhere, s.Lecturer, everyone); !errors.Is(err, audience.ErrUnknown) {
		t.Errorf("a rule for a course that does not have it: %v", err)
	}
}
