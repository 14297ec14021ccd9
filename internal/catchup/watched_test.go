package catchup_test

import (
	"context"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/catchup"
	core "latelantern/internal/core/catchup"
	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/clock"
	"latelantern/internal/testdb"
	"latelantern/internal/testhouse"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func set(seconds ...float64) span.Set {
	var out []span.Span
	for i := 0; i < len(seconds); i += 2 {
		out = append(out, span.Span{Start: time.Duration(seconds[i] * float64(time.Second)),
			End: time.Duration(seconds[i+1] * float64(time.Second))})
	}
	return span.Of(out...)
}

// hour is a recording of an hour that a hall captured from testhouse.Now on.
func hour(s *testhouse.Stage) uuid.UUID {
	id := s.Bare(s.Lecture, false, &testhouse.Now)
	s.Do(`update capture set source = 'hall' where id in (select capture_id from recording_capture
		where recording_id = $1)`, id)
	s.Do(`update track set packed_ms = 3600000 where capture_id in (select capture_id from recording_capture
		where recording_id = $1)`, id)
	return id
}

// account is what a student has of a recording that is published as kept says.
func account(s *testhouse.Stage, recording uuid.UUID, kept span.Set) catchup.Of {
	s.T.Helper()
	all, err := s.CatchUp.Accounts(context.Background(), s.Student,
		map[uuid.UUID]cutlist.Carrier{recording: cutlist.CarrierOf(kept)})
	s.Must(err)
	return all[recording]
}

func wants(t *testing.T, what string, got, want span.Set) {
	t.Helper()
	if !got.Equal(want) {
		t.Errorf("%s: %v, want %v", what, got.Spans(), want.Spans())
	}
}

// TestWordsAreMerged as they come, from whatever device, however often each is told.
func TestWordsAreMerged(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	id := hour(s)
	say := func(played span.Set) {
		t.Helper()
		s.Must(s.CatchUp.Keep(ctx, s.Student, id, catchup.Word{At: played.End(), Played: played}))
	}
	wants(t, "nothing was said yet", account(s, id, set(0, 3600)).Missed, set(0, 3600))
	say(set(0, 10.1))
	say(set(10.1, 20.2)) // where one word ends the next begins
	say(set(1800, 2400))
	say(set(10.1, 20.2))
	say(set(7200, 7300)) // there is no such moment
	x := account(s, id, set(0, 3600))
	wants(t, "watched", x.Watched, set(0, 20, 1800, 2400))
	wants(t, "missed", x.Missed, set(20, 1800, 2400, 3600))
	wants(t, "missed after the first half hour was struck", account(s, id, set(1800, 3600)).Missed, set(600, 1800))
	if at, err := s.CatchUp.Position(ctx, s.Student, id); err != nil || at != 7300*time.Second {
		t.Errorf("they stopped at %v: %v", at, err)
	}
	s.Must(s.CatchUp.Keep(ctx, s.Student, id,
		catchup.Word{At: time.Second, Played: set(2400, 2410), Ago: time.Hour})) // from a device that had no line
	if at, err := s.CatchUp.Position(ctx, s.Student, id); err != nil || at != 7300*time.Second {
		t.Errorf("where they were an hour ago counts more than where they are: %v %v", at, err)
	}
	say(set(2400, 2400.2)) // too short to be kept
	if n := s.Count(`select count(*) from watched where ranges = '{[0,20000),[1800000,2410000)}'`); n != 1 {
		t.Error("what was watched is not kept as the fewest ranges that say it")
	}
	others, err := s.CatchUp.Accounts(ctx, s.Second, map[uuid.UUID]cutlist.Carrier{id: cutlist.CarrierOf(set(0, 3600))})
	if s.Must(err); !others[id].Watched.Empty() {
		t.Error("another student watched it as well")
	}
}

// TestWatchedFollowsItsCapture into whatever recording holds it: splitting and joining lose nothing of it.
func TestWatchedFollowsItsCapture(t *testing.T) {
	s := testhouse.New(t, true)
	first, second := hour(s), s.Bare(s.Later, false, &testhouse.Now)
	s.Must(s.CatchUp.Keep(t.Context(), s.Student, first, catchup.Word{Played: set(0, 100, 2000, 2500)}))
	// The second recording holds the capture of the first from half an hour on, on a clock that begins there.
	s.Do(`update recording_capture set until_ms = 1800000 where recording_id = $1`, first)
	s.Do(`update recording_capture set capture_id = (select capture_id from recording_capture where recording_id = $1),
		from_ms = 1800000, start_ms = -1800000 where recording_id = $2`, first, second)
	wants(t, "of the first", account(s, first, set(0, 1800)).Watched, set(0, 100))
	wants(t, "of the second", account(s, second, set(0, 1800)).Watched, set(200, 700))
	s.Must(s.CatchUp.Keep(t.Context(), s.Student, second, catchup.Word{Played: set(0, 200)}))
	s.Do(`update recording_capture set until_ms = null where recording_id = $1`, first)
	wants(t, "of both together", account(s, first, set(0, 3600)).Watched, set(0, 100, 1800, 2500))
}

// TestWhoFollowedLive misses what was before they came, and what was while they were away.
func TestWhoFollowedLive(t *testing.T) {
	s := testhouse.New(t, true)
	id := hour(s)
	at := func(minutes int) time.Time { return testhouse.Now.Add(time.Duration(minutes) * time.Minute) }
	stay := func(from, until int) {
		s.Do(`insert into presence (lecture_id, person_id, from_at, until_at) values ($1, $2, $3, $4)`,
			s.Lecture, s.Student, at(from), at(until))
	}
	stay(20, 40)
	stay(50, 71)
	x := account(s, id, set(0, 3600))
	wants(t, "attended", x.Attended, set(1200, 2415, 3000, 3600))
	wants(t, "missed", x.Missed, set(0, 1200, 2415, 3000))
	// For ten minutes from the half hour on nothing was captured.
	s.Do(`insert into marker (id, capture_id, at_ms, pause_ms, made_at) select $2, capture_id, 1800000, 600000, $3
		from recording_capture where recording_id = $1`, id, uuid.Must(uuid.NewV7()), testhouse.Now)
	wants(t, "with a pause", account(s, id, set(0, 3600)).Missed, set(0, 1200, 1815, 2400))
	s.Do(`update capture set alone = true`)
	wants(t, "of what was captured alone nobody followed anything", account(s, id, set(0, 3600)).Missed, set(0, 3600))
}

// TestWhatOneKnows is not missed until one takes that back.
func TestWhatOneKnows(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	id := hour(s)
	for range 2 {
		s.Must(s.CatchUp.SetKnown(ctx, s.Student, id, true))
	}
	if x := account(s, id, set(0, 3600)); !x.Known || !x.Left().Empty() || x.Missed.Len() != time.Hour {
		t.Errorf("what one knows: %+v", x)
	}
	s.Must(s.CatchUp.SetKnown(ctx, s.Student, id, false))
	if x := account(s, id, set(0, 3600)); x.Known || x.Left().Len() != time.Hour {
		t.Errorf("what one does not know after all: %+v", x)
	}
}

// TestUsualSpeed is that of the last two hours of watching, of words that can be true.
func TestUsualSpeed(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	s.CatchUp.Clock = clock.Standing(testhouse.Now)
	id := hour(s)
	speed := func() float64 {
		t.Helper()
		x, err := s.CatchUp.Speed(ctx, s.Student)
		s.Must(err)
		return x
	}
	say := func(played, took time.Duration) {
		t.Helper()
		s.Must(s.CatchUp.Keep(ctx, s.Student, id,
			catchup.Word{Played: span.Of(span.Span{End: played}), Took: took}))
	}
	if got := speed(); got != 1 {
		t.Errorf("of who never watched: %v", got)
	}
	say(30*time.Minute, 20*time.Minute)
	say(time.Hour, 10*time.Minute) // six times as fast cannot be
	say(time.Minute, time.Hour)    // it stood meanwhile
	if got := speed(); got != 1.5 {
		t.Errorf("of who watches at one and a half: %v", got)
	}
	for range 30 {
		say(20*time.Minute, 10*time.Minute)
	}
	if got := speed(); got < 1.95 || got > 2 {
		t.Errorf("after five hours at twice the speed: %v", got)
	}
	if got := core.Speed(time.Hour, 2*time.Hour); got != 0.5 {
		t.Errorf("half the speed: %v", got)
	}
}
