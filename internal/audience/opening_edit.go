package audience

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/platform/passhash"
	"latelantern/internal/platform/postgres"
)

// Open opens a recording beside any course, and has it published unless it is, or makes a link to a playlist. Its error
// is ErrUnknown, ErrInvalid, or of type fault.Faults for what is wrong with the form.
func (s *Service) Open(ctx context.Context, what Opens, by uuid.UUID, f OpeningForm) (uuid.UUID, error) {
	id := uuid.Must(uuid.NewV7())
	return id, s.open(ctx, what, &f, func(tx pgx.Tx, phrase string) error {
		if err := s.want(ctx, tx, what.Recording, by); err != nil {
			return err
		}
		w := rowOf(f.Window)
		const keep = `insert into opening (id, recording_id, playlist_id, kind, name, uses, ` + windowColumns + `,
			phrase, most, made_by, made_at)
			values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16)`
		if _, err := tx.Exec(ctx, keep, id, postgres.OrNil(what.Recording), postgres.OrNil(what.Playlist), f.Kind,
			f.Name, f.Uses.Names(), w.FromKind, w.FromAt, w.DaysAfterLecture, w.UntilKind, w.UntilAt, w.DaysAfterTerm,
			phrase, f.Most, by, s.Clock.Now()); err != nil {
			return fmt.Errorf("open a recording or a playlist: %w", err)
		}
		if err := s.namePeople(ctx, tx, id, &f); err != nil {
			return err
		}
		return s.keepOpening(ctx, tx, id, by, WasOpened)
	})
}

// want has a recording published that is opened.
func (s *Service) want(ctx context.Context, tx pgx.Tx, recording, by uuid.UUID) error {
	if recording == uuid.Nil {
		return nil
	}
	const shown = `select exists (select 1 from shown_recording where recording_id = $1)`
	was, err := postgres.Value[bool](ctx, tx, shown, recording)
	if err != nil {
		return fmt.Errorf("look whether a recording is shown: %w", err)
	}
	return s.Editions.Want(ctx, tx, recording, by, was)
}

// ChangeOpening makes an opening what a form says, for everyone for whom it is. Its kind stays. Its errors are those of
// Open.
func (s *Service) ChangeOpening(ctx context.Context, what Opens, id, by uuid.UUID, f OpeningForm) error {
	is := `select o.kind from opening o where o.id = $1 and ` + opensIs("$2") + ` and o.ended_at is null`
	kind, err := postgres.Value[Kind](ctx, s.DB, is, id, what.id())
	if errors.Is(err, pgx.ErrNoRows) {
		return ErrUnknown
	}
	if err != nil {
		return fmt.Errorf("look up an opening: %w", err)
	}
	f.Kind = kind
	return s.open(ctx, what, &f, func(tx pgx.Tx, phrase string) error {
		w := rowOf(f.Window)
		const change = `update opening set name = $2, uses = $3, from_kind = $4, from_at = $5, days_after_lecture = $6,
			until_kind = $7, until_at = $8, days_after_term = $9, most = $10,
			phrase = case when $11 then $12 else phrase end where id = $1 and ended_at is null`
		tag, err := tx.Exec(ctx, change, id, f.Name, f.Uses.Names(), w.FromKind, w.FromAt, w.DaysAfterLecture,
			w.UntilKind, w.UntilAt, w.DaysAfterTerm, f.Most, f.Phrase != nil, phrase)
		if err != nil {
			return fmt.Errorf("change an opening: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return ErrUnknown
		}
		if err := s.namePeople(ctx, tx, id, &f); err != nil {
			return err
		}
		return s.keepOpening(ctx, tx, id, by, WasChanged)
	})
}

// openedCourse is the course by which something is opened.
type openedCourse struct {
	CourseID uuid.UUID
	LastDay  time.Time
	Zone     string
}

// openedCourse is that of what is opened, where lock is done to that. Its error is ErrUnknown.
func (s *Service) openedCourse(ctx context.Context, db postgres.Querier, what Opens, lock string) (openedCourse,
	error) {
	query, args := `select l.course_id, t.last_day, t.zone from recording o join lecture l on l.id = o.lecture_id
		join course k on k.id = l.course_id join term t on t.id = k.term_id
		where o.id = $1 and o.deleted_at is null `+lock, []any{what.Recording}
	if what.Playlist != uuid.Nil {
		query, args = `select o.course_id, t.last_day, t.zone from playlist o join course k on k.id = o.course_id
			join term t on t.id = k.term_id
			where o.id = $1 and o.course_id = $2 and o.deleted_at is null `+lock, []any{what.Playlist, what.Course}
	}
	x, err := postgres.One[openedCourse](ctx, db, query, args...)
	if errors.Is(err, pgx.ErrNoRows) {
		return x, ErrUnknown
	}
	if err != nil {
		return x, fmt.Errorf("look what is opened: %w", err)
	}
	return x, nil
}

// open does something to the openings of what is opened, for which a form is right, and tells of it.
func (s *Service) open(ctx context.Context, what Opens, f *OpeningForm,
	do func(tx pgx.Tx, phrase string) error) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		x, err := s.openedCourse(ctx, tx, what, `for no key update of o`)
		if err != nil {
			return err
		}
		end, err := termEnd(x.LastDay, x.Zone)
		if err != nil {
			return err
		}
		if err := f.check(what, s.Clock.Now(), end); err != nil {
			return err
		}
		phrase := ""
		if f.Phrase != nil && *f.Phrase != "" {
			if phrase, err = passhash.Of(*f.Phrase); err != nil {
				return err
			}
		}
		if err := do(tx, phrase); err != nil {
			return err
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Rule, Course: x.CourseID,
			Recording: what.Recording})
	})
}

