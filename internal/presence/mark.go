package presence

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
	"latelantern/internal/core/presence"
	"latelantern/internal/platform/postgres"
)

// ErrUnknown says that there is no such line in a register.
var ErrUnknown = fault.Code("register.unknown")

// mostWords is how many characters a reason, or what a student says, may have.
const mostWords = 400

// Rules are what a course calls late, early and there.
func (s *Service) Rules(ctx context.Context, course uuid.UUID) (presence.Rules, error) {
	type row struct{ LateMin, EarlyMin, Least int }
	x, err := postgres.One[row](ctx, s.DB, `select late_min, early_min, least from course_register where course_id = $1`,
		course)
	if errors.Is(err, pgx.ErrNoRows) {
		return presence.Usual, nil
	}
	if err != nil {
		return presence.Rules{}, fmt.Errorf("read what a course calls late: %w", err)
	}
	return presence.Rules{Late: time.Duration(x.LateMin) * time.Minute, Early: time.Duration(x.EarlyMin) * time.Minute,
		Least: x.Least}, nil
}

// SetRules keeps what a course calls late, early and there, in whole minutes. Its error is of type fault.Faults.
func (s *Service) SetRules(ctx context.Context, course uuid.UUID, r presence.Rules) error {
	var f fault.Faults
	late, early := int(r.Late/time.Minute), int(r.Early/time.Minute)
	f.When(late < 0 || late > presence.MostMinutes, "late_min", "register.minutes", "most", presence.MostMinutes)
	f.When(early < 0 || early > presence.MostMinutes, "early_min", "register.minutes", "most", presence.MostMinutes)
	f.When(r.Least < 0 || r.Least > 100, "least", "register.share")
	if err := f.Err(); err != nil {
		return err
	}
	const keep = `insert into course_register (course_id, late_min, early_min, least) values ($1, $2, $3, $4)
		on conflict (course_id) do update set late_min = $2, early_min = $3, least = $4`
	if _, err := s.DB.Exec(ctx, keep, course, late, early, r.Least); err != nil {
		return fmt.Errorf("keep what a course calls late: %w", err)
	}
	return nil
}

// MarkForm is what somebody who teaches says of a line.
type MarkForm struct {
	State       presence.State
	Late, Early time.Duration // in whole minutes, where the state has them
	Reason      string
}

// SetMark keeps what somebody who teaches says of the line of a student, in place of what they said before; nil takes
// that back. What a student said of it is settled by it. Its error is of type fault.Faults, or ErrUnknown for who is no
// student of the course of the lecture.
func (s *Service) SetMark(ctx context.Context, lecture, person, by uuid.UUID, m *MarkForm) error {
	if m != nil {
		var f fault.Faults
		m.Reason = strings.Join(strings.Fields(m.Reason), " ")
		f.When(!m.State.Valid(), "state", "register.state")
		n := utf8.RuneCountInString(m.Reason)
		f.When(n > mostWords, "reason", "chat.long", "most", mostWords, "n", n)
		const most = 12 * time.Hour
		f.When(m.Late < 0 || m.Late > most, "late_min", "register.minutes", "most", int(most/time.Minute))
		f.When(m.Early < 0 || m.Early > most, "early_min", "register.minutes", "most", int(most/time.Minute))
		if err := f.Err(); err != nil {
			return err
		}
		if !m.State.CameLate() {
			m.Late = 0
		}
		if !m.State.WentEarly() {
			m.Early = 0
		}
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		course, err := seated(ctx, tx, lecture, person)
		if err != nil {
			return err
		}
		now := s.Clock.Now()
		if _, err := tx.Exec(ctx, `update register_mark set ended_at = $3 where lecture_id = $1 and person_id = $2
			and ended_at is null`, lecture, person, now); err != nil {
			return fmt.Errorf("end a correction: %w", err)
		}
		if m != nil {
			const keep = `insert into register_mark (id, lecture_id, person_id, state, late_min, early_min, reason,
				made_by, made_at) values ($1, $2, $3, $4, $5, $6, $7, $8, $9)`
			if _, err := tx.Exec(ctx, keep, uuid.Must(uuid.NewV7()), lecture, person, m.State, int(m.Late/time.Minute),
				int(m.Early/time.Minute), m.Reason, by, now); err != nil {
				return fmt.Errorf("keep a correction: %w", err)
			}
			if err := settle(ctx, tx, lecture, person, now); err != nil {
				return err
			}
		}
		return tell(ctx, tx, course, lecture, person)
	})
}

// settle says that what a student said of a line was seen to.
func settle(ctx context.Context, tx pgx.Tx, lecture, person uuid.UUID, now time.Time) error {
	if _, err := tx.Exec(ctx, `update register_word set settled_at = coalesce(settled_at, $3)
		where lecture_id = $1 and person_id = $2`, lecture, person, now); err != nil {
		return fmt.Errorf("settle what a student said: %w", err)
	}
	return nil
}

// seated is the course of a lecture, of which a person is a student; two who say something of the same line wait for
// each other.
func seated(ctx context.Context, tx pgx.Tx, lecture, person uuid.UUID) (uuid.UUID, error) {
	course, err := postgres.Value[uuid.UUID](ctx, tx, `select m.course_id from membership m
		join lecture l on l.course_id = m.course_id
		where l.id = $1 and m.person_id = $2 and m.role = 'student' for no key update of m`, lecture, person)
	if errors.Is(err, pgx.ErrNoRows) {
		return course, ErrUnknown
	}
	if err != nil {
		return course, fmt.Errorf("look for a student of a lecture: %w", err)
	}
	return course, nil
}

// tell tells those who teach, and the student, that a line of a register changed.
func tell(ctx context.Context, tx pgx.Tx, course, lecture, person uuid.UUID) error {
	return postgres.Notify(ctx, tx,
		postgres.Event{About: event.Register, Course: course, Lecture: lecture, Person: person})
}

// Object keeps what a student says of their own line, in place of what they said before; "" takes it back. Its error is
// of type fault.Faults, or ErrUnknown.
func (s *Service) Object(ctx context.Context, lecture, person uuid.UUID, text string) error {
	text = strings.Join(strings.Fields(text), " ")
	if n := utf8.RuneCountInString(text); n > mostWords {
		return fault.One("text", "chat.long", "most", mostWords, "n", n)
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		course, err := seated(ctx, tx, lecture, person)
		if err != nil {
			return err
		}
		keep, args := `delete from register_word where lecture_id = $1 and person_id = $2`, []any{lecture, person}
		if text != "" {
			keep = `insert into register_word (lecture_id, person_id, text, said_at) values ($1, $2, $3, $4)
				on conflict (lecture_id, person_id) do update set text = $3, said_at = $4, settled_at = null`
			args = append(args, text, s.Clock.Now())
		}
		if _, err := tx.Exec(ctx, keep, args...); err != nil {
			return fmt.Errorf("keep what a student says of a register: %w", err)
		}
		return tell(ctx, tx, course, lecture, person)
	})
}

// Settle says that whoever teaches has looked at what a student says, or takes that back.
func (s *Service) Settle(ctx context.Context, lecture, person uuid.UUID, settled bool) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		course, err := seated(ctx, tx, lecture, person)
		if err != nil {
			return err
		}
		tag, err := tx.Exec(ctx, `update register_word set settled_at = case when $3 then $4::timestamptz end
			where lecture_id = $1 and person_id = $2`, lecture, person, settled, s.Clock.Now())
		if err != nil {
			return fmt.Errorf("settle what a student said: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return ErrUnknown
		}
		return tell(ctx, tx, course, lecture, person)
	})
}
