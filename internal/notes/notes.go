// Package notes keeps what people note for themselves at moments of recordings. Nobody else reads it, also not who
// teaches. A note lies on the clock of a capture, so that it keeps its moment through cuts, splits and joins.
package notes

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/layout"
	"latelantern/internal/core/plain"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// Service keeps notes. All its fields are needed. It may be used by many at once. A call whose context ends gives its
// error and has changed nothing.
type Service struct {
	DB         *pgxpool.Pool
	Clock      clock.Clock
	Recordings *recordings.Reader
}

const (
	// Longest is how many characters a note has at most.
	Longest = 4000
	// Most is how many notes somebody keeps of one capture at most.
	Most = 500
)

var (
	// ErrTaken says that a note of somebody else has this id.
	ErrTaken = fault.Code("note.taken")
	// ErrMany says that somebody keeps as many notes of a capture as they can.
	ErrMany = fault.Code("note.many")
	// ErrNothing says that nothing of a recording plays yet.
	ErrNothing = fault.Code("note.nothing")
)

// Note is what somebody noted.
type Note struct {
	ID   uuid.UUID
	At   time.Duration // on the clock of the recording
	Text string
	Kept time.Time // last
}

// Writing is a note that is written, or changed: that of the same id.
type Writing struct {
	ID        uuid.UUID // which whoever writes makes, so that it is kept once
	Person    uuid.UUID
	Recording uuid.UUID
	At        time.Duration // on the clock of the recording
	Text      string
}

// Keep keeps a note. Its error is ErrTaken, ErrMany, ErrNothing, or of type fault.Faults about the text.
func (s *Service) Keep(ctx context.Context, x Writing) error {
	text, err := plain.Text("text", x.Text, Longest)
	if err != nil {
		return err
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		pieces, err := s.Recordings.Layout(ctx, tx, x.Recording)
		if err != nil {
			return err
		}
		if len(pieces) == 0 {
			return ErrNothing
		}
		capture, at := local(pieces, x.At)
		// Of two at once that would make one too many the second waits for the first.
		if _, err := tx.Exec(ctx, `select 1 from person where id = $1 for no key update`, x.Person); err != nil {
			return fmt.Errorf("hold who writes a note: %w", err)
		}
		const keep = `insert into private_note as n (id, person_id, capture_id, at_ms, text, kept_at)
			select $1, $2, $3, $4, $5, $6 where exists (select 1 from private_note where id = $1)
				or (select count(*) from private_note where person_id = $2 and capture_id = $3) < $7
			on conflict (id) do update set capture_id = $3, at_ms = $4, text = $5, kept_at = $6 where n.person_id = $2`
		tag, err := tx.Exec(ctx, keep, x.ID, x.Person, capture, at.Milliseconds(), text,
			s.Clock.Now(), Most)
		if err != nil {
			return fmt.Errorf("keep a note: %w", err)
		}
		if tag.RowsAffected() > 0 {
			return nil
		}
		_, err = postgres.Value[uuid.UUID](ctx, tx, `select person_id from private_note where id = $1`, x.ID)
		switch {
		case err == nil:
			return ErrTaken
		case errors.Is(err, pgx.ErrNoRows):
			return ErrMany
		}
		return fmt.Errorf("look whose a note is: %w", err)
	})
}

// Remove removes a note of somebody; where there is none nothing happens.
func (s *Service) Remove(ctx context.Context, person, note uuid.UUID) error {
	if _, err := s.DB.Exec(ctx, `delete from private_note where id = $1 and person_id = $2`, note, person); err != nil {
		return fmt.Errorf("remove a note: %w", err)
	}
	return nil
}

// Of are the notes of somebody that lie in a recording, in order on its clock.
func (s *Service) Of(ctx context.Context, person, recording uuid.UUID) ([]Note, error) {
	type row struct {
		ID, CaptureID uuid.UUID
		AtMs          int64
		Text          string
		KeptAt        time.Time
	}
	pieces, err := s.Recordings.Layout(ctx, s.DB, recording)
	if err != nil {
		return nil, err
	}
	rows, err := postgres.All[row](ctx, s.DB, `select n.id, n.capture_id, n.at_ms, n.text, n.kept_at from private_note n
		where n.person_id = $1 and n.capture_id in
			(select capture_id from recording_capture where recording_id = $2) order by n.kept_at, n.id`,
		person, recording)
	if err != nil {
		return nil, fmt.Errorf("read notes: %w", err)
	}
	out := []Note{}
	for _, r := range rows {
		if at, ok := layout.Place(pieces, r.CaptureID, time.Duration(r.AtMs)*time.Millisecond); ok {
			out = append(out, Note{r.ID, at, r.Text, r.KeptAt})
		}
	}
	slices.SortStableFunc(out, func(a, b Note) int { return int(a.At - b.At) })
	return out, nil
}

// local is the capture in which a moment of a recording lies, and where on its clock. What lies in no piece stands at
// the end of the one before, or at the beginning of the first.
func local(pieces []layout.Shown, at time.Duration) (uuid.UUID, time.Duration) {
	in := pieces[0]
	for _, p := range pieces {
		if at >= p.At.Start {
			in = p
		}
	}
	at = min(max(at, in.At.Start), in.At.End-time.Millisecond) - in.Start
	// Never before it: a cut may lie between two milliseconds.
	return in.Capture, max(0, at+time.Millisecond-1).Truncate(time.Millisecond)
}
