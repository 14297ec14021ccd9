package audience_test

import (
	"errors"
	"fmt"
	"math/rand"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/clock"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

var atOnce = viewing.Opening{Uses: viewing.WatchRead, Window: viewing.Window{From: viewing.FromOnce,
	Until: viewing.UntilEver}}

// openRow opens a recording without having it published, and gives the opening.
func openRow(s *testhouse.Stage, recording uuid.UUID, kind audience.Kind, o viewing.Opening,
	people ...uuid.UUID) uuid.UUID {
	s.T.Helper()
	id := uuid.Must(uuid.NewV7())
	when := func(t time.Time, holds bool) any {
		if !holds {
			return nil
		}
		return t
	}
	s.Do(`insert into opening (id, recording_id, kind, uses, from_kind, from_at, days_after_lecture, until_kind,
		until_at,
		days_after_term, made_at) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11)`, id, recording, kind,
		o.Uses.Names(), o.From, when(o.FromAt, o.From == viewing.FromDate), o.DaysAfterLecture, o.Until,
		when(o.UntilAt, o.Until == viewing.UntilDate), o.DaysAfterTerm, testhouse.Now)
	for _, p := range people {
		s.Do(`insert into opening_person (opening_id, person_id) values ($1, $2)`, id, p)
	}
	return id
}

// TestOpeningsLetIn whom they are for and nobody else, as the core decides; who is shut out by the course of the
// lecture
// stays out. What one person is told is what all are.
func TestOpeningsLetIn(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	d := dice{rand.New(rand.NewSource(3))}
	id := s.Bare(s.Lecture, true, nil)
	people := []uuid.UUID{s.Student, s.Outsider, s.Colleague}
	term, err := s.Schedule.TermOf(ctx, s.Course)
	s.Must(err)
	y, m, day := term.Plan.Last.Date()
	what := viewing.Release{Own: true, Watchable: true, TermEnd: time.Date(y, m, day+1, 0, 0, 0, 0, term.Zone)}
	s.Must(s.DB.QueryRow(ctx, `select ends_at from lecture where id = $1`, s.Lecture).Scan(&what.LectureEnd))
	reasons := map[viewing.Reason]int{}
	for range 200 {
		s.Do(`delete from opening`)
		s.Do(`delete from shut_out`)
		if d.one(4) {
			shutOut(s, d, s.Student, s.Course, id)
		}
		want := map[uuid.UUID][]viewing.Way{}
		now := d.moment()
		for range 1 + d.Intn(3) {
			o := viewing.Opening{Uses: d.uses(), Window: d.window()}
			if d.one(3) {
				openRow(s, id, audience.ForEveryone, o)
				for _, p := range people {
					want[p] = append(want[p], viewing.Way{Opening: &o, Release: what})
				}
				continue
			}
			p := people[d.Intn(len(people))]
			openRow(s, id, audience.ForPeople, o, p)
			want[p] = append(want[p], viewing.Way{Opening: &o, Release: what})
		}
		then := &audience.Service{DB: s.DB, Clock: clock.Standing(now)}
		released, err := then.Released(ctx, id)
		s.Must(err)
		shut := s.Count(`select count(*) from shut_out where ended_at is null and (until_at is null or $1 < until_at)`, now)
		for _, p := range people {
			ways := want[p]
			if p == s.Student {
				for i := range ways {
					ways[i].ShutUntil = time.Time{}
					if shut > 0 {
						ways[i].ShutUntil = viewing.ForGood
					}
				}
			}
			said, _ := viewing.Decide(ways, now)
			got, err := then.Decide(ctx, p, id)
			s.Must(err)
			if got.Uses != said.Uses || said.Watch() && got.Reason != viewing.ByOpening {
				t.Fatalf("at %v it is %+v, want %+v", now, got.Decision, said)
			}
			door := released.Door(p, false, func(course uuid.UUID) viewing.Viewer {
				if p == s.Student && course == s.Course {
					return viewing.Viewer{Role: viewing.Student, Group: "A"}
				}
				return viewing.Viewer{}
			}, now)
			if door.Decision != got.Decision {
				t.Fatalf("at %v the door is %+v for one and %+v for many", now, got.Decision, door.Decision)
			}
			reasons[got.Reason]++
		}
	}
	if reasons[viewing.ByOpening] < 50 || reasons[viewing.ShutOut] < 5 || reasons[viewing.NotYet] < 20 {
		t.Errorf("%v prove little", reasons)
	}
}

// TestAnOpeningIsMadeChangedAndTakenBack, by those whom it names.
func TestAnOpeningIsMadeChangedAndTakenBack(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t)
	id := filmed(s)
	of := audience.Opens{Recording: id}
	can := func(who uuid.UUID, want bool) {
		t.Helper()
		if d, err := s.Audience.Decide(ctx, who, id); err != nil || d.Watch() != want {
			t.Errorf("it is %+v, want %v (%v)", d.Decision, want, err)
		}
	}
	form := audience.OpeningForm{Kind: audience.ForPeople, People: []uuid.UUID{s.Outsider, s.Student}, Opening: atOnce}
	change, err := s.Audience.PreviewOpening(ctx, of, s.Lecturer, form)
	if s.Must(err); change.Gain != 2 || change.Of != 2 || len(change.Names) != 2 {
		t.Errorf("it would change %+v", change)
	}
	opening, err := s.Audience.Open(ctx, of, s.Lecturer, form)
	s.Must(err)
	s.Until(func() bool { d, err := s.Audience.Decide(ctx, s.Outsider, id); return err == nil && d.Watch() })
	can(s.Student, true)
	can(s.Colleague, false)
	everyone := audience.OpeningForm{Kind: audience.ForEveryone, Opening: atOnce}
	change, err = s.Audience.PreviewOpening(ctx, of, s.Lecturer, everyone)
	if err != nil || change.Gain != change.Of-4 {
		t.Errorf("for everyone it would change %+v (%v)", change, err) // who teaches, who coordinates and those two can
	}
	form.People = []uuid.UUID{s.Colleague}
	s.Must(s.Audience.ChangeOpening(ctx, of, opening, s.Lecturer, form))
	can(s.Outsider, false)
	can(s.Colleague, true)
	s.Must(s.Audience.TakeBack(ctx, of, opening, s.Lecturer, false))
	can(s.Colleague, false)
	if err := s.Audience.TakeBack(ctx, of, opening, s.Lecturer, false); !errors.Is(err, audience.ErrUnknown) {
		t.Errorf("taken back twice: %v", err)
	}
	if err := s.Audience.ChangeOpening(ctx, of, opening, s.Lecturer, form); !errors.Is(err, audience.ErrUnknown) {
		t.Errorf("changed after it was taken back: %v", err)
	}
	s.Must(s.Audience.TakeBack(ctx, of, opening, s.Lecturer, true))
	can(s.Colleague, true)
	list, err := s.Audience.Openings(ctx, of)
	if s.Must(err); len(list) != 1 || len(list[0].People) != 1 || list[0].People[0].Name != "colleague" ||
		list[0].By != "lecturer" {
		t.Errorf("the openings are %+v", list)
	}
}

