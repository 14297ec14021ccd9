package audience_test

import (
	"errors"
	"math/rand"
	"slices"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/clock"
	"latelantern/internal/testhouse"
)

// TestWhatAPreviewOfARuleSaysComes, of a course and of one recording in it, over rules and clocks taken at random.
func TestWhatAPreviewOfARuleSaysComes(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	d := dice{rand.New(rand.NewSource(5))}
	ids := []uuid.UUID{bare(s, s.Lecture, true, nil), bare(s, s.AddLecture(s.Course, d.moment(), "x"), true, nil)}
	for _, id := range ids {
		lightRow(s, id, s.Course, nil)
	}
	if _, err := s.Audience.Preview(ctx, audience.Scope{Course: s.Other, Recording: ids[0]},
		viewing.Rule{Audience: viewing.Everyone, From: viewing.FromLecture, Until: viewing.UntilEver}); !errors.Is(err,
		audience.ErrUnknown) {
		t.Errorf("of a course that does not have it: %v", err)
	}
	gained, lost, single := 0, 0, 0
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
		s.Must(err)
		before := can()
		s.Must(then.SetRule(ctx, of, s.Lecturer, rule))
		after := can()
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
	if gained < 20 || lost < 20 || single < 10 {
		t.Errorf("%d gained, %d lost, %d changes by rules of single recordings prove little", gained, lost, single)
	}
}
