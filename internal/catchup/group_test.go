package catchup_test

import (
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/catchup"
	core "latelantern/internal/core/catchup"
	"latelantern/internal/core/cutlist"
	"latelantern/internal/testhouse"
)

// TestHowAClassStands with a recording: who was there, and who of the others has caught up.
func TestHowAClassStands(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	id, other := hour(s), s.Bare(s.Later, false, &testhouse.Now)
	there, knows, never := s.Person("there", s.Course, "student", ""), s.Person("knows", s.Course, "student", ""),
		s.Person("never", s.Course, "student", "")
	at := func(minutes int) time.Time { return testhouse.Now.Add(time.Duration(minutes) * time.Minute) }
	for who, until := range map[uuid.UUID]int{there: 60, s.Second: 30} {
		s.Do(`insert into presence (lecture_id, person_id, from_at, until_at) values ($1, $2, $3, $4)`,
			s.Lecture, who, at(0), at(until))
	}
	say := func(who uuid.UUID, seconds ...float64) {
		t.Helper()
		s.Must(s.CatchUp.Keep(ctx, who, id, catchup.Word{Played: set(seconds...)}))
	}
	say(s.Second, 1790, 3600)
	say(s.Student, 0, 600)
	s.Must(s.CatchUp.SetKnown(ctx, knows, id, true))
	people := []uuid.UUID{there, s.Second, s.Student, knows, never}
	all, err := s.CatchUp.Groups(ctx, map[uuid.UUID]cutlist.Carrier{id: cutlist.CarrierOf(set(0, 3600)),
		other: cutlist.CarrierOf(set(0, 1)), uuid.New(): nil}, map[uuid.UUID][]uuid.UUID{id: people})
	s.Must(err)
	if want := (core.Group{Students: 5, There: 1, CaughtUp: 2, Begun: 1}); all[id].Group != want {
		t.Errorf("%+v, want %+v", all[id].Group, want)
	}
	if all[other].Students != 0 || len(all) != 2 {
		t.Errorf("of nobody: %+v of %d", all[other], len(all))
	}
	if got := all[id].Curve(20*time.Minute, time.Hour); !slices.Equal(got, []int{0, 0, 0}) {
		t.Errorf("what two watched is told: %v", got)
	}
	say(knows, 0, 3600)
	say(never, 0, 1200)
	all, err = s.CatchUp.Groups(ctx, map[uuid.UUID]cutlist.Carrier{id: cutlist.CarrierOf(set(0, 3600))},
		map[uuid.UUID][]uuid.UUID{id: people})
	s.Must(err)
	if got := all[id].Curve(20*time.Minute, time.Hour); !slices.Equal(got, []int{3, 0, 0}) {
		t.Errorf("what three watched: %v", got)
	}
}

// TestWatchedAgain is counted by minutes, for whoever had watched it before, on the clock of the capture.
func TestWatchedAgain(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	id := hour(s)
	again := func(end time.Duration) []float64 {
		t.Helper()
		got, err := s.CatchUp.Again(ctx, id, time.Minute, end)
		s.Must(err)
		for i := range got {
			got[i] = float64(int(got[i]*100+0.5)) / 100
		}
		return got
	}
	say := func(who uuid.UUID, seconds ...float64) {
		t.Helper()
		s.Must(s.CatchUp.Keep(ctx, who, id, catchup.Word{Played: set(seconds...)}))
	}
	for from := 0.0; from < 240; from += 10 {
		say(s.Student, from, from+10.2)
		say(s.Second, from, from+10.2)
	}
	if got := again(4 * time.Minute); !slices.Equal(got, []float64{0, 0, 0, 0}) {
		t.Errorf("watched once: %v", got)
	}
	for range 2 {
		say(s.Student, 60, 120, 150, 180)
	}
	say(s.Second, 90, 180)
	say(s.Third, 60, 180) // for the first time
	if got := again(4 * time.Minute); !slices.Equal(got, []float64{0, 2.5, 2, 0}) {
		t.Errorf("watched again: %v", got)
	}
	// On a clock that begins half a minute earlier.
	s.Do(`update recording_capture set start_ms = 30000 where recording_id = $1`, id)
	if got := again(5 * time.Minute); !slices.Equal(got, []float64{0, 1, 2, 1.5, 0}) {
		t.Errorf("on another clock: %v", got)
	}
	fine, err := s.CatchUp.Again(ctx, id, 10*time.Second, 4*time.Minute)
	s.Must(err)
	if !slices.Equal(fine[8:17], []float64{0, 2, 2, 2, 3, 3, 3, 1, 1}) {
		t.Errorf("by ten seconds: %v", fine)
	}
	if got := again(0); len(got) != 0 {
		t.Errorf("of nothing: %v", got)
	}
}
