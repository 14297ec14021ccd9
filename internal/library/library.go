// Package library keeps what is known of recordings, of which captures they are made, and those that were taken away.
package library

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/naming"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// Service keeps what recordings are: titles, parts, the bin. All its fields are needed. It may be used by many at
// once. A call whose context ends gives its error and has changed nothing.
type Service struct {
	DB         *pgxpool.Pool
	Clock      clock.Clock
	Recordings *recordings.Reader
	Releases   Releases
	Cuts       Cuts
	Editions   Editions
	Measures   Measures
	Positions  Positions
}

// Releases is what the library needs of what recordings are to courses.
type Releases interface {
	// Belong makes the course of the lecture of a recording the one that the recording belongs to.
	Belong(ctx context.Context, tx pgx.Tx, recording uuid.UUID) error
}

// Cuts is what it needs of what is struck.
type Cuts interface {
	// Shift moves all versions of the cuts of a recording on its clock.
	Shift(ctx context.Context, tx pgx.Tx, recording uuid.UUID, by time.Duration) error
	// Carry makes a version of the cuts of a recording that was put together anew.
	Carry(ctx context.Context, tx pgx.Tx, recording, by uuid.UUID, struck, led span.Set) error
	// TrimByItself strikes the ends of a recording that is measured, where its course says so.
	TrimByItself(ctx context.Context, tx pgx.Tx, recording uuid.UUID) error
}

// Positions is what it needs of where people stopped.
type Positions interface {
	// Shift moves them on the clock of a recording.
	Shift(ctx context.Context, tx pgx.Tx, recording uuid.UUID, by time.Duration) error
}

// Editions is what it needs of what is published.
type Editions interface {
	// Outdate sets the editions of a recording aside that do not hold what it is made of now.
	Outdate(ctx context.Context, tx pgx.Tx, recording uuid.UUID) error
	// Forget removes the bytes of an edition.
	Forget(edition uuid.UUID) error
}

// Measures is what it needs of what is measured.
type Measures interface {
	// Later has a track measured.
	Later(ctx context.Context, tx pgx.Tx, track uuid.UUID) error
	// Forget removes what was measured of a track.
	Forget(track uuid.UUID) error
}

// SetTitle keeps the title that a person gave. Its error can be shown when the title cannot be kept.
func (s *Service) SetTitle(ctx context.Context, id, by uuid.UUID, title string) error {
	clean, err := naming.Clean(title)
	if err != nil {
		return fmt.Errorf("%w: %w", ErrInvalid, err)
	}
	return s.change(ctx, id, `update recording set title = $2, titled_by = $3, titled_at = $4 where id = $1`, clean, by,
		s.Clock.Now())
}

// ErrInvalid says that a value cannot be kept; the error it wraps can be shown.
var ErrInvalid = fault.Code("library.invalid")

// MaxDescription is how many characters a description may have.
const MaxDescription = 4000

// SetDescription keeps what is said about the recording.
func (s *Service) SetDescription(ctx context.Context, id uuid.UUID, text string) error {
	if n := len([]rune(text)); n > MaxDescription {
		return fmt.Errorf("%w: %w", ErrInvalid, fault.Say("description.long", "most", MaxDescription, "n", n))
	}
	return s.change(ctx, id, `update recording set description = $2 where id = $1`, text)
}

func (s *Service) change(ctx context.Context, id uuid.UUID, sql string, args ...any) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, sql, append([]any{id}, args...)...)
		if err != nil {
			return fmt.Errorf("change a recording: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return recordings.ErrUnknown
		}
		return recordings.Tell(ctx, tx, event.Recording, id)
	})
}
