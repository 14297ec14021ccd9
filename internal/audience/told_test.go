package audience_test

import (
	"errors"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/clock"
	"latelantern/internal/testhouse"
)

// TestClosedDoorsAreTold once for each student, with what most of them lack, until they can come in; only of what those
// who teach may have overlooked.
func TestClosedDoorsAreTold(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	id := s.Bare(s.AddLecture(s.Course, testhouse.Now.Add(-5*time.Hour), "x"), true, nil)
	tell := func(who uuid.UUID) error {
		_, err := s.Audience.Tell(ctx, who, id)
		return err
	}
	doors := func(want int, why viewing.Reason) {
		t.Helper()
		got, err := s.Audience.Doors(ctx, []uuid.UUID{s.Course, s.Other})
		s.Must(err)
		if want == 0 && len(got) == 0 {
			return
		}
		if len(got) != 1 || got[0].Students != want || got[0].Reason != why || got[0].Course != s.Course ||
			got[0].Recording != id {
			t.Errorf("the doors are %+v, want %d, %s", got, want, why)
		}
	}
	set := func(change func(r *viewing.Rule)) {
		r := viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead,
			Window: viewing.Window{From: viewing.FromOnce, Until: viewing.UntilEver}}
		change(&r)
		s.Must(s.Audience.SetRule(ctx, audience.Scope{Course: s.Course}, s.Lecturer, &r))
	}
	doors(0, "")
	s.Must(tell(s.Student), tell(s.Student), tell(s.Third))
	doors(2, viewing.NotLit)
	s.LightRow(id, s.Course, nil)
	doors(2, viewing.NoRule)
	set(func(r *viewing.Rule) { r.Audience, r.Groups = viewing.Groups, []string{"A"} })
	doors(1, viewing.OtherGroup) // of the other group
	if err := tell(s.Student); !errors.Is(err, audience.ErrOpen) {
		t.Errorf("of an open door: %v", err)
	}
	if err := tell(s.Outsider); !errors.Is(err, audience.ErrUnknown) {
		t.Errorf("from another course: %v", err)
	}
	set(func(r *viewing.Rule) { r.From, r.FromAt = viewing.FromDate, testhouse.Now.Add(time.Hour) })
	doors(0, "")
	if err := tell(s.Student); !errors.Is(err, audience.ErrMeant) {
		t.Errorf("of what opens by itself: %v", err)
	}
	set(func(r *viewing.Rule) { r.Until, r.UntilAt = viewing.UntilDate, testhouse.Now.Add(-time.Hour) })
	doors(2, viewing.NoLonger)
	later := &audience.Service{DB: s.DB, Clock: clock.Standing(testhouse.Now.AddDate(0, 0, 31))}
	if got, err := later.Doors(ctx, []uuid.UUID{s.Course}); err != nil || len(got) != 0 {
		t.Errorf("a month later there are %+v (%v)", got, err)
	}
	if got, err := s.Audience.Doors(ctx, []uuid.UUID{s.Other}); err != nil || len(got) != 0 {
		t.Errorf("in another course there are %+v (%v)", got, err)
	}
}
