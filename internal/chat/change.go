package chat

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/chat"
	"latelantern/internal/core/fault"
	"latelantern/internal/platform/postgres"
)

// change does something to a line of a chat, which is counted and told. do may use $1 and $2, the line and its
// lecture, $3, the number of the change, and args from $4 on. Its error is ErrUnknown when do finds no line.
func (s *Service) change(ctx context.Context, lecture, line uuid.UUID, do string, args ...any) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		n, err := postgres.Value[int64](ctx, tx,
			`update chat set changes = changes + 1 where lecture_id = $1 returning changes`, lecture)
		if errors.Is(err, pgx.ErrNoRows) {
			return ErrUnknown
		}
		if err != nil {
			return fmt.Errorf("hold a chat: %w", err)
		}
		was, err := postgres.Values[bool](ctx, tx, `select shown from chat_line where id = $1`, line)
		if err != nil {
			return fmt.Errorf("read a line: %w", err)
		}
		type row struct {
			PersonID                    uuid.UUID
			ToTeachers, Shown, Answered bool
		}
		x, err := postgres.One[row](ctx, tx, do+` returning person_id, to_teachers, shown, answer <> '' as answered`,
			append([]any{line, lecture, n}, args...)...)
		if errors.Is(err, pgx.ErrNoRows) {
			return ErrUnknown
		}
		if err != nil {
			return fmt.Errorf("change a line: %w", err)
		}
		few := x.ToTeachers && !x.Shown && !slices.Contains(was, true)
		if err := s.tell(ctx, tx, lecture, few, x.PersonID); err != nil || few || !x.Answered {
			return err
		}
		// To who asked it is news, wherever they are.
		return s.tell(ctx, tx, lecture, true, x.PersonID)
	})
}

// Withdraw takes back what a person said themselves, or with back says it again. Its error is ErrUnknown for what
// another said.
func (s *Service) Withdraw(ctx context.Context, lecture, line, person uuid.UUID, back bool) error {
	return s.change(ctx, lecture, line, `update chat_line set change = $3,
		withdrawn_at = case when $5 then null else coalesce(withdrawn_at, $6::timestamptz) end
		where id = $1 and lecture_id = $2 and person_id = $4`, person, back, s.Clock.Now())
}

// Turn makes a question of what a person said themselves, or a line of their question that nobody has taken up. Its
// error is ErrUnknown for anything else.
func (s *Service) Turn(ctx context.Context, lecture, line, person uuid.UUID, question bool) error {
	return s.change(ctx, lecture, line, `update chat_line set change = $3,
		state = case when $5 then 'open' else '' end
		where id = $1 and lecture_id = $2 and person_id = $4 and state in ('', 'open') and not later`, person, question)
}

// TakeDown takes down what somebody said: it is kept, with who took it down and why, for those who teach. With back it
// stands again. Its error is of type fault.Faults, or ErrUnknown.
func (s *Service) TakeDown(ctx context.Context, lecture, line, by uuid.UUID, why string, back bool) error {
	why = strings.Join(strings.Fields(why), " ")
	if n := utf8.RuneCountInString(why); n > chat.MaxWhy {
		return fault.One("why", "chat.long", "most", chat.MaxWhy, "n", n)
	}
	if back {
		return s.change(ctx, lecture, line, `update chat_line set change = $3, taken_down_at = null,
			taken_down_by = null, taken_down_why = '' where id = $1 and lecture_id = $2`)
	}
	return s.change(ctx, lecture, line, `update chat_line set change = $3, taken_down_at = $4, taken_down_by = $5,
		taken_down_why = $6 where id = $1 and lecture_id = $2`, s.Clock.Now(), by, why)
}

// Word is what somebody who teaches says of a question.
type Word struct {
	State  chat.State // None makes a line of it
	Answer string     // in writing; "" for one that was given aloud, or none
	Shown  bool       // to all who may watch, of what was asked of a recording
}

// Mark keeps what somebody who teaches says of a question, or makes one of a line. An answer in writing answers it. Its
// error is of type fault.Faults, or ErrUnknown.
func (s *Service) Mark(ctx context.Context, lecture, line, by uuid.UUID, w Word) error {
	if !w.State.Valid() {
		return fault.One("state", "chat.state")
	}
	if strings.TrimSpace(w.Answer) != "" {
		text, err := chat.Clean("answer", w.Answer)
		if err != nil {
			return err
		}
		w.Answer, w.State = text, chat.Answered
	}
	who, at := &by, new(time.Time)
	if *at = s.Clock.Now(); w.State != chat.Answered {
		who, at, w.Answer, w.Shown = nil, nil, "", false
	}
	return s.change(ctx, lecture, line, `update chat_line set change = $3, state = $4, answer = $5, shown = $6,
		answered_by = $7::uuid, answered_at = $8::timestamptz, answer_seen = false
		where id = $1 and lecture_id = $2
		and (not later or $4 <> '')`, w.State, w.Answer, w.Shown, who, at)
}
