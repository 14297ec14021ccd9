// Package release keeps what a recording is to each course that has it: lit or dark, by whom and when.
//
// A recording is from the beginning a release to the course of its lecture, its own. To other courses it is one from
// when it is first lit for them. Who can watch it there follows from the rule, the roster and the clock (package
// viewing).
package release

import (
	"context"
	"errors"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
)

// Editions is what a release needs of what is published.
type Editions interface {
	// Want names the edition of a recording that is wanted, that of its current cut list. Shown says whether what
	// was published before is shown to anyone; if it is not, nothing is before the one that is wanted.
	Want(ctx context.Context, tx pgx.Tx, recording, by uuid.UUID, shown bool) error
}

// Playlists is where the students of a course look for what is lit.
type Playlists interface {
	// Put puts a recording into the playlist of a course, unless it is there, and gives the entry that it made.
	Put(ctx context.Context, tx pgx.Tx, course, recording uuid.UUID) (entry uuid.UUID, err error)
	// TakeOut takes an entry out of it again.
	TakeOut(ctx context.Context, tx pgx.Tx, course, entry uuid.UUID) error
}

// Rules is what a release needs of who may watch.
type Rules interface {
	// HoldCourses keeps others from changing rules of courses meanwhile.
	HoldCourses(ctx context.Context, tx pgx.Tx, courses []uuid.UUID) error
	// Give makes a rule that of a recording in a course that is held, as a part of a step, or with nil takes its own
	// away. It says whether that is a change; it is none where the course does not have the recording.
	Give(ctx context.Context, tx pgx.Tx, step, recording, course, by uuid.UUID, r *viewing.Rule) (bool, error)
	// Ungive takes back what a step made of rules, but for what was changed again since.
	Ungive(ctx context.Context, tx pgx.Tx, step, by uuid.UUID) error
}

// News tells the students of courses.
type News interface {
	// Plan has the students of courses told of recordings, each as it is called, as soon as they can watch them, as a
	// part of a step. All are of the same length.
	Plan(ctx context.Context, tx pgx.Tx, step, by uuid.UUID, courses, recordings []uuid.UUID, titles []string) error
	// Unplan takes back what a step made of that, but for those to whom mail has gone.
	Unplan(ctx context.Context, tx pgx.Tx, step uuid.UUID) error
}

// Service lights and darkens recordings for courses. All its fields are needed. It may be used by many at once. A
// call whose context ends gives its error and has changed nothing.
type Service struct {
	DB        *pgxpool.Pool
	Clock     clock.Clock
	Editions  Editions
	Playlists Playlists
	Rules     Rules
	News      News
}

// ErrUnknown says that there is no such recording or course.
var ErrUnknown = fault.Code("release.unknown")

// Belong makes the release of a recording to its own course, or takes it along when its lecture is one of another
// course now. A former one stays when it ever gave light, so that who lit it and when is kept.
func (s *Service) Belong(ctx context.Context, tx pgx.Tx, recording uuid.UUID) error {
	const former = `with former as (
			update release e set own = false from recording r join lecture l on l.id = r.lecture_id
			where e.recording_id = $1 and r.id = e.recording_id and e.own and e.course_id <> l.course_id returning e.*)
		select f.course_id from former f
		where not exists (select 1 from lighting p where p.recording_id = f.recording_id and p.course_id = f.course_id)`
	gone, err := postgres.Values[uuid.UUID](ctx, tx, former, recording)
	if err != nil {
		return fmt.Errorf("take a recording from its former course: %w", err)
	}
	if _, err := tx.Exec(ctx, `delete from release where recording_id = $1 and course_id = any($2)`, recording,
		gone); err != nil {
		return fmt.Errorf("take a recording from its former course: %w", err)
	}
	const own = `insert into release (recording_id, course_id, own, made_at)
		select r.id, l.course_id, true, $2 from recording r join lecture l on l.id = r.lecture_id where r.id = $1
		on conflict (recording_id, course_id) do update set own = true`
	if _, err := tx.Exec(ctx, own, recording, s.Clock.Now()); err != nil {
		return fmt.Errorf("give a recording to its course: %w", err)
	}
	return nil
}

// Light publishes a recording to a course as it now stands on the trim bench, and puts it into the playlist of the
// course. Who can watch it then follows from the rule. Lighting what is lit publishes it anew, and is no other change.
// Its error is ErrUnknown.
func (s *Service) Light(ctx context.Context, course, recording, by uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		_, err := s.light(ctx, tx, course, recording, by)
		return err
	})
}

