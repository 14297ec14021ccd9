package release_test

import (
	"context"
	"errors"
	"path/filepath"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/audience"
	"latelantern/internal/capture"
	"latelantern/internal/core/span"
	"latelantern/internal/core/viewing"
	"latelantern/internal/cuts"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/playlists"
	"latelantern/internal/recordings"
	"latelantern/internal/release"
	"latelantern/internal/testdb"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// begun is a recording of a lecture of which nothing has arrived.
func begun(s *testhouse.Stage, lecture uuid.UUID) uuid.UUID {
	s.T.Helper()
	b, err := s.Capture.Begin(context.Background(),
		capture.Start{Lecture: lecture, By: s.Lecturer, Source: capture.File})
	s.Must(err)
	return b.Recording
}

var cut = span.Span{End: time.Second}

func list(s *testhouse.Stage) []playlists.Entry {
	s.T.Helper()
	entries, err := s.Playlists.Entries(context.Background(), playlists.Of{Course: s.Course})
	s.Must(err)
	return entries
}

func TestLightAndDarken(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	path := filepath.Join(t.TempDir(), "a.mp4")
	s.Must(testfilm.Film{Length: 3 * time.Second, Width: 320, Height: 180}.Make(ctx, path))
	id, _ := s.File(s.Lecture, path)
	s.Settled(id)
	s.Lit(id)
	s.Lit(id) // once more changes nothing
	if n := s.Count(`select count(*) from lighting where recording_id = $1`, id); n != 1 {
		t.Errorf("it is lit %d times", n)
	}
	if n := s.Count(`select count(*) from edition where recording_id = $1`, id); n != 1 {
		t.Errorf("%d editions of the same cuts were made", n)
	}
	if entries := list(s); !entries[0].Lit || entries[0].LengthMs != 3000 {
		t.Errorf("the playlist is %+v", entries)
	}
	s.Must(s.Releases.Darken(ctx, s.Course, id, s.Coordinator))
	if entries := list(s); entries[0].Lit {
		t.Errorf("taken back, the playlist is %+v", entries)
	}
	if n := s.Count(`select count(*) from lighting where recording_id = $1 and darkened_by = $2 and lit_by = $3`, id,
		s.Coordinator, s.Lecturer); n != 1 {
		t.Error("who lit it and who took it back is not kept")
	}
	s.Lit(id)
	if n := s.Count(`select count(*) from lighting where recording_id = $1`, id); n != 2 {
		t.Errorf("%d lightings are kept", n)
	}
	if err := s.Releases.Light(ctx, s.Course, begun(s, s.Later), s.Lecturer); !errors.Is(err, recordings.ErrNotReady) {
		t.Errorf("a recording of which nothing has come: %v", err)
	}
	if entries := list(s); len(entries) != 1 {
		t.Errorf("what could not be lit stands in the playlist: %+v", entries)
	}
	// Published cuts are those of the moment it was lit, until it is lit again.
	s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, cut))
	r, err := s.Recordings.Recording(ctx, id)
	s.Must(err)
	if r.Current() {
		t.Error("a new trim counts as published before it is")
	}
	if entries := list(s); entries[0].LengthMs != 3000 {
		t.Errorf("students see %d ms", entries[0].LengthMs)
	}
	s.Lit(id)
	if entries := list(s); entries[0].LengthMs != 2000 {
		t.Errorf("published again, students see %d ms", entries[0].LengthMs)
	}
	// Back to the cuts before: what was published then may be removed by now, and is made anew.
	s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Undo, cut))
	s.Lit(id)
	if entries := list(s); entries[0].LengthMs != 3000 {
		t.Errorf("after undo and lighting students see %d ms", entries[0].LengthMs)
	}
}

