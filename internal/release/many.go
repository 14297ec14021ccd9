package release

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"slices"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/fault"
	"latelantern/internal/platform/postgres"
)

// Many are recordings that are lit or darkened together, each of them for each of the courses.
type Many struct {
	Recordings, Courses []uuid.UUID
	Lit                 bool // else they are darkened
}

// pairs are all of them once, in an order in which nobody waits for another who waits for them.
func (m Many) pairs() (out [][2]uuid.UUID) {
	sorted := func(ids []uuid.UUID) []uuid.UUID {
		ids = slices.Clone(ids)
		slices.SortFunc(ids, func(a, b uuid.UUID) int { return bytes.Compare(a[:], b[:]) })
		return slices.Compact(ids)
	}
	for _, recording := range sorted(m.Recordings) {
		for _, course := range sorted(m.Courses) {
			out = append(out, [2]uuid.UUID{recording, course})
		}
	}
	return out
}

// ErrNothing says that what was to be lit or darkened is so already.
var ErrNothing = fault.Code("release.nothing")

// Change lights or darkens many, all or none of them, and gives the step by which all is taken back. What is so already
// stays as it is and is no part of the step; nothing is published anew for it. Its error is ErrUnknown, or ErrNothing
// when all is so already.
func (s *Service) Change(ctx context.Context, by uuid.UUID, m Many) (step uuid.UUID, err error) {
	step = uuid.Must(uuid.NewV7())
	return step, postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const keep = `insert into light_change (id, lit, made_by, made_at) values ($1, $2, $3, $4)`
		if _, err := tx.Exec(ctx, keep, step, m.Lit, by, s.Clock.Now()); err != nil {
			return fmt.Errorf("keep a step: %w", err)
		}
		made := 0
		for _, x := range m.pairs() {
			done, err := s.one(ctx, tx, x[1], x[0], by, m.Lit)
			if err != nil {
				return err
			}
			if done.lighting == uuid.Nil {
				continue
			}
			made++
			const part = `insert into light_change_part (change_id, lighting_id, entry_id) values ($1, $2, $3)`
			if _, err := tx.Exec(ctx, part, step, done.lighting, postgres.OrNil(done.entry)); err != nil {
				return fmt.Errorf("keep a part of a step: %w", err)
			}
		}
		if made == 0 {
			return ErrNothing
		}
		return nil
	})
}

// one lights or darkens a recording for a course unless it is so.
func (s *Service) one(ctx context.Context, tx pgx.Tx, course, recording, by uuid.UUID, lit bool) (part, error) {
	if err := hold(ctx, tx, course, recording); err != nil {
		return part{}, err
	}
	const is = `select exists (select 1 from released where recording_id = $1 and course_id = $2 and lit)`
	so, err := postgres.Value[bool](ctx, tx, is, recording, course)
	if err != nil {
		return part{}, fmt.Errorf("look whether a recording is lit: %w", err)
	}
	if so == lit {
		return part{}, nil
	}
	if lit {
		return s.light(ctx, tx, course, recording, by)
	}
	return s.darken(ctx, tx, course, recording, by)
}

// TakeBack takes a step back that the person made, or any when anyones. What was changed again since stays as it is.
// Its error is ErrUnknown for no step of theirs, and for one that was taken back.
func (s *Service) TakeBack(ctx context.Context, step, by uuid.UUID, anyones bool) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const end = `update light_change set undone_at = $3
			where id = $1 and undone_at is null and (made_by = $2 or $4) returning lit`
		lit, err := postgres.Value[bool](ctx, tx, end, step, by, s.Clock.Now(), anyones)
		if errors.Is(err, pgx.ErrNoRows) {
			return ErrUnknown
		}
		if err != nil {
			return fmt.Errorf("take a step back: %w", err)
		}
		const parts = `select l.id, l.recording_id, l.course_id, l.darkened_at is null as open, p.entry_id
			from light_change_part p join lighting l on l.id = p.lighting_id
			join recording r on r.id = l.recording_id and r.deleted_at is null
			where p.change_id = $1 order by l.recording_id, l.course_id`
		list, err := postgres.All[changed](ctx, tx, parts, step)
		if err != nil {
			return fmt.Errorf("read a step: %w", err)
		}
		for _, x := range list {
			if err := s.back(ctx, tx, x, by, lit); err != nil {
				return err
			}
		}
		return nil
	})
}

// changed is a lighting that a step began or ended.
type changed struct {
	ID, RecordingID, CourseID uuid.UUID
	Open                      bool
	EntryID                   *uuid.UUID
}

func (s *Service) back(ctx context.Context, tx pgx.Tx, x changed, by uuid.UUID, lit bool) error {
	if err := hold(ctx, tx, x.CourseID, x.RecordingID); err != nil {
		return err
	}
	if !lit {
		_, err := s.begin(ctx, tx, x.CourseID, x.RecordingID, by)
		return err
	}
	if !x.Open { // darkened meanwhile, and perhaps lit again
		return nil
	}
	if _, err := s.darken(ctx, tx, x.CourseID, x.RecordingID, by); err != nil {
		return err
	}
	if x.EntryID == nil {
		return nil
	}
	return s.Playlists.TakeOut(ctx, tx, x.CourseID, *x.EntryID)
}
