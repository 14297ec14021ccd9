package publication_test

import (
	"context"
	"errors"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/capture"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/span"
	"latelantern/internal/core/viewing"
	"latelantern/internal/cuts"
	"latelantern/internal/recordings"
	"latelantern/internal/testhouse"
)

// unpacked is a recording of a minute of which every edition is made by hand.
func unpacked(s *testhouse.Stage) uuid.UUID {
	s.T.Helper()
	size := int64(1)
	b, err := s.Capture.Begin(context.Background(),
		capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.File, FileName: "a", Length: &size})
	s.Must(err)
	s.Do(`update track set state = 'ready', stored = 1, packed_ms = 60000, video = true where id = $1`, b.Track)
	s.Do(`update capture set stopped_at = started_at where id = $1`, b.Capture)
	return b.Recording
}

// publishing is what is expected of a recording, in the plainest words there are.
type publishing struct {
	lit       bool
	wanted    uuid.UUID
	published uuid.UUID
	cuts      map[uuid.UUID]uuid.UUID // by edition
	struck    map[uuid.UUID]span.Set
	state     map[uuid.UUID]string
}

// edition is the one of a version of the cuts, unless it was removed or could not be made.
func (p *publishing) edition(cuts uuid.UUID) uuid.UUID {
	for id, c := range p.cuts {
		if c == cuts && (p.state[id] == "making" || p.state[id] == "ready") {
			return id
		}
	}
	return uuid.Nil
}

// TestOnlyWhatIsWantedIsPublished: whatever is struck, lit, darkened, made, not made and restarted, and in whatever
// order, what is shown is what whoever lit last named, once it is whole; and nothing else lies there any more.
func TestOnlyWhatIsWantedIsPublished(t *testing.T) {
	s := testhouse.New(t, true)
	s.Must(s.Audience.SetRule(t.Context(), audience.Scope{Course: s.Course}, s.Lecturer,
		&viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead,
			Window: viewing.Window{From: viewing.FromDate, FromAt: testhouse.Now.Add(-time.Hour),
				Until: viewing.UntilEver}}))
	for seed := range uint64(12) {
		r := rand.New(rand.NewPCG(seed, 17))
		id := unpacked(s)
		want := publishing{cuts: map[uuid.UUID]uuid.UUID{}, struck: map[uuid.UUID]span.Set{},
			state: map[uuid.UUID]string{}}
		var story []string
		for range 40 {
			story = append(story, random(t, s, r, id, &want))
			if !expected(t, s, id, &want) {
				t.Fatalf("seed %d, after %v", seed, story)
			}
		}
	}
}

// random does one thing to a recording, and to what is expected of it.
func random(t *testing.T, s *testhouse.Stage, r *rand.Rand, id uuid.UUID, want *publishing) string {
	t.Helper()
	ctx := t.Context()
	var making []uuid.UUID
	for e, state := range want.state {
		if state == "making" {
			making = append(making, e)
		}
	}
	slices.SortFunc(making, func(a, b uuid.UUID) int { return slices.Compare(a[:], b[:]) })
	switch n := r.IntN(12); {
	case n < 4:
		at := time.Duration(r.IntN(4)) * 10 * time.Second
		err := s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, span.Span{Start: at, End: at + 10*time.Second})
		if err != nil && fault.Of(err).None() {
			t.Fatal(err)
		}
		return "strike"
	case n == 4:
		if err := s.Cuts.Change(ctx, id, s.Lecturer, cuts.Undo, span.Span{}); err != nil {
			if fault.Of(err).None() {
				t.Fatal(err)
			}
		}
		return "undo"
	case n < 8:
		lit(t, s, id, want)
		return "light"
	case n == 8:
		s.Must(s.Releases.Darken(ctx, s.Course, id, s.Lecturer))
		want.lit = false
		return "darken"
	case n == 9:
		s.Must(s.Publication.Swept(ctx, id))
		for e, state := range want.state {
			if state != "making" && e != want.published && e != want.wanted {
				want.state[e] = "removed"
			}
		}
		return "sweep"
	case len(making) > 0:
		e, fault := making[r.IntN(len(making))], ""
		want.state[e] = "ready"
		if r.IntN(3) == 0 {
			fault, want.state[e] = "unmade", "failed"
		}
		s.Must(s.Publication.Finished(ctx, e, span.Of(span.Span{End: time.Minute}).Subtract(want.struck[e]), fault))
		if fault == "" && want.wanted == e {
			want.published = e
		}
		return "made" + fault
	}
	return "nothing"
}