// TestARecordingOfTwoCourses is lit for each by itself: who is enrolled in either watches it as long as it is lit
// there, those who teach the other course see it only then, and it stands in the playlist of both.
func TestARecordingOfTwoCourses(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	path := filepath.Join(t.TempDir(), "a.mp4")
	s.Must(testfilm.Film{Length: 3 * time.Second, Width: 320, Height: 180}.Make(ctx, path))
	id, _ := s.File(s.Lecture, path)
	s.Settled(id)
	away := s.Person("away", s.Other, "student", "")
	for _, course := range []uuid.UUID{s.Course, s.Other} {
		rule := &viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead,
			Window: viewing.Window{From: viewing.FromDate, FromAt: testhouse.Now.Add(-time.Hour),
				Until: viewing.UntilEver}}
		s.Must(s.Audience.SetRule(ctx, audience.Scope{Course: course}, s.Lecturer, rule))
	}
	want := func(when string, of map[uuid.UUID]viewing.Reason) {
		t.Helper()
		for person, reason := range of {
			door, err := s.Audience.Decide(ctx, person, id)
			if s.Must(err); door.Reason != reason {
				t.Errorf("%s: %v is at a door that is %s, want %s", when, person, door.Reason, reason)
			}
		}
	}
	want("before", map[uuid.UUID]viewing.Reason{s.Student: viewing.NotLit, away: viewing.NotEnrolled,
		s.Colleague: viewing.NotEnrolled, s.Lecturer: viewing.AsStaff})
	s.Lit(id)
	want("lit for its own",
		map[uuid.UUID]viewing.Reason{s.Student: viewing.ByRule, away: viewing.NotEnrolled,
			s.Colleague: viewing.NotEnrolled})
	s.Must(s.Releases.Light(ctx, s.Other, id, s.Colleague))
	want("lit for both",
		map[uuid.UUID]viewing.Reason{s.Student: viewing.ByRule, away: viewing.ByRule, s.Colleague: viewing.AsStaff})
	other := playlists.Of{Course: s.Other}
	if entries, err := s.Playlists.Entries(ctx, other); err != nil || len(entries) != 1 || !entries[0].Lit {
		t.Errorf("the playlist of the other course is %+v (%v)", entries, err)
	}
	if n := s.Count(`select count(*) from edition where recording_id = $1`, id); n != 1 {
		t.Errorf("%d editions of the same cuts were made", n)
	}
	s.Must(s.Releases.Darken(ctx, s.Course, id, s.Lecturer))
	want("taken back from its own", map[uuid.UUID]viewing.Reason{s.Student: viewing.NotLit, away: viewing.ByRule})
	if counts, err := s.Audience.Counts(ctx, s.Other); err != nil || counts[id] != (viewing.Count{Can: 2, Of: 2}) {
		t.Errorf("in the other course can watch %+v (%v)", counts[id], err)
	}
	s.Must(s.Releases.Darken(ctx, s.Other, id, s.Colleague))
	want("taken back", map[uuid.UUID]viewing.Reason{away: viewing.NotLit, s.Colleague: viewing.NotLit})
	for course, was := range map[uuid.UUID]bool{s.Course: true, s.Other: true, uuid.New(): false} {
		if got, err := s.Releases.WasLit(ctx, course, id); err != nil || got != was {
			t.Errorf("it was lit: %v, want %v (%v)", got, was, err)
		}
	}
	for name, err := range map[string]error{
		"a recording that is not there": s.Releases.Light(ctx, s.Course, uuid.New(), s.Lecturer),
		"a course that is not there":    s.Releases.Light(ctx, uuid.New(), id, s.Lecturer),
	} {
		if !errors.Is(err, release.ErrUnknown) {
			t.Errorf("%s: %v", name, err)
		}
	}
	s.Must(s.Library.SetDeleted(ctx, id, s.Lecturer, true))
	if err := s.Releases.Light(ctx, s.Course, id, s.Lecturer); !errors.Is(err, release.ErrUnknown) {
		t.Errorf("a recording in the bin: %v", err)
	}
}

// TestARecordingGoesWithItsLecture to another course: it belongs to that one alone, unless it gave light before.
func TestARecordingGoesWithItsLecture(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	courses := func(id uuid.UUID) string {
		t.Helper()
		const query = `select string_agg(k.code || case when e.own then '!' else '' end, ' ' order by k.code)
			from release e join course k on k.id = e.course_id where e.recording_id = $1`
		got, err := postgres.Value[string](ctx, s.DB, query, id)
		s.Must(err)
		return got
	}
	move := func(id, lecture uuid.UUID) {
		t.Helper()
		s.Must(postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error { return s.Library.Move(ctx, tx, id, lecture) }))
	}
	id := begun(s, s.Lecture)
	before := courses(id)
	move(id, s.Later)
	if got := courses(id); got != before {
		t.Errorf("at another lecture of its course it is one of %s, and was of %s", got, before)
	}
	move(id, s.Elsewhere)
	after := courses(id)
	if after == before || after[len(after)-1] != '!' {
		t.Errorf("at a lecture of another course it is one of %s", after)
	}
	s.Do(`insert into lighting (id, recording_id, course_id, lit_at, darkened_at) values ($1, $2, $3, now(), now())`,
		uuid.New(), id, s.Other)
	move(id, s.Lecture)
	if got := courses(id); len(got) <= len(before) {
		t.Errorf("it gave light to a course, and is one of %s alone", got)
	}
	move(id, s.Elsewhere)
	if got := courses(id); got != after {
		t.Errorf("back again it is one of %s, want %s", got, after)
	}
}
