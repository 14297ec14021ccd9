package audience

import (
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/platform/passhash"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/platform/seal"
)

// ErrLink says that an address opens nothing: it never did, was taken back or renewed, or does not hold now.
var ErrLink = fault.Code("link.over")

// ErrFull says that as many came by a link as may.
var ErrFull = fault.Code("link.full")

// ErrWait says that a pass phrase was tried too often for now.
var ErrWait = fault.Code("link.wait")

// linkKey is the secret part of the address of a link. It is computed, not kept.
func (s *Service) linkKey(id uuid.UUID, turn int) string {
	return seal.Key(s.Secret, "opening", binary.BigEndian.AppendUint32(id[:], uint32(turn)))
}

// linked is the opening of a key.
type linked struct {
	ID          uuid.UUID
	Turn        int
	Phrase      string
	Most        *int
	RecordingID *uuid.UUID // of a link to one
	CourseID    uuid.UUID
}

// link is the opening that a key opens now, which is there as long as anything of it can be watched; lock is what is
// done to it. Its error is ErrLink.
func (s *Service) link(ctx context.Context, db postgres.Querier, key, lock string) (linked, error) {
	b, ok := seal.About(key, 16+4)
	if !ok || !seal.Opens(key, s.Secret, "opening", b) {
		return linked{}, ErrLink
	}
	id, turn := uuid.UUID(b[:16]), int(binary.BigEndian.Uint32(b[16:]))
	const query = `select o.id, o.turn, o.phrase, o.most, o.recording_id, c.course_id
		from opening o join opening_course c on c.opening_id = o.id
		where o.id = $1 and o.turn = $2 and o.kind = 'link' and o.ended_at is null `
	x, err := postgres.One[linked](ctx, db, query+lock, id, turn)
	if errors.Is(err, pgx.ErrNoRows) {
		return x, ErrLink
	}
	if err != nil {
		return x, fmt.Errorf("look up a link: %w", err)
	}
	const opens = `select o.id as opening_id, o.uses, null::timestamptz as shut_until, ` + ownColumns + `, ` +
		windowColumns + ownFrom + ` where o.id = $1 and r.deleted_at is null`
	rows, err := postgres.All[openedRow](ctx, db, opens, x.ID)
	if err != nil {
		return x, fmt.Errorf("look what a link opens: %w", err)
	}
	for _, row := range rows {
		if w, err := row.way(); err != nil || w.Decide(s.Clock.Now()).Watch() {
			return x, err
		}
	}
	return x, ErrLink
}

// Asks reports whether whoever comes by the link of a key is asked for a pass phrase. Its error is ErrLink.
func (s *Service) Asks(ctx context.Context, key string) (phrase bool, err error) {
	x, err := s.link(ctx, s.DB, key, "")
	return x.Phrase != "", err
}

// Coming is someone who comes by a link.
type Coming struct {
	Person uuid.UUID // who they are known as already; uuid.Nil for a stranger
	Name   string    // of a stranger, 1 to 200 characters
	Phrase string
}

// Let is who came by a link, and to what.
type Let struct {
	Person    uuid.UUID
	Recording uuid.UUID // uuid.Nil for a link to a playlist
	Opening   uuid.UUID
}

// Come lets someone in by the link of a key. Who comes again is counted once. Its error is ErrLink, ErrFull, ErrWait,
// or of type fault.Faults.
func (s *Service) Come(ctx context.Context, key string, who Coming) (let Let, err error) {
	who.Name = strings.Join(strings.Fields(who.Name), " ")
	var wrong error
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		x, err := s.link(ctx, tx, key, "for no key update of o")
		if err != nil {
			return err
		}
		if wrong, err = s.phrase(ctx, tx, x, who.Phrase); wrong != nil || err != nil {
			return err // what was tried is kept
		}
		if n := utf8.RuneCountInString(who.Name); who.Person == uuid.Nil && (n == 0 || n > 200) {
			return fault.One("name", "guest.name")
		}
		const there = `select count(*) from opening_person where opening_id = $1 and turn = $2 and person_id <> $3`
		others, err := postgres.Value[int](ctx, tx, there, x.ID, x.Turn, who.Person)
		if err != nil {
			return fmt.Errorf("count who came by a link: %w", err)
		}
		if x.Most != nil && others >= *x.Most {
			return ErrFull
		}
		let = Let{Person: who.Person, Recording: postgres.OrZero(x.RecordingID), Opening: x.ID}
		if let.Person == uuid.Nil {
			if let.Person, err = s.People.AddGuest(ctx, tx, who.Name); err != nil {
				return err
			}
		}
		const come = `insert into opening_person as c (opening_id, person_id, turn, came_at) values ($1, $2, $3, $4)
			on conflict (opening_id, person_id) do update set turn = $3,
			came_at = case when c.turn = $3 then c.came_at else $4 end`
		if _, err := tx.Exec(ctx, come, x.ID, let.Person, x.Turn, s.Clock.Now()); err != nil {
			return fmt.Errorf("let someone in by a link: %w", err)
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Rule, Course: x.CourseID, Recording: let.Recording})
	})
	return let, errors.Join(err, wrong)
}

// phrase says what is wrong with a pass phrase, or that it was tried too often. After five in vain each try is as far
// from the next as all before, up to a quarter of an hour; the clock is that of the database.
func (s *Service) phrase(ctx context.Context, tx pgx.Tx, x linked, phrase string) (wrong, err error) {
	if x.Phrase == "" {
		return nil, nil
	}
	if phrase == "" {
		return fault.One("phrase", "link.phrase"), nil
	}
	const waits = `select coalesce(failed_at + least(interval '15 minutes', interval '1 second' * power(2, failed - 5))
		> now() and failed >= 5, false) from opening where id = $1`
	wait, err := postgres.Value[bool](ctx, tx, waits, x.ID)
	if err != nil {
		return nil, fmt.Errorf("look how often a pass phrase was tried: %w", err)
	}
	if wait {
		return ErrWait, nil
	}
	const note = `update opening set failed = case when $2 then 0 else least(failed + 1, 30) end, failed_at = now()
		where id = $1`
	right := passhash.Matches(phrase, x.Phrase)
	if _, err := tx.Exec(ctx, note, x.ID, right); err != nil {
		return nil, fmt.Errorf("note that a pass phrase was tried: %w", err)
	}
	if !right {
		return fault.One("phrase", "link.wrong"), nil
	}
	return nil, nil
}