func lit(t *testing.T, s *testhouse.Stage, id uuid.UUID, want *publishing) {
	t.Helper()
	ctx := t.Context()
	r, err := s.Recordings.Recording(ctx, id)
	s.Must(err, s.Releases.Light(ctx, s.Course, id, s.Lecturer))
	cuts := uuid.Nil
	if r.CutListID != nil {
		cuts = *r.CutListID
	}
	e := want.edition(cuts)
	if e == uuid.Nil {
		after, err := s.Recordings.Recording(ctx, id)
		s.Must(err)
		if after.Making == nil || want.state[*after.Making] != "" {
			t.Fatal("no new edition is made of new cuts")
		}
		e = *after.Making
		want.cuts[e], want.struck[e], want.state[e] = cuts, r.Struck, "making"
	}
	want.wanted = e
	switch {
	case want.state[e] == "ready":
		want.published = e
	case !want.lit:
		want.published = uuid.Nil
	}
	want.lit = true
}

func expected(t *testing.T, s *testhouse.Stage, id uuid.UUID, want *publishing) bool {
	t.Helper()
	door, err := s.Audience.Decide(t.Context(), s.Student, id)
	s.Must(err)
	r, err := s.Recordings.Recording(t.Context(), id)
	s.Must(err)
	got := uuid.Nil
	if door.Edition != nil {
		got = *door.Edition
	}
	good := true
	fail := func(format string, args ...any) {
		t.Errorf(format, args...)
		good = false
	}
	if got != want.published || door.Watch() != (want.lit && want.published != uuid.Nil) {
		fail("published is %v (%v), want %v (%v, lit %v)", got, want.struck[got].Spans(), want.published,
			want.struck[want.published].Spans(), want.lit)
	}
	if (r.MakingFault != "") != (want.state[want.wanted] == "failed") ||
		(r.Making != nil) != (want.state[want.wanted] == "making") {
		fail("it says making %v, fault %q; the one that is wanted is %s", r.Making, r.MakingFault,
			want.state[want.wanted])
	}
	for e, state := range want.state {
		_, err := s.Publication.Carrier(t.Context(), id, e)
		if there := state == "ready" ||
			state == "removed"; there == errors.Is(err, recordings.ErrUnknown) && state != "removed" {
			fail("an edition that is %s: %v", state, err)
		}
		if n := s.Count(`select count(*)::int from edition where id = $1 and state = $2`, e, state); n != 1 {
			fail("an edition is not %s", state)
		}
	}
	return good
}

// TestLitAgainFromTheDark: what was struck in the dark is not shown while the new edition is made, nor if it cannot be.
func TestLitAgainFromTheDark(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	id := unpacked(s)
	all := span.Of(span.Span{End: time.Minute})
	light := func() (recordings.Recording, uuid.UUID) {
		t.Helper()
		s.Must(s.Releases.Light(ctx, s.Course, id, s.Lecturer))
		r, err := s.Recordings.Recording(ctx, id)
		s.Must(err)
		if r.Making == nil {
			return r, uuid.Nil
		}
		return r, *r.Making
	}
	_, first := light()
	s.Must(s.Publication.Finished(ctx, first, all, ""), s.Releases.Darken(ctx, s.Course, id, s.Lecturer),
		s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, cut(10*time.Second, 20*time.Second)))
	r, second := light()
	if r.EditionID != nil {
		t.Error("what was published before it was darkened is shown while the new edition is made")
	}
	s.Must(s.Publication.Finished(ctx, second, span.Set{}, "unmade"))
	if r, err := s.Recordings.Recording(ctx, id); err != nil || r.EditionID != nil || r.MakingFault == "" {
		t.Errorf("after it could not be made %v is shown, and the fault is %q (%v)", r.EditionID, r.MakingFault, err)
	}
}
