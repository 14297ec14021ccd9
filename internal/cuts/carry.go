package cuts

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/postgres"
)

// Shift moves all versions of the cuts of a recording on its clock, which begins earlier by as much.
func (s *Service) Shift(ctx context.Context, tx pgx.Tx, recording uuid.UUID, by time.Duration) error {
	type row struct {
		ID          uuid.UUID
		Struck, Led postgres.Multirange
	}
	lists, err := postgres.All[row](ctx, tx, `select id, struck, led from cut_list where recording_id = $1`, recording)
	if err != nil {
		return fmt.Errorf("read the cut lists of a recording: %w", err)
	}
	for _, l := range lists {
		struck, led := postgres.Set(l.Struck).Shift(by), postgres.Set(l.Led).Shift(by)
		if _, err := tx.Exec(ctx, `update cut_list set struck = $2, led = $3 where id = $1`, l.ID,
			postgres.Kept(struck), postgres.Kept(led)); err != nil {
			return fmt.Errorf("move a cut list: %w", err)
		}
	}
	return nil
}

// Carry makes a version of the cuts of a recording that was put together anew. Where nothing would be left nothing is
// struck.
func (s *Service) Carry(ctx context.Context, tx pgx.Tx, recording, by uuid.UUID, struck, led span.Set) error {
	r, err := s.Recordings.In(ctx, tx, recording)
	if err != nil {
		return err
	}
	list := cutlist.New(r.Length, struck)
	if list.Published() < cutlist.Least { // all of it was struck in the whole
		list = cutlist.New(r.Length, span.Set{})
	}
	version, err := s.insertVersion(ctx, tx, r, by, edit{list, led})
	if err != nil {
		return err
	}
	return now(ctx, tx, recording, version)
}

// now makes a version the one that holds; nil is for a recording of which nothing is struck.
func now(ctx context.Context, tx pgx.Tx, recording uuid.UUID, version *uuid.UUID) error {
	const keep = `insert into recording_cuts (recording_id, cut_list_id) values ($1, $2)
		on conflict (recording_id) do update set cut_list_id = excluded.cut_list_id`
	if _, err := tx.Exec(ctx, keep, recording, version); err != nil {
		return fmt.Errorf("keep which cuts of a recording hold: %w", err)
	}
	return nil
}
