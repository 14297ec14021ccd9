package presence

import (
	"context"
	"encoding/binary"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/fault"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/platform/seal"
)

const (
	// turns is how long a code is shown in the hall.
	turns = 20 * time.Second
	// codeSigns are those of which it is made: none is read for another.
	codeSigns = "CDFHJKLMNPRTVWXY347"
	// codeLong is how many of them it has.
	codeLong = 4
	// mostTries is how many codes that are none somebody can give within a minute.
	mostTries = 5
)

// ErrCode says that a code is not the one that is shown.
var ErrCode = fault.Code("register.code")

// ErrTries says that somebody gave too many codes that are none.
var ErrTries = fault.Code("register.tries")

// Code is the code that is shown in the hall of a lecture now, and until when. It is computed and kept nowhere.
func (s *Service) Code(lecture uuid.UUID) (code string, until time.Time) {
	now := s.Clock.Now()
	turn := now.UnixNano() / int64(turns)
	return s.code(lecture, turn), time.Unix(0, (turn+1)*int64(turns))
}

func (s *Service) code(lecture uuid.UUID, turn int64) string {
	key := seal.Of(s.Secret, "hall", lecture[:], binary.BigEndian.AppendUint64(nil, uint64(turn)))
	n := binary.BigEndian.Uint64(key)
	var out strings.Builder
	for range codeLong {
		out.WriteByte(codeSigns[n%uint64(len(codeSigns))])
		n /= uint64(len(codeSigns))
	}
	return out.String()
}

// SignIn has somebody be in the hall of a lecture, who gives the code that is shown there, or was until a moment ago.
// Its error is ErrCode or ErrTries.
func (s *Service) SignIn(ctx context.Context, lecture, person uuid.UUID, code string) error {
	now := s.Clock.Now()
	code = strings.ToUpper(strings.Join(strings.Fields(code), ""))
	turn := now.UnixNano() / int64(turns)
	right := code == s.code(lecture, turn) || code == s.code(lecture, turn-1)
	err := postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `select pg_advisory_xact_lock(hashtextextended($1, 25))`,
			lecture.String()+person.String()); err != nil {
			return fmt.Errorf("wait for another try: %w", err)
		}
		n, err := postgres.Value[int](ctx, tx, `select count(*) from hall_try
			where lecture_id = $1 and person_id = $2 and tried_at > $3`, lecture, person, now.Add(-time.Minute))
		if err != nil {
			return fmt.Errorf("count codes that are none: %w", err)
		}
		if n >= mostTries {
			return ErrTries
		}
		keep := `insert into hall_sign (lecture_id, person_id, signed_at) values ($1, $2, $3) on conflict do nothing`
		if !right {
			keep = `insert into hall_try (lecture_id, person_id, tried_at) values ($1, $2, $3)`
		}
		if _, err := tx.Exec(ctx, keep, lecture, person, now); err != nil {
			return fmt.Errorf("keep who is in the hall: %w", err)
		}
		if !right {
			return nil
		}
		course, err := postgres.Value[uuid.UUID](ctx, tx, `select course_id from lecture where id = $1`, lecture)
		if err != nil {
			return fmt.Errorf("find whom to tell: %w", err)
		}
		return tell(ctx, tx, course, lecture, person)
	})
	if err == nil && !right {
		err = ErrCode
	}
	return err
}

// InHall reports whether somebody gave the code of a lecture.
func (s *Service) InHall(ctx context.Context, lecture, person uuid.UUID) (bool, error) {
	in, err := postgres.Value[bool](ctx, s.DB,
		`select exists (select 1 from hall_sign where lecture_id = $1 and person_id = $2)`, lecture, person)
	if err != nil {
		return false, fmt.Errorf("look who is in the hall: %w", err)
	}
	return in, nil
}