// namePeople names those for whom an opening is, in place of any before.
func (s *Service) namePeople(ctx context.Context, tx pgx.Tx, id uuid.UUID, f *OpeningForm) error {
	if f.Kind != ForPeople {
		return nil
	}
	const others = `delete from opening_person where opening_id = $1 and not (person_id = any($2))`
	if _, err := tx.Exec(ctx, others, id, f.People); err != nil {
		return fmt.Errorf("take someone from an opening: %w", err)
	}
	const name = `insert into opening_person (opening_id, person_id)
		select $1, p.id from person_account p where p.id = any($2) and not p.guest
		on conflict (opening_id, person_id) do update set turn = 1`
	tag, err := tx.Exec(ctx, name, id, f.People)
	if err != nil {
		return fmt.Errorf("name for whom an opening is: %w", err)
	}
	if tag.RowsAffected() == 0 {
		return fault.One("people", "opening.people")
	}
	return nil
}

// TakeBack takes an opening back, or with again gives it as it was. Its error is ErrUnknown.
func (s *Service) TakeBack(ctx context.Context, of Opens, id, by uuid.UUID, again bool) error {
	end := `update opening o set ended_at = case when $3 then null else $4::timestamptz end,
			ended_by = case when $3 then null else $5::uuid end
		where o.id = $1 and ` + opensIs("$2") + ` and (o.ended_at is null) <> $3`
	what := WasTakenBack
	if again {
		what = WasGivenAgain
	}
	return s.tellOpening(ctx, of, id, by, what, end, id, of.id(), again, s.Clock.Now(), by)
}

// Renew gives a link a new address: whoever came by the old one is out. Its error is ErrUnknown for no link.
func (s *Service) Renew(ctx context.Context, of Opens, id, by uuid.UUID) error {
	renew := `update opening o set turn = turn + 1 where o.id = $1 and ` + opensIs("$2") + `
		and o.ended_at is null and o.kind = 'link'`
	return s.tellOpening(ctx, of, id, by, WasRenewed, renew, id, of.id())
}

// tellOpening changes an opening by a statement, keeps what was done to it, and tells of it.
func (s *Service) tellOpening(ctx context.Context, of Opens, id, by uuid.UUID, what What, sql string,
	args ...any) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		x, err := s.openedCourse(ctx, tx, of, ``)
		if err != nil {
			return err
		}
		tag, err := tx.Exec(ctx, sql, args...)
		if err != nil {
			return fmt.Errorf("change an opening: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return ErrUnknown
		}
		if err := s.keepOpening(ctx, tx, id, by, what); err != nil {
			return err
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Rule, Course: x.CourseID, Recording: of.Recording})
	})
}
