package library

import (
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// SetDeleted takes a recording away from everyone, into the bin, or brings it back. Its error is recordings.ErrUnknown.
func (s *Service) SetDeleted(ctx context.Context, id, by uuid.UUID, deleted bool) error {
	return s.SetManyDeleted(ctx, []uuid.UUID{id}, by, deleted)
}

// SetManyDeleted does so with many: all, or none. What lies in the bin already stays as it was put there.
func (s *Service) SetManyDeleted(ctx context.Context, ids []uuid.UUID, by uuid.UUID, deleted bool) error {
	const update = `update recording set
			deleted_at = case when $2 then coalesce(deleted_at, $3) end,
			deleted_by = case when $2 then case when deleted_at is null then $4::uuid else deleted_by end end
		where id = any($1) returning id`
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if err := recordings.Hold(ctx, tx, ids...); err != nil {
			return err
		}
		changed, err := postgres.Values[uuid.UUID](ctx, tx, update, ids, deleted, s.Clock.Now(), postgres.OrNil(by))
		if err != nil {
			return fmt.Errorf("put recordings into the bin: %w", err)
		}
		for _, id := range ids {
			if !slices.Contains(changed, id) {
				return recordings.ErrUnknown
			}
			if err := recordings.Tell(ctx, tx, event.Recording, id); err != nil {
				return err
			}
		}
		return nil
	})
}

// Binned is a recording in the bin.
type Binned struct {
	ID        uuid.UUID
	CourseID  uuid.UUID
	LectureID uuid.UUID
	Title     string
	FileName  string
	StartedAt time.Time
	LengthMs  int64
	Bytes     int64
	DeletedAt time.Time
	By        string // who took it away; "" when nobody in particular did
	GoneAt    time.Time
}

// Binned lists what lies in the bin of courses, the latest first. What was joined to another is
// not in it.
func (s *Service) Binned(ctx context.Context, courses []uuid.UUID) ([]Binned, error) {
	const query = `select r.id, l.course_id, r.lecture_id, r.title, x.file_name, x.started_at, x.length_ms,
		x.stored as bytes, r.deleted_at, coalesce(p.name, '') as by, r.deleted_at + make_interval(days => $2) as gone_at
		from recording r join lecture l on l.id = r.lecture_id join recording_source x on x.recording_id = r.id left
		join person p on p.id = r.deleted_by
		where r.deleted_at is not null and l.course_id = any($1) order by r.deleted_at desc, r.id limit 500`
	out, err := postgres.All[Binned](ctx, s.DB, query, courses, recordings.BinDays)
	if err != nil {
		return nil, fmt.Errorf("list the bin: %w", err)
	}
	return out, nil
}

// Forget removes the bytes of captures, and then that there were any.
type Forget = func(ctx context.Context, tx pgx.Tx, captures []uuid.UUID) error

// ClearBin removes for good what has lain in the bin for longer than BinDays, and says how many.
// Of what was captured for it, that goes which no other recording holds.
func (s *Service) ClearBin(ctx context.Context, forget Forget) (int, error) {
	over := s.Clock.Now().AddDate(0, 0, -recordings.BinDays)
	gone, err := postgres.Values[uuid.UUID](ctx, s.DB,
		`select id from recording where deleted_at <= $1 order by deleted_at limit 20`, over)
	if err != nil {
		return 0, fmt.Errorf("list what goes from the bin: %w", err)
	}
	for n, id := range gone {
		if err := postgres.InTx(ctx, s.DB,
			func(tx pgx.Tx) error { return s.remove(ctx, tx, id, over, forget) }); err != nil {
			return n, fmt.Errorf("remove a recording: %w", err)
		}
	}
	return len(gone), nil
}

func (s *Service) remove(ctx context.Context, tx pgx.Tx, id uuid.UUID, over time.Time, forget Forget) error {
	const hold = `select id from recording where id = $1 and deleted_at <= $2 for update`
	ids := func(query string, args ...any) ([]uuid.UUID, error) {
		return postgres.Values[uuid.UUID](ctx, tx, query, args...)
	}
	held, err := ids(hold, id, over)
	if err != nil || len(held) == 0 { // it was brought back
		return err
	}
	editions, err := ids(`select id from edition where recording_id = $1`, id)
	if err != nil {
		return err
	}
	captures, err := ids(`select distinct rc.capture_id from recording_capture rc
		where rc.recording_id = $1
		and not exists (select 1 from recording_capture o where o.capture_id = rc.capture_id and o.recording_id <> $1)`,
		id)
	if err != nil {
		return err
	}
	tracks, err := ids(`select id from track where capture_id = any($1)`, captures)
	if err != nil {
		return err
	}
	for _, e := range editions {
		if err := s.Editions.Forget(e); err != nil {
			return err
		}
	}
	for _, t := range tracks {
		if err := s.Measures.Forget(t); err != nil {
			return err
		}
	}
	if _, err := tx.Exec(ctx, `delete from recording where id = $1`, id); err != nil {
		return err
	}
	return forget(ctx, tx, captures)
}
