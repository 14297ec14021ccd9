package presence

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/presence"
	"latelantern/internal/platform/postgres"
)

// Brought is what became of the lines of a file.
type Brought struct {
	File   uuid.UUID // by which it is taken back
	Kept   int       // stand as the file says
	Stood  int       // stood so before
	ByHand int       // stay as somebody set them by hand
	Left   []LeftLine
}

// LeftLine is a line of a file that is not taken.
type LeftLine struct {
	Line int // in the file, from 1
	Who  string
	Why  fault.Code
}

// Bring keeps what a file says of the register of a lecture. What somebody set by hand stays, and so does whoever is
// there as it was reckoned, where the file says no more than that they were. Of two lines about the same person the
// later one counts. Its error is ErrUnknown for a lecture without a register.
func (s *Service) Bring(ctx context.Context, course, lecture, by uuid.UUID, said []presence.Said) (Brought, error) {
	out := Brought{File: uuid.Must(uuid.NewV7())}
	roll, err := s.Roll(ctx, course, lecture)
	if err != nil {
		return out, err
	}
	var seats presence.Seats
	for i, e := range roll.Entries {
		seats.Sit(i, e.Name, e.Email)
	}
	of := map[int]presence.Said{}
	for _, x := range said {
		n, err := seats.Find(x.Who)
		if code := fault.Code(""); errors.As(err, &code) {
			out.Left = append(out.Left, LeftLine{x.Line, x.Who, code})
			continue
		}
		of[n] = x
	}
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if err := hold(ctx, tx, lecture); err != nil {
			return err
		}
		for n, e := range roll.Entries {
			x, is := of[n]
			if !is {
				continue
			}
			if err := s.bring(ctx, tx, &out, lecture, by, e, x); err != nil {
				return err
			}
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Register, Course: course, Lecture: lecture})
	})
	return out, err
}

// bring keeps what a file says of one student.
func (s *Service) bring(ctx context.Context, tx pgx.Tx, out *Brought, lecture, by uuid.UUID, e Entry,
	x presence.Said) error {
	if _, err := seated(ctx, tx, lecture, e.Person); errors.Is(err, ErrUnknown) {
		return nil // taken off the course meanwhile
	} else if err != nil {
		return err
	}
	type mark struct {
		State             presence.State
		LateMin, EarlyMin int
		Reason            string
		ByFile            bool
	}
	was, err := postgres.All[mark](ctx, tx, `select state, late_min, early_min, reason, brought is not null as by_file
		from register_mark where lecture_id = $1 and person_id = $2 and ended_at is null`, lecture, e.Person)
	if err != nil {
		return fmt.Errorf("read what was said of a line: %w", err)
	}
	if x.State == presence.Unknown {
		x = presence.Said{State: presence.Present, Reason: x.Reason}
		if len(was) == 0 && e.Reckoned.State.There() {
			out.Stood++
			return nil
		}
	}
	now := mark{State: x.State, Reason: cut(x.Reason), ByFile: true}
	if x.State.CameLate() {
		now.LateMin = int(x.Late / time.Minute)
	}
	if x.State.WentEarly() {
		now.EarlyMin = int(x.Early / time.Minute)
	}
	reckoned := mark{State: e.Reckoned.State, LateMin: int(e.Reckoned.Late / time.Minute),
		EarlyMin: int(e.Reckoned.Early / time.Minute), ByFile: true}
	switch {
	case len(was) > 0 && !was[0].ByFile:
		out.ByHand++
		return nil
	case len(was) > 0 && was[0] == now, len(was) == 0 && reckoned == now:
		out.Stood++
		return nil
	}
	at := s.Clock.Now()
	if _, err := tx.Exec(ctx, `update register_mark set ended_at = $3, ended_by = $4 where lecture_id = $1
		and person_id = $2 and ended_at is null`, lecture, e.Person, at, out.File); err != nil {
		return fmt.Errorf("end what an earlier file said: %w", err)
	}
	const keep = `insert into register_mark (id, lecture_id, person_id, state, late_min, early_min, reason, made_by,
		made_at, brought) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)`
	if _, err := tx.Exec(ctx, keep, uuid.Must(uuid.NewV7()), lecture, e.Person, now.State, now.LateMin, now.EarlyMin,
		now.Reason, by, at, out.File); err != nil {
		return fmt.Errorf("keep what a file says of a line: %w", err)
	}
	out.Kept++
	return settle(ctx, tx, lecture, e.Person, at)
}

// hold has files that say something of the same lecture wait for each other.
func hold(ctx context.Context, tx pgx.Tx, lecture uuid.UUID) error {
	if _, err := tx.Exec(ctx, `select 1 from lecture where id = $1 for no key update`, lecture); err != nil {
		return fmt.Errorf("hold the register of a lecture: %w", err)
	}
	return nil
}

// cut is a reason of a file as it is kept: in one line, and not longer than one by hand may be.
func cut(reason string) string {
	runes := []rune(strings.Join(strings.Fields(strings.ToValidUTF8(reason, "")), " "))
	return string(runes[:min(len(runes), mostWords)])
}

// TakeBack takes back what a file said of a lecture: what stood before stands again, but where somebody set it by hand
// since. Its error is ErrUnknown for a file that said nothing of it.
func (s *Service) TakeBack(ctx context.Context, course, lecture, file uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if err := hold(ctx, tx, lecture); err != nil {
			return err
		}
		type row struct {
			PersonID uuid.UUID
			Stands   bool
		}
		rows, err := postgres.All[row](ctx, tx, `select person_id, ended_at is null as stands from register_mark
			where lecture_id = $1 and brought = $2`, lecture, file)
		if err != nil {
			return fmt.Errorf("read what a file said: %w", err)
		}
		if len(rows) == 0 {
			return ErrUnknown
		}
		var stands []uuid.UUID
		for _, r := range rows {
			if r.Stands {
				stands = append(stands, r.PersonID)
			}
		}
		if _, err := tx.Exec(ctx, `update register_mark set ended_at = coalesce(ended_at, $3), ended_by = null
			where lecture_id = $1 and brought = $2`, lecture, file, s.Clock.Now()); err != nil {
			return fmt.Errorf("end what a file said: %w", err)
		}
		if _, err := tx.Exec(ctx, `update register_mark set ended_at = null, ended_by = null where lecture_id = $1
			and ended_by = $2 and person_id = any($3)`, lecture, file, stands); err != nil {
			return fmt.Errorf("put back what stood before a file: %w", err)
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Register, Course: course, Lecture: lecture})
	})
}
