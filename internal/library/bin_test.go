package library_test

import (
	"context"
	"errors"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/platform/postgres"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// TestTheBinKeepsForThirtyDays and then clears, but nothing that another recording holds.
func TestTheBinKeepsForThirtyDays(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	one, trackOne := s.File(s.Lecture, testfilm.Noise(t, 1))
	two, _ := s.File(s.Lecture, testfilm.Noise(t, 2))
	s.Measured(one)
	s.Measured(two)
	s.Lit(one)
	rest, err := s.Library.Split(ctx, two, s.Lecturer, time.Minute, uuid.Nil)
	s.Must(err)
	for _, id := range []uuid.UUID{one, rest} {
		s.Must(s.Library.SetDeleted(ctx, id, s.Lecturer, true))
	}
	list, err := s.Library.Binned(ctx, []uuid.UUID{s.Course})
	s.Must(err)
	if len(list) != 2 || list[0].By != "lecturer" || list[0].GoneAt.Sub(list[0].DeletedAt) != 30*24*time.Hour {
		t.Fatalf("in the bin are %+v", list)
	}
	if other, err := s.Library.Binned(ctx, []uuid.UUID{s.Other}); err != nil || len(other) != 0 {
		t.Errorf("in the bin of another course are %+v (%v)", other, err)
	}
	var forgotten []uuid.UUID
	forget := func(ctx context.Context, tx pgx.Tx, captures []uuid.UUID) error {
		forgotten = append(forgotten, captures...)
		_, err := tx.Exec(ctx, `delete from capture where id = any($1)`, captures)
		return err
	}
	captureOne, err := postgres.Value[uuid.UUID](ctx, s.DB, `select capture_id from track where id = $1`, trackOne)
	s.Must(err)
	s.Do(`update recording set deleted_at = deleted_at - interval '29 days' where deleted_at is not null`)
	if n, err := s.Library.ClearBin(ctx, forget); err != nil || n != 0 {
		t.Fatalf("after 29 days %d are gone (%v)", n, err)
	}
	s.Do(`update recording set deleted_at = deleted_at - interval '1 day' where deleted_at is not null`)
	away := func(context.Context, pgx.Tx, []uuid.UUID) error { return errors.New("the disk is away") }
	if n, err := s.Library.ClearBin(ctx, away); err == nil || n != 0 {
		t.Errorf("with the disk away %d are gone (%v)", n, err)
	}
	n, err := s.Library.ClearBin(ctx, forget)
	if err != nil || len(forgotten) != 1 || forgotten[0] != captureOne {
		t.Errorf("after 30 days %d are gone, with the captures %v (%v)", n, forgotten, err)
	}
	if n := s.Count(`select count(*) from recording`); n != 1 {
		t.Errorf("%d recordings are left", n)
	}
	if n := s.Count(`select count(*) from capture`); n != 1 {
		t.Errorf("%d captures are left", n)
	}
	if _, err := s.Recordings.Captured(ctx, two); err != nil {
		t.Errorf("the other half cannot be watched: %v", err)
	}
}