// part is what was done for one recording and one course.
type part struct {
	lighting uuid.UUID // that was begun, or ended; uuid.Nil when it was so before
	entry    uuid.UUID // of the playlist that was made for it; uuid.Nil for none
}

func (s *Service) light(ctx context.Context, tx pgx.Tx, course, recording, by uuid.UUID) (p part, err error) {
	if err := hold(ctx, tx, course, recording); err != nil {
		return p, err
	}
	now := s.Clock.Now()
	const have = `insert into release (recording_id, course_id, own, made_by, made_at)
		values ($1, $2, false, $3, $4) on conflict do nothing`
	if _, err := tx.Exec(ctx, have, recording, course, by, now); err != nil {
		return p, fmt.Errorf("give a recording to a course: %w", err)
	}
	if p.entry, err = s.Playlists.Put(ctx, tx, course, recording); err != nil {
		return p, err
	}
	const shown = `select exists (select 1 from shown_recording where recording_id = $1)`
	lit, err := postgres.Value[bool](ctx, tx, shown, recording)
	if err != nil {
		return p, fmt.Errorf("look whether a recording is shown: %w", err)
	}
	if err := s.Editions.Want(ctx, tx, recording, by, lit); err != nil {
		return p, err
	}
	p.lighting, err = s.begin(ctx, tx, course, recording, by)
	return p, err
}

// begin begins a lighting, and gives it; uuid.Nil for what is lit.
func (s *Service) begin(ctx context.Context, tx pgx.Tx, course, recording, by uuid.UUID) (uuid.UUID, error) {
	const light = `insert into lighting (id, recording_id, course_id, lit_by, lit_at) values ($1, $2, $3, $4, $5)
		on conflict (recording_id, course_id) where darkened_at is null do nothing`
	id := uuid.Must(uuid.NewV7())
	tag, err := tx.Exec(ctx, light, id, recording, course, by, s.Clock.Now())
	if err != nil {
		return uuid.Nil, fmt.Errorf("light a recording: %w", err)
	}
	if tag.RowsAffected() == 0 {
		id = uuid.Nil
	}
	return id, postgres.Notify(ctx, tx, postgres.Event{About: event.Light, Course: course, Recording: recording})
}

// hold keeps others from lighting or taking away a recording meanwhile; an entry of a playlist can be made of it all
// the same. Its error is ErrUnknown.
func hold(ctx context.Context, tx pgx.Tx, course, recording uuid.UUID) error {
	const both = `select exists (select 1 from course where id = $2) from recording
		where id = $1 and deleted_at is null for no key update`
	there, err := postgres.Value[bool](ctx, tx, both, recording, course)
	if errors.Is(err, pgx.ErrNoRows) || err == nil && !there {
		return ErrUnknown
	}
	if err != nil {
		return fmt.Errorf("hold a recording: %w", err)
	}
	return nil
}

// Darken takes a recording back from a course. It stays in the playlist, dark.
func (s *Service) Darken(ctx context.Context, course, recording, by uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		_, err := s.darken(ctx, tx, course, recording, by)
		return err
	})
}

func (s *Service) darken(ctx context.Context, tx pgx.Tx, course, recording, by uuid.UUID) (p part, err error) {
	const update = `update lighting set darkened_at = $4, darkened_by = $3
		where recording_id = $1 and course_id = $2 and darkened_at is null returning id`
	p.lighting, err = postgres.Value[uuid.UUID](ctx, tx, update, recording, course, by, s.Clock.Now())
	if err != nil && !errors.Is(err, pgx.ErrNoRows) {
		return p, fmt.Errorf("darken a recording: %w", err)
	}
	return p, postgres.Notify(ctx, tx, postgres.Event{About: event.Light, Course: course, Recording: recording})
}

// WasLit reports whether a recording is, or ever was, lit for a course.
func (s *Service) WasLit(ctx context.Context, course, recording uuid.UUID) (bool, error) {
	const query = `select exists (select 1 from lighting where recording_id = $1 and course_id = $2)`
	was, err := postgres.Value[bool](ctx, s.DB, query, recording, course)
	if err != nil {
		return false, fmt.Errorf("look whether a recording was lit: %w", err)
	}
	return was, nil
}
