package audience

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/platform/postgres"
)

// Shut is someone who is shut out of what a course has, or of one recording in it. It wins over every rule.
type Shut struct {
	ID          uuid.UUID
	PersonID    uuid.UUID
	Name        string     // of the person
	RecordingID *uuid.UUID // nil for all
	Title       string     // of the recording
	UntilAt     *time.Time // nil for good
	Note        string
	By          string // name of who did it
	MadeAt      time.Time
}

// shutsWhom says whether a student of a course can be shut out of a scope; lock is what is done to the course.
func shutsWhom(ctx context.Context, db postgres.Querier, of Scope, person uuid.UUID, lock string) error {
	const there = `select exists (select 1 from membership where course_id = $1 and person_id = $2 and role = 'student')
		and ($3::uuid is null or exists (select 1 from release where course_id = $1 and recording_id = $3))
		from course where id = $1 `
	ok, err := postgres.Value[bool](ctx, db, there+lock, of.Course, person, postgres.OrNil(of.Recording))
	if errors.Is(err, pgx.ErrNoRows) || err == nil && !ok {
		return ErrUnknown
	}
	if err != nil {
		return fmt.Errorf("look whom to shut out: %w", err)
	}
	return nil
}

// ShutForm is what someone is shut out of.
type ShutForm struct {
	Scope
	Person uuid.UUID  // a student of the course
	Until  *time.Time // nil for good
	Note   string     // for those who teach; at most 500 characters
}

// Shuts are those who are shut out of what a course has, by name.
func (s *Service) Shuts(ctx context.Context, course uuid.UUID) ([]Shut, error) {
	const query = `select z.id, z.person_id, p.name, z.recording_id, coalesce(r.title, '') as title, z.until_at, z.note,
		coalesce(b.name, '') as by, z.made_at
		from shut_out z join person p on p.id = z.person_id left join recording r on r.id = z.recording_id
		left join person b on b.id = z.made_by
		where z.course_id = $1 and z.ended_at is null and (z.until_at is null or $2 < z.until_at)
		and (r.id is null or r.deleted_at is null) order by p.name, z.made_at`
	out, err := postgres.All[Shut](ctx, s.DB, query, course, s.Clock.Now())
	if err != nil {
		return nil, fmt.Errorf("list who is shut out: %w", err)
	}
	return out, nil
}

// ShutOut shuts a student out from now on, in place of what was said of them and the same scope before. Its error is
// ErrUnknown for nobody of the course or a recording that it does not have, and of type fault.Faults for what is wrong
// with the form.
func (s *Service) ShutOut(ctx context.Context, by uuid.UUID, f ShutForm) (uuid.UUID, error) {
	now := s.Clock.Now()
	var faults fault.Faults
	if f.Until != nil && !now.Before(*f.Until) {
		faults.Add("until", "shut.past")
	}
	f.Note = strings.TrimSpace(f.Note)
	if utf8.RuneCountInString(f.Note) > 500 {
		faults.Add("note", "shut.note")
	}
	if err := faults.Err(); err != nil {
		return uuid.Nil, err
	}
	id := uuid.Must(uuid.NewV7())
	return id, postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if err := shutsWhom(ctx, tx, f.Scope, f.Person, "for no key update"); err != nil {
			return err
		}
		const end = `update shut_out set ended_at = $4, ended_by = $5 where course_id = $1 and person_id = $2
			and recording_id is not distinct from $3 and ended_at is null`
		if _, err := tx.Exec(ctx, end, f.Course, f.Person, postgres.OrNil(f.Recording), now, by); err != nil {
			return fmt.Errorf("end what was said of someone before: %w", err)
		}
		const keep = `insert into shut_out (id, person_id, course_id, recording_id, until_at, note, made_by, made_at)
			values ($1, $2, $3, $4, $5, $6, $7, $8)`
		if _, err := tx.Exec(ctx, keep, id, f.Person, f.Course, postgres.OrNil(f.Recording), f.Until, f.Note, by,
			now); err != nil {
			return fmt.Errorf("shut someone out: %w", err)
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Rule, Course: f.Course, Recording: f.Recording})
	})
}

// LetIn ends that someone is shut out, or with again shuts them out as before. Its error is ErrUnknown.
func (s *Service) LetIn(ctx context.Context, course, shut, by uuid.UUID, again bool) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const end = `update shut_out set ended_at = case when $4 then null else $3::timestamptz end,
				ended_by = case when $4 then null else $5::uuid end
			where id = $1 and course_id = $2 and (ended_at is null) <> $4 returning recording_id`
		recording, err := postgres.Value[*uuid.UUID](ctx, tx, end, shut, course, s.Clock.Now(), again, by)
		if errors.Is(err, pgx.ErrNoRows) || postgres.Taken(err) {
			return ErrUnknown
		}
		if err != nil {
			return fmt.Errorf("let someone in again: %w", err)
		}
		e := postgres.Event{About: event.Rule, Course: course}
		if recording != nil {
			e.Recording = *recording
		}
		return postgres.Notify(ctx, tx, e)
	})
}

// ShutFrom are the courses that shut someone out now of all that they have.
func (s *Service) ShutFrom(ctx context.Context, person uuid.UUID) ([]uuid.UUID, error) {
	const query = `select course_id from shut_out where person_id = $1 and recording_id is null
		and ended_at is null and (until_at is null or $2 < until_at)`
	out, err := postgres.Values[uuid.UUID](ctx, s.DB, query, person, s.Clock.Now())
	if err != nil {
		return nil, fmt.Errorf("look which courses shut someone out: %w", err)
	}
	return out, nil
}
