package audience_test

import (
	"context"
	"errors"
	"fmt"
	"math/rand"
	"path/filepath"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/clock"
	"latelantern/internal/testdb"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// bare adds a recording to a lecture without any media: what decisions need of one.
func bare(s *testhouse.Stage, lecture uuid.UUID, edition bool, stopped *time.Time) uuid.UUID {
	recording, capture := uuid.Must(uuid.NewV7()), uuid.Must(uuid.NewV7())
	s.Do(`insert into capture (id, lecture_id, source, started_at, stopped_at) values ($1, $2, 'file', $3, $4)`, capture, lecture, testhouse.Now, stopped)
	s.Do(`insert into track (id, capture_id, media_type, arrived_at) values ($1, $2, '', $3)`, uuid.Must(uuid.NewV7()), capture, testhouse.Now)
	s.Do(`insert into recording (id, lecture_id, created_at, origin_at) values ($1, $2, $3, $3)`, recording, lecture, testhouse.Now)
	s.Do(`insert into recording_capture (recording_id, capture_id, position, start_ms) values ($1, $2, 0, 0)`, recording, capture)
	if edition {
		id := uuid.Must(uuid.NewV7())
		s.Do(`insert into edition (id, recording_id, state, asked_at) values ($1, $2, 'ready', $3)`, id, recording, testhouse.Now)
		s.Do(`update recording set edition_id = $2 where id = $1`, recording, id)
	}
	return recording
}

func lightRow(s *testhouse.Stage, recording, course uuid.UUID, darkened *time.Time) {
	s.Do(`insert into publication (id, recording_id, course_id, lit_at, darkened_at) values ($1, $2, $3, $4, $5)`, uuid.Must(uuid.NewV7()), recording, course, testhouse.Now, darkened)
}

// TestSQLAndCoreAgree decides for every person and recording of a small college in Go and in
// SQL, under rules, rosters and clocks taken at random, and wants the same answers.
func TestSQLAndCoreAgree(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	r := rand.New(rand.NewSource(7))
	pick := func(n int) int { return r.Intn(n) }
	at := func() time.Time { return testhouse.Now.Add(time.Duration(pick(200)-100) * 37 * time.Hour) }
	var recordings []uuid.UUID
	for range 6 {
		var stopped *time.Time
		if pick(2) == 0 {
			x := at()
			stopped = &x
		}
		id := bare(s, s.AddLecture(s.Course, at(), "x"), pick(4) > 0, stopped)
		recordings = append(recordings, id)
		if pick(3) > 0 {
			lightRow(s, id, s.Course, nil)
		} else if x := at(); pick(2) == 0 {
			lightRow(s, id, s.Course, &x)
		}
	}
	people := []uuid.UUID{s.Student, s.Second, s.Third}
	for i := range 4 {
		people = append(people, s.Person(fmt.Sprint("more", i), s.Course, "student", []string{"", "A", "B", "C"}[i]))
	}
	reasons := map[viewing.Reason]int{}
	for range 150 {
		rule := &viewing.Rule{Audience: viewing.Everyone, Download: pick(2) == 0, From: viewing.FromLecture, Until: viewing.UntilEver}
		if pick(2) == 0 {
			rule.Audience, rule.Groups = viewing.Groups, [][]string{{"A"}, {"B", "C"}, {"nobody"}}[pick(3)]
		}
		if pick(2) == 0 {
			rule.From, rule.FromAt = viewing.FromDate, at()
		}
		switch pick(3) {
		case 0:
			rule.Until, rule.UntilAt = viewing.UntilDate, at()
		case 1:
			rule.Until, rule.DaysAfterTerm = viewing.UntilTerm, pick(40)
		}
		if rule.Check() != nil {
			continue
		}
		if pick(10) == 0 {
			rule = nil
		}
		s.Must(s.Audience.SetRule(ctx, s.Course, s.Lecturer, rule))
		now := at()
		if rule != nil && rule.Until == viewing.UntilTerm && pick(2) == 0 {
			// The very moment at which the rule ends, and the one before, in the zone of the college.
			now = time.Date(2026, 12, 19+rule.DaysAfterTerm, 0, 0, 0, 0, time.UTC).Add(-time.Duration(pick(2)) * time.Microsecond)
		}
		then := &audience.Service{DB: s.DB, Clock: clock.Standing(now)}
		counts, err := then.Counts(ctx, s.Course)
		s.Must(err)
		for _, id := range recordings {
			seats, err := then.Seats(ctx, s.Course, id)
			s.Must(err)
			can := 0
			for _, seat := range seats {
				door, err := then.Decide(ctx, seat.PersonID, id)
				s.Must(err)
				if door.Reason != seat.Reason || door.Watch != (seat.Reason == viewing.ByRule) {
					t.Fatalf("at %v under %+v the core says %s and SQL says %s", now, rule, door.Reason, seat.Reason)
				}
				reasons[door.Reason]++
				if door.Watch {
					can++
				}
			}
			if want := (viewing.Count{Can: can, Of: len(people)}); counts[id] != want {
				t.Fatalf("the count is %+v, and %+v were decided", counts[id], want)
			}
		}
	}
	for _, x := range []viewing.Reason{viewing.ByRule, viewing.NotLit, viewing.NoRule, viewing.OtherGroup, viewing.NotYet, viewing.NoLonger} {
		if reasons[x] < 20 {
			t.Errorf("%s was decided only %d times, which proves little", x, reasons[x])
		}
	}
}

func TestDoorsOfOthers(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	id := bare(s, s.Lecture, true, nil)
	lightRow(s, id, s.Course, nil)
	s.Must(s.Audience.SetRule(ctx, s.Course, s.Lecturer, &viewing.Rule{Audience: viewing.Everyone, From: viewing.FromDate, FromAt: testhouse.Now.Add(-time.Hour), Until: viewing.UntilEver}))
	for who, want := range map[uuid.UUID]viewing.Reason{
		s.Student: viewing.ByRule, s.Outsider: viewing.NotEnrolled, s.Colleague: viewing.NotEnrolled, s.Lecturer: viewing.AsStaff, s.Coordinator: viewing.AsStaff,
	} {
		if door, err := s.Audience.Decide(ctx, who, id); err != nil || door.Reason != want {
			t.Errorf("%v: %s, want %s (%v)", who, door.Reason, want, err)
		}
	}
	// Someone taken off the roster is out at once.
	s.Do(`delete from membership where person_id = $1`, s.Student)
	if door, err := s.Audience.Decide(ctx, s.Student, id); err != nil || door.Watch {
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
	id := bare(s, s.Lecture, true, nil)
	everyone := viewing.Rule{Audience: viewing.Everyone, From: viewing.FromDate, FromAt: testhouse.Now.Add(-time.Hour), Until: viewing.UntilEver}
	onlyA := everyone
	onlyA.Audience, onlyA.Groups = viewing.Groups, []string{"A"}
	onlyB := everyone
	onlyB.Audience, onlyB.Groups = viewing.Groups, []string{"B"}
	look := func(r viewing.Rule) audience.Change {
		t.Helper()
		c, err := s.Audience.Preview(ctx, s.Course, r)
		s.Must(err)
		return c
	}
	if c := look(onlyA); c.Recordings != 0 || c.Can != 0 || c.Of != 3 || c.Covered != 2 || len(c.Gain) != 0 {
		t.Errorf("nothing lit: %+v", c)
	}
	lightRow(s, id, s.Course, nil)
	if c := look(everyone); c.Can != 3 || len(c.Gain) != 3 || len(c.Lose) != 0 || c.Recordings != 1 {
		t.Errorf("the first rule: %+v", c)
	}
	s.Must(s.Audience.SetRule(ctx, s.Course, s.Lecturer, &onlyA))
	if c := look(onlyB); c.Can != 1 || len(c.Gain) != 1 || c.Gain[0].Name != "third" || len(c.Lose) != 2 || c.Lose[0].Name != "second" {
		t.Errorf("from one group to another: %+v", c)
	}
	if c := look(onlyA); len(c.Gain) != 0 || len(c.Lose) != 0 || c.Can != 2 {
		t.Errorf("the rule as it is: %+v", c)
	}
	// A rule that gives or takes copies changes nobody who can watch, and says whom it concerns.
	copies := onlyA
	copies.Download = true
	if c := look(copies); len(c.Gain)+len(c.Lose)+len(c.TakeLess) != 0 || len(c.TakeMore) != 2 {
		t.Errorf("copies for those who can watch: %+v", c)
	}
	s.Must(s.Audience.SetRule(ctx, s.Course, s.Lecturer, &copies))
	if c := look(onlyA); len(c.Gain)+len(c.Lose)+len(c.TakeMore) != 0 || len(c.TakeLess) != 2 || c.TakeLess[0].Name != "second" {
		t.Errorf("no copies any more: %+v", c)
	}
	if c := look(onlyB); len(c.TakeLess) != 0 || len(c.Lose) != 2 {
		t.Errorf("who can no longer watch: %+v", c)
	}
	s.Must(s.Audience.SetRule(ctx, s.Course, s.Lecturer, &onlyA))
	// A preview changes nothing.
	if r, err := s.Audience.Rule(ctx, s.Course); err != nil || r == nil || r.Groups[0] != "A" {
		t.Errorf("the rule is now %+v (%v)", r, err)
	}
	turned := everyone
	turned.Until, turned.UntilAt = viewing.UntilDate, everyone.FromAt.Add(-time.Hour)
	if _, err := s.Audience.Preview(ctx, s.Course, turned); !errors.Is(err, audience.ErrInvalid) {
		t.Errorf("an end before the start: %v", err)
	}
	if err := s.Audience.SetRule(ctx, s.Course, s.Lecturer, &turned); !errors.Is(err, audience.ErrInvalid) {
		t.Errorf("an end before the start is kept: %v", err)
	}
}

// TestEarlierRulesAreKept with who made them.
func TestEarlierRulesAreKept(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	rule := &viewing.Rule{Audience: viewing.Everyone, From: viewing.FromLecture, Until: viewing.UntilTerm, DaysAfterTerm: 3}
	s.Must(s.Audience.SetRule(ctx, s.Course, s.Lecturer, rule))
	rule.DaysAfterTerm = 5
	s.Must(s.Audience.SetRule(ctx, s.Course, s.Coordinator, rule), s.Audience.SetRule(ctx, s.Course, s.Coordinator, nil))
	if n := s.Count(`select count(*) from viewing_rule where course_id = $1 and ended_at is not null and made_by is not null`, s.Course); n != 2 {
		t.Errorf("%d rules are kept", n)
	}
	if r, err := s.Audience.Rule(ctx, s.Course); err != nil || r != nil {
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
	s.Must(s.Audience.SetRule(ctx, s.Course, s.Lecturer, &viewing.Rule{Audience: viewing.Groups, Groups: []string{"A"}, From: viewing.FromDate, FromAt: testhouse.Now.Add(-time.Hour), Until: viewing.UntilEver}))
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
	s.Must(s.Audience.SetRule(ctx, s.Course, s.Lecturer, &viewing.Rule{Audience: viewing.Everyone, From: viewing.FromDate, FromAt: testhouse.Now.Add(-time.Hour), Until: viewing.UntilEver}))
	if light() != viewing.Lit {
		t.Error("it is not lit for everyone")
	}
	s.Must(s.Publish.Darken(ctx, s.Course, id, s.Lecturer))
	if light() != viewing.Dark {
		t.Error("it is not dark after it was taken back")
	}
}
