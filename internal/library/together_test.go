package library_test

import (
	"context"
	"errors"
	"math/rand/v2"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgconn"

	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
	"latelantern/internal/library"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/playlists"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// TestManyAtTheSameRecordings: whatever several people do to two recordings at once, some of it is refused, but none of
// it because they wait for each other in a circle, and the recordings can be read afterwards.
func TestManyAtTheSameRecordings(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	one, _ := s.File(s.Lecture, testfilm.Noise(t, 1))
	two, _ := s.File(s.Later, testfilm.Noise(t, 2))
	s.Measured(one)
	s.Measured(two)
	recordings := func() []uuid.UUID {
		all, err := postgres.Values[uuid.UUID](ctx, s.DB, `select id from recording order by id`)
		if err != nil {
			t.Error(err)
		}
		return all
	}
	acts := map[string]func(r *rand.Rand, id, other uuid.UUID) error{
		"split": func(r *rand.Rand, id, _ uuid.UUID) error {
			at := time.Duration(20+r.IntN(60)) * time.Second
			_, err := s.Library.Split(ctx, id, s.Lecturer, at, []uuid.UUID{uuid.Nil, s.Later}[r.IntN(2)])
			return err
		},
		"join": func(_ *rand.Rand, id, other uuid.UUID) error { return s.Library.Join(ctx, id, other, s.Lecturer) },
		"take back": func(_ *rand.Rand, id, _ uuid.UUID) error {
			a, err := s.Library.Rearranged(ctx, id)
			if err != nil || a == nil {
				return err
			}
			return s.Library.UndoArrangement(ctx, id, a.ID, s.Lecturer)
		},
		"strike": func(r *rand.Rand, id, _ uuid.UUID) error {
			from := time.Duration(r.IntN(60)) * time.Second
			return s.Cuts.Change(ctx, id, s.Lecturer, cuts.Strike, span.Span{Start: from, End: from + 2*time.Second})
		},
		"light":  func(_ *rand.Rand, id, _ uuid.UUID) error { return s.Releases.Light(ctx, s.Course, id, s.Lecturer) },
		"darken": func(_ *rand.Rand, id, _ uuid.UUID) error { return s.Releases.Darken(ctx, s.Course, id, s.Lecturer) },
		"list": func(_ *rand.Rand, id, _ uuid.UUID) error {
			return s.Playlists.Add(ctx, playlists.Of{Course: s.Course}, nil, id)
		},
		"titles": func(_ *rand.Rand, id, other uuid.UUID) error {
			return s.Library.SetTitles(ctx, s.Lecturer, []library.Retitle{{Recording: id, Title: "A"},
				{Recording: other, Title: "B"}})
		},
		"bin": func(r *rand.Rand, id, _ uuid.UUID) error {
			return s.Library.SetDeleted(ctx, id, s.Lecturer, r.IntN(3) == 0)
		},
	}
	var names []string
	for name := range acts {
		names = append(names, name)
	}
	var done sync.Map
	var people sync.WaitGroup
	for person := range 6 {
		people.Go(func() {
			r := rand.New(rand.NewPCG(uint64(person), 1))
			for range 40 {
				all := recordings()
				name, id, other := names[r.IntN(len(names))], all[r.IntN(len(all))], all[r.IntN(len(all))]
				err := acts[name](r, id, other)
				var fault *pgconn.PgError
				if errors.As(err, &fault) {
					t.Errorf("%s: %v", name, err)
				}
				if err == nil {
					done.Store(name, true)
				}
			}
		})
	}
	people.Wait()
	could := 0
	done.Range(func(any, any) bool { could++; return true })
	if could < 6 {
		t.Errorf("only %d of %d things could ever be done", could, len(acts))
	}
	for _, id := range recordings() {
		if s.Count(`select count(*) from recording_capture where recording_id = $1`, id) == 0 {
			continue // it was joined to another, and is nothing now
		}
		if _, err := s.Library.Recordings.Recording(ctx, id); err != nil {
			t.Errorf("%v cannot be read: %v", id, err)
		}
		if n := s.Count(`select count(*) from recording_capture where recording_id = $1
			and coalesce(until_ms, 1::bigint << 40) <= coalesce(from_ms, 0)`, id); n != 0 {
			t.Errorf("%v has %d parts of nothing", id, n)
		}
	}
}
