package cuts

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// Version is one version of the cuts of a recording.
type Version struct {
	ID        uuid.UUID // the zero UUID for the recording as it was captured
	By        string    // "" for one that was made by itself
	MadeAt    time.Time
	Struck    span.Set
	Led       span.Set
	Published time.Duration
	Current   bool
	Lit       bool          // what is published was made of it
	AsOf      *time.Time    // it brought back the version of then
	More      time.Duration // how much it strikes that is not struck now
	Less      time.Duration // how much it keeps that is struck now
}

// MostVersions is how many versions are listed.
const MostVersions = 200

// Versions lists the versions of the cuts of a recording, the latest first, and at last the
// recording as it was captured. Its error is ErrUnknown.
func (s *Service) Versions(ctx context.Context, recording uuid.UUID) ([]Version, error) {
	r, err := s.Recordings.Recording(ctx, recording)
	if err != nil {
		return nil, err
	}
	type row struct {
		ID     uuid.UUID
		By     string
		MadeAt time.Time
		Struck postgres.Multirange
		Led    postgres.Multirange
		AsOf   *time.Time
	}
	const query = `select c.id, coalesce(p.name, '') as by, c.made_at, c.struck, c.led, o.made_at as as_of
		from cut_list c left join person p on p.id = c.made_by left join cut_list o on o.id = c.as_of
		where c.recording_id = $1 order by c.id desc limit $2`
	rows, err := postgres.All[row](ctx, s.DB, query, recording, MostVersions)
	if err != nil {
		return nil, fmt.Errorf("list the versions of a cut list: %w", err)
	}
	out := make([]Version, 0, len(rows)+1)
	for _, x := range rows {
		out = append(out,
			Version{ID: x.ID, By: x.By, MadeAt: x.MadeAt,
				Struck: cutlist.New(r.Length, postgres.Set(x.Struck)).Struck(), Led: postgres.Set(x.Led), AsOf: x.AsOf})
	}
	if len(rows) < MostVersions {
		out = append(out, Version{MadeAt: r.StartedAt})
	}
	now := r.Cuts().Struck()
	for i := range out {
		v := &out[i]
		v.Published = cutlist.New(r.Length, v.Struck).Kept().Subtract(r.Holes).Len()
		v.More, v.Less = v.Struck.Subtract(now).Len(), now.Subtract(v.Struck).Len()
		v.Current = r.CutListID == nil && v.ID == uuid.Nil || r.CutListID != nil && *r.CutListID == v.ID
		v.Lit = r.EditionID != nil &&
			(r.EditedCuts == nil && v.ID == uuid.Nil || r.EditedCuts != nil && *r.EditedCuts == v.ID)
	}
	return out, nil
}

// ErrNoVersion says that there is no such version of the cuts.
var ErrNoVersion = fault.Code("cut.no_version")

// BringBack makes a new version of the cuts of a recording that is as an earlier one was; the
// zero UUID is the recording as it was captured. Its errors are ErrNoVersion and those of Change.
func (s *Service) BringBack(ctx context.Context, recording, by uuid.UUID, from *uuid.UUID, version uuid.UUID) error {
	return s.newVersion(ctx, recording, by, from, func(tx pgx.Tx, r recordings.Recording) (*uuid.UUID, error) {
		var old edit
		old.List = cutlist.New(r.Length, span.Set{})
		if version != uuid.Nil {
			x, err := postgres.One[struct{ Struck, Led postgres.Multirange }](ctx, tx,
				`select struck, led from cut_list where id = $1 and recording_id = $2`, version, recording)
			if errors.Is(err, pgx.ErrNoRows) {
				return nil, ErrNoVersion
			}
			if err != nil {
				return nil, fmt.Errorf("read a version of a cut list: %w", err)
			}
			old = edit{cutlist.New(r.Length, postgres.Set(x.Struck)), postgres.Set(x.Led)}
		}
		if old.Published() < cutlist.Least {
			return nil, cutlist.ErrNothingLeft
		}
		id, err := s.insertVersion(ctx, tx, r, by, old)
		if err != nil || version == uuid.Nil {
			return id, err
		}
		if _, err := tx.Exec(ctx, `update cut_list set as_of = $2 where id = $1`, id, version); err != nil {
			return nil, fmt.Errorf("keep which version was brought back: %w", err)
		}
		return id, nil
	})
}
