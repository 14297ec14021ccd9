package publication

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"latelantern/internal/core/chapter"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// makeCopy makes the copy of an edition that is taken away.
type makeCopy struct {
	Edition uuid.UUID `json:"edition"`
	About   []byte    `json:"about"` // what it says of itself, as metadata writes it; null for nothing
}

// Kind names the job.
func (makeCopy) Kind() string { return "make_copy" }

// InsertOpts says how it is queued. That it is made once is seen to by AskCopy, which holds the edition.
func (makeCopy) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Packing, MaxAttempts: 3}
}

// CopyState is how far the copy of an edition is. Its zero value is none.
type CopyState struct {
	State   string // "", making, ready, failed
	Percent int    // of it that is written
	Bytes   int64  // once it is ready
}

const copyStateSQL = `select copy_state as state, copy_percent as percent, copy_bytes as bytes from edition
	where id = $1 and state = 'ready'`

// CopyOf says how far the copy of an edition is. Its error is recordings.ErrUnknown for an edition that is not there.
func (s *Service) CopyOf(ctx context.Context, edition uuid.UUID) (CopyState, error) {
	c, err := postgres.One[CopyState](ctx, s.DB, copyStateSQL, edition)
	if errors.Is(err, pgx.ErrNoRows) {
		return c, recordings.ErrUnknown
	}
	if err != nil {
		return c, fmt.Errorf("read how far a copy is: %w", err)
	}
	return c, nil
}

// AskCopy has the copy of an edition made with chapters, unless it is there or under way, and says how far it is.
func (s *Service) AskCopy(ctx context.Context, edition uuid.UUID,
	chapters []chapter.Published) (out CopyState, err error) {
	about := metadata(chapters)
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		held, err := postgres.One[struct {
			State   string
			Percent int
			Bytes   int64
			About   []byte
		}](ctx, tx, `select copy_state as state, copy_percent as percent, copy_bytes as bytes, copy_about as about
			from edition where id = $1 and state = 'ready' for no key update`, edition)
		if errors.Is(err, pgx.ErrNoRows) {
			return recordings.ErrUnknown
		}
		if err != nil {
			return fmt.Errorf("hold an edition: %w", err)
		}
		out = CopyState{held.State, held.Percent, held.Bytes}
		if held.State == "making" || held.State == "ready" && bytes.Equal(held.About, digest(about)) {
			return nil
		}
		out = CopyState{State: "making"}
		const ask = `update edition set copy_state = 'making', copy_percent = 0, copy_about = $2 where id = $1`
		if _, err := tx.Exec(ctx, ask, edition, digest(about)); err != nil {
			return fmt.Errorf("ask for a copy: %w", err)
		}
		return s.Queue.Add(ctx, tx, makeCopy{Edition: edition, About: about})
	})
	return out, err
}

// OpenCopy opens the copy of an edition for reading. Its error is recordings.ErrNotReady while there is none.
func (s *Service) OpenCopy(ctx context.Context, edition uuid.UUID) (blobs.Blob, error) {
	const query = `select copy_about from edition where id = $1 and state = 'ready' and copy_state = 'ready'`
	about, err := postgres.Value[[]byte](ctx, s.DB, query, edition)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, recordings.ErrNotReady
	}
	if err != nil {
		return nil, fmt.Errorf("look for a copy: %w", err)
	}
	return s.Blobs.Open(copyKey(edition, about))
}

func (s *Service) makeCopy(ctx context.Context, in makeCopy, last bool) error {
	if there, err := s.standing(ctx, in.Edition); err != nil || !there {
		return err
	}
	edition, err := s.Edition(ctx, in.Edition)
	if err != nil {
		return err
	}
	said := time.Now()
	key, err := s.copyWith(ctx, in.Edition, in.About, func(done time.Duration) {
		if time.Since(said) < time.Second {
			return
		}
		said = time.Now()
		percent := min(99, int(100*done/max(edition.Length, time.Second)))
		// The next one says it, if this one cannot.
		_, _ = s.DB.Exec(ctx, `update edition set copy_percent = $2 where id = $1 and copy_state = 'making'`,
			in.Edition, percent)
	})
	if err != nil {
		if !last || ctx.Err() != nil {
			return err
		}
		_, failed := s.DB.Exec(ctx, `update edition set copy_state = 'failed' where id = $1`, in.Edition)
		return errors.Join(err, failed)
	}
	const keep = `update edition set copy_state = 'ready', copy_percent = 100, copy_bytes = $2, copy_about = $3
		where id = $1 and state = 'ready'`
	tag, err := s.DB.Exec(ctx, keep, in.Edition, s.Blobs.Size(key), digest(in.About))
	if err != nil {
		return fmt.Errorf("keep that a copy is made: %w", err)
	}
	if tag.RowsAffected() == 0 {
		return s.Forget(in.Edition) // it was removed meanwhile, and so is this
	}
	return nil
}