// filmed is a recording that can be lit.
func filmed(s *testhouse.Stage) uuid.UUID {
	s.T.Helper()
	path := filepath.Join(s.T.TempDir(), "a.mp4")
	s.Must(testfilm.Film{Length: 3 * time.Second, Width: 320, Height: 180}.Make(s.T.Context(), path))
	id, _ := s.File(s.Lecture, path)
	s.Settled(id)
	return id
}

// TestALinkIsForAsManyAsItSays, who come again as often as they like, and for nobody once it is renewed.
func TestALinkIsForAsManyAsItSays(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	id := s.Bare(s.Lecture, true, nil)
	of := audience.Opens{Recording: id}
	opening := openRow(s, id, audience.ForHolders, atOnce)
	s.Do(`update opening set most = 3 where id = $1`, opening)
	key := func() string {
		t.Helper()
		list, err := s.Audience.Openings(ctx, of)
		s.Must(err)
		return list[0].Link[strings.LastIndex(list[0].Link, "/")+1:]
	}
	old := key()
	var all sync.WaitGroup
	var mu sync.Mutex
	var in []uuid.UUID
	for i := range 8 {
		all.Go(func() {
			let, err := s.Audience.Come(ctx, old, audience.Coming{Name: fmt.Sprint("Guest ", i)})
			mu.Lock()
			defer mu.Unlock()
			if err == nil && let.Recording == id {
				in = append(in, let.Person)
			} else if !errors.Is(err, audience.ErrFull) {
				t.Errorf("someone comes: %v", err)
			}
		})
	}
	if all.Wait(); len(in) != 3 {
		t.Fatalf("%d came in", len(in))
	}
	if _, err := s.Audience.Come(ctx, old, audience.Coming{Person: in[0]}); err != nil {
		t.Errorf("someone comes again: %v", err)
	}
	if d, err := s.Audience.Decide(ctx, in[0], id); err != nil || d.Reason != viewing.ByOpening ||
		d.Uses != atOnce.Uses {
		t.Errorf("inside it is %+v (%v)", d, err)
	}
	s.Must(s.Audience.Renew(ctx, of, opening, s.Lecturer))
	if d, err := s.Audience.Decide(ctx, in[0], id); err != nil || d.Watch() {
		t.Errorf("by the old address it is %+v (%v)", d, err)
	}
	for _, bad := range []string{old, "", "x", strings.Repeat("A", 48), key()[1:]} {
		if _, err := s.Audience.Come(ctx, bad, audience.Coming{Name: "Guest"}); !errors.Is(err, audience.ErrLink) {
			t.Errorf("by %q: %v", bad, err)
		}
	}
	if _, err := s.Audience.Come(ctx, key(), audience.Coming{Person: in[0]}); err != nil {
		t.Errorf("by the new address: %v", err)
	}
	if _, err := s.Audience.Come(ctx, key(), audience.Coming{}); len(fault.All(err)) != 1 {
		t.Errorf("someone without a name comes: %v", err)
	}
	// Who has a link is no one with an account here.
	openRow(s, id, audience.ForEveryone, viewing.Opening{Uses: viewing.AllUses, Window: atOnce.Window})
	if d, err := s.Audience.Decide(ctx, in[0], id); err != nil || d.Uses != atOnce.Uses {
		t.Errorf("opened to everyone, a guest may %v (%v)", d.Uses.Names(), err)
	}
	s.Must(s.Audience.TakeBack(ctx, of, opening, s.Lecturer, false))
	if opened, err := s.Audience.Opened(ctx, in[0]); err != nil || len(opened) != 0 {
		t.Errorf("taken back, there is %v open (%v)", opened, err)
	}
}

