package cuts_test

import (
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
	"latelantern/internal/recordings"
	"latelantern/internal/testdb"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

func TestMain(m *testing.M) { testdb.Main(m) }

const ms = time.Millisecond

func cut(from, to time.Duration) span.Span { return span.Span{Start: from, End: to} }

func TestCutsHaveVersions(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	path := filepath.Join(t.TempDir(), "a.mp4")
	s.Must(testfilm.Film{Length: 6 * time.Second, Width: 320, Height: 180}.Make(ctx, path))
	id, _ := s.File(s.Lecture, path)
	if err := s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, cut(0, time.Second)); err != nil &&
		!errors.Is(err, recordings.ErrNotReady) {
		t.Fatal(err)
	}
	s.Settled(id)
	state := func() (string, bool, bool) {
		r, err := s.Recordings.Recording(ctx, id)
		s.Must(err)
		return fmt.Sprint(r.Struck.Spans()), r.Undo, r.Redo
	}
	none, _, _ := state()
	s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, cut(0, time.Second)))
	one, undo, redo := state()
	if !undo || redo {
		t.Errorf("after one cut: undo %v, redo %v", undo, redo)
	}
	s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, cut(3*time.Second, 4*time.Second)))
	two, _, _ := state()
	s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Undo, span.Span{}))
	if now, _, redo := state(); now != one || !redo {
		t.Errorf("undone: %s, redo %v", now, redo)
	}
	s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Redo, span.Span{}))
	if now, _, _ := state(); now != two {
		t.Errorf("redone: %s", now)
	}
	s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Restore, cut(3*time.Second, 4*time.Second)))
	if now, _, _ := state(); now != one {
		t.Errorf("restored: %s, not %s", now, one)
	}
	for range 3 {
		s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Undo, span.Span{}))
	}
	if now, undo, _ := state(); now != none || undo {
		t.Errorf("all undone: %s, undo %v", now, undo)
	}
	if err := s.Cuts.Change(ctx, id, s.Lecturer, cuts.Undo, span.Span{}); !errors.Is(err, cuts.ErrNoChange) {
		t.Errorf("nothing is left to undo: %v", err)
	}
	if n := s.Count(`select count(*) from cut_list where recording_id = $1`, id); n != 3 {
		t.Errorf("%d versions are kept", n)
	}
	for _, c := range []struct {
		name string
		at   span.Span
		want error
	}{
		{"an end before its start", cut(3*time.Second, 2*time.Second), cutlist.ErrTurned},
		{"outside", cut(60*time.Second, 70*time.Second), cutlist.ErrOutside},
		{"too short", cut(time.Second, time.Second+50*ms), cutlist.ErrTooShort},
		{"all of it", cut(0, time.Hour), cutlist.ErrNothingLeft},
	} {
		if err := s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, c.at); !errors.Is(err, c.want) {
			t.Errorf("%s: %v", c.name, err)
		}
	}
	if now, _, _ := state(); now != none {
		t.Errorf("a refused cut changed something: %s", now)
	}
}

// TestVersionsAreComparedAndBroughtBack: who made them and when, what they strike more and less.
func TestVersionsAreComparedAndBroughtBack(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	path := filepath.Join(t.TempDir(), "a.mp4")
	s.Must(testfilm.Film{Length: 20 * time.Second, NoView: true}.Make(ctx, path))
	id, _ := s.File(s.Lecture, path)
	s.Settled(id)
	s.Must(
		s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, cut(0, 3*time.Second)),
		s.Cuts.Change(ctx, id, s.Coordinator, cuts.Strike, cut(10*time.Second, 14*time.Second)),
		s.Cuts.Change(ctx, id, s.Lecturer, cuts.Restore, cut(1*time.Second, 3*time.Second)),
	)
	list, err := s.Cuts.Versions(ctx, id)
	s.Must(err)
	if len(list) != 4 || !list[0].Current || list[1].By != "coordinator" || list[2].By != "lecturer" ||
		list[3].ID != uuid.Nil {
		t.Fatalf("%+v", list)
	}
	if v := list[2]; v.More != 2*time.Second || v.Less != 4*time.Second || (v.Published-17*time.Second).Abs() > 100*ms {
		t.Errorf("the first version, beside the last: %+v", v)
	}
	s.Must(s.Cuts.BringBack(ctx, id, s.Lecturer, nil, list[2].ID))
	r, err := s.Recordings.Recording(ctx, id)
	s.Must(err)
	if got := r.Struck.Spans(); len(got) != 1 || got[0] != cut(0, 3*time.Second) {
		t.Errorf("brought back, %v is struck", got)
	}
	again, err := s.Cuts.Versions(ctx, id)
	s.Must(err)
	if len(again) != 5 || again[0].AsOf == nil || !again[0].AsOf.Equal(list[2].MadeAt) {
		t.Errorf("%+v", again[0])
	}
	s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Undo, span.Span{}))
	if r, err = s.Recordings.Recording(ctx, id); err != nil || len(r.Struck.Spans()) != 2 {
		t.Errorf("undone, %v is struck (%v)", r.Struck.Spans(), err)
	}
	s.Must(s.Cuts.BringBack(ctx, id, s.Lecturer, nil, uuid.Nil))
	if r, err = s.Recordings.Recording(ctx, id); err != nil || !r.Struck.Empty() || !r.Undo {
		t.Errorf("as captured, %v is struck (%v)", r.Struck.Spans(), err)
	}
	if err := s.Cuts.BringBack(ctx, id, s.Lecturer, nil, uuid.New()); !errors.Is(err, cuts.ErrNoVersion) {
		t.Errorf("a version that is not: %v", err)
	}
	var other cuts.Other
	if err := s.Cuts.BringBack(ctx, id, s.Coordinator, &list[0].ID, uuid.Nil); !errors.As(err, &other) ||
		other.By != "lecturer" {
		t.Errorf("from an old version: %v", err)
	}
}

// TestEndsAreTrimmedByThemselves where the course says so, once, and undone with one step.
func TestEndsAreTrimmedByThemselves(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	s.Must(s.Cuts.SetTrimsEnds(ctx, s.Course, true))
	id := s.Talk()
	s.Measured(id)
	r, err := s.Recordings.Recording(ctx, id)
	s.Must(err)
	struck := r.Struck.Spans()
	if len(struck) != 2 || struck[0].Start != 0 || (struck[0].End-6300*ms).Abs() > 400*ms ||
		(struck[1].Start-35700*ms).Abs() > 400*ms || !r.ByItself {
		t.Fatalf("%v is struck, by itself %v", struck, r.ByItself)
	}
	list, err := s.Cuts.Versions(ctx, id)
	if err != nil || len(list) != 2 || list[0].By != "" {
		t.Errorf("%+v %v", list, err)
	}
	s.Must(s.Cuts.Change(ctx, id, s.Lecturer, cuts.Undo, span.Span{}))
	if r, err = s.Recordings.Recording(ctx, id); err != nil || !r.Struck.Empty() || r.ByItself {
		t.Errorf("undone, %v is struck (%v)", r.Struck.Spans(), err)
	}
	// Measured again, it is not trimmed again.
	s.Do(`delete from strip`)
	s.Measured(id)
	if r, err = s.Recordings.Recording(ctx, id); err != nil || !r.Struck.Empty() {
		t.Errorf("measured again, %v is struck (%v)", r.Struck.Spans(), err)
	}
}