// TestAPassPhrase is asked for, and not to be guessed at.
func TestAPassPhrase(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	id := s.Bare(s.Lecture, true, nil)
	of := audience.Opens{Recording: id}
	opening := openRow(s, id, audience.ForHolders, atOnce)
	phrase := "a bell at low water"
	s.Must(s.Audience.ChangeOpening(ctx, of, opening, s.Lecturer,
		audience.OpeningForm{Name: "The examiner", Opening: atOnce,
			Phrase: &phrase}))
	list, err := s.Audience.Openings(ctx, of)
	s.Must(err)
	key := list[0].Link[strings.LastIndex(list[0].Link, "/")+1:]
	if asks, err := s.Audience.Asks(ctx, key); err != nil || !asks || !list[0].Phrase {
		t.Errorf("it asks for a phrase: %v (%v)", asks, err)
	}
	come := func(phrase string) error {
		_, err := s.Audience.Come(ctx, key, audience.Coming{Name: "Guest", Phrase: phrase})
		return err
	}
	is := func(phrase, want string) {
		t.Helper()
		var f fault.Faults
		if err := come(phrase); !errors.As(err, &f) || f[0].Field != "phrase" || string(f[0].Text.Code) != want {
			t.Errorf("with %q: %v, want %s", phrase, err, want)
		}
	}
	is("", "link.phrase")
	for range 5 {
		is("a bell at high water", "link.wrong")
	}
	if err := come(phrase); !errors.Is(err, audience.ErrWait) {
		t.Errorf("tried too often: %v", err)
	}
	s.Do(`update opening set failed_at = now() - interval '2 seconds'`)
	s.Must(come(phrase))
	if n := s.Count(`select failed from opening`); n != 0 {
		t.Errorf("%d in vain after one that was right", n)
	}
	none := ""
	s.Must(s.Audience.ChangeOpening(ctx, of, opening, s.Lecturer,
		audience.OpeningForm{Name: "The examiner", Opening: atOnce}))
	is("", "link.phrase") // it stays
	s.Must(s.Audience.ChangeOpening(ctx, of, opening, s.Lecturer,
		audience.OpeningForm{Name: "The examiner", Opening: atOnce,
			Phrase: &none}), come(""))
}

// TestOpeningsThatCannotBe are said to be so, each where it is wrong.
func TestOpeningsThatCannotBe(t *testing.T) {
	s := testhouse.New(t, true)
	of := audience.Opens{Recording: s.Bare(s.Lecture, true, nil)}
	short, nought := "x", 0
	past := viewing.Window{From: viewing.FromOnce, Until: viewing.UntilDate, UntilAt: testhouse.Now}
	turned := viewing.Window{From: viewing.FromDate, FromAt: testhouse.Now.AddDate(3, 0, 0), Until: viewing.UntilTerm}
	for code, f := range map[string]audience.OpeningForm{
		"opening.kind":   {Opening: atOnce},
		"opening.name":   {Kind: audience.ForHolders, Name: " ", Opening: atOnce},
		"opening.phrase": {Kind: audience.ForHolders, Name: "a", Opening: atOnce, Phrase: &short},
		"opening.most":   {Kind: audience.ForHolders, Name: "a", Opening: atOnce, Most: &nought},
		"opening.people": {Kind: audience.ForPeople, Opening: atOnce},
		"rule.watch":     {Kind: audience.ForEveryone, Opening: viewing.Opening{Window: atOnce.Window}},
		"rule.past":      {Kind: audience.ForEveryone, Opening: viewing.Opening{Uses: viewing.WatchRead, Window: past}},
		"rule.never": {Kind: audience.ForEveryone, Opening: viewing.Opening{Uses: viewing.WatchRead,
			Window: turned}},
	} {
		_, err := s.Audience.Open(t.Context(), of, s.Lecturer, f)
		if !slices.ContainsFunc(fault.All(err), func(t fault.Text) bool { return string(t.Code) == code }) {
			t.Errorf("%s: %v says %v", code, err, fault.All(err))
		}
	}
	if n := s.Count(`select count(*) from opening`); n != 0 {
		t.Errorf("%d are kept", n)
	}
	_, err := s.Audience.Open(t.Context(), audience.Opens{Recording: uuid.New()}, s.Lecturer,
		audience.OpeningForm{Kind: audience.ForEveryone, Opening: atOnce})
	if !errors.Is(err, audience.ErrUnknown) {
		t.Errorf("of no recording: %v", err)
	}
}
