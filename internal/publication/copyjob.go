package publication

import (
	"bytes"
	"cmp"
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

// CopyKind is what of an edition is taken away as one file.
type CopyKind string

const (
	CopyVideo CopyKind = "video" // all of it
	CopySmall CopyKind = "small" // the small copy of it, where there is one
	CopySound CopyKind = "sound" // its sound alone
)

// makeCopy makes a copy of an edition that is taken away.
type makeCopy struct {
	Edition uuid.UUID `json:"edition"`
	Of      CopyKind  `json:"of"`    // empty for all of it
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

// CopyOf says how far a copy of an edition is. Its error is recordings.ErrUnknown for an edition that is not there.
func (s *Service) CopyOf(ctx context.Context, edition uuid.UUID, kind CopyKind) (CopyState, error) {
	const query = `select coalesce(c.state, '') as state, coalesce(c.percent, 0) as percent,
			coalesce(c.bytes, 0) as bytes from edition e left join edition_copy c on c.edition_id = e.id and c.kind = $2
		where e.id = $1 and e.state = 'ready'`
	c, err := postgres.One[CopyState](ctx, s.DB, query, edition, kind)
	if errors.Is(err, pgx.ErrNoRows) {
		return c, recordings.ErrUnknown
	}
	if err != nil {
		return c, fmt.Errorf("read how far a copy is: %w", err)
	}
	return c, nil
}

// AskCopy has a copy of an edition made with chapters, unless it is there or under way, and says how far it is. Its
// error is recordings.ErrNotReady for one of a kind of which there is nothing.
func (s *Service) AskCopy(ctx context.Context, edition uuid.UUID, kind CopyKind,
	chapters []chapter.Published) (out CopyState, err error) {
	if _, err := s.copied(ctx, edition, kind); err != nil {
		return out, err
	}
	about := metadata(chapters)
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		// What stands of it is read when nobody else asks for it any more.
		const hold = `select id from edition where id = $1 and state = 'ready' for no key update`
		if _, err := postgres.Value[uuid.UUID](ctx, tx, hold, edition); errors.Is(err, pgx.ErrNoRows) {
			return recordings.ErrUnknown
		} else if err != nil {
			return fmt.Errorf("hold an edition: %w", err)
		}
		held, err := postgres.One[struct {
			CopyState
			About []byte
		}](ctx, tx, `select state, percent, bytes, about from edition_copy where edition_id = $1 and kind = $2`,
			edition, kind)
		if err != nil && !errors.Is(err, pgx.ErrNoRows) {
			return fmt.Errorf("read how far a copy is: %w", err)
		}
		out = held.CopyState
		if held.State == "making" || held.State == "ready" && bytes.Equal(held.About, digest(about)) {
			return nil
		}
		out = CopyState{State: "making"}
		const ask = `insert into edition_copy (edition_id, kind, state, about) values ($1, $2, 'making', $3)
			on conflict (edition_id, kind) do update set state = 'making', percent = 0, about = $3`
		if _, err := tx.Exec(ctx, ask, edition, kind, digest(about)); err != nil {
			return fmt.Errorf("ask for a copy: %w", err)
		}
		return s.Queue.Add(ctx, tx, makeCopy{Edition: edition, Of: kind, About: about})
	})
	return out, err
}

// OpenCopy opens a copy of an edition for reading. Its error is recordings.ErrNotReady while there is none.
func (s *Service) OpenCopy(ctx context.Context, edition uuid.UUID, kind CopyKind) (blobs.Blob, error) {
	const query = `select c.about from edition_copy c join edition e on e.id = c.edition_id
		where e.id = $1 and c.kind = $2 and e.state = 'ready' and c.state = 'ready'`
	about, err := postgres.Value[[]byte](ctx, s.DB, query, edition, kind)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, recordings.ErrNotReady
	}
	if err != nil {
		return nil, fmt.Errorf("look for a copy: %w", err)
	}
	return s.Blobs.Open(copyKey(edition, kind, about))
}

func (s *Service) makeCopy(ctx context.Context, in makeCopy, last bool) error {
	in.Of = cmp.Or(in.Of, CopyVideo)
	if there, err := s.standing(ctx, in.Edition); err != nil || !there {
		return err
	}
	edition, err := s.Edition(ctx, in.Edition)
	if err != nil {
		return err
	}
	said := time.Now()
	key, err := s.copyWith(ctx, in.Edition, in.Of, in.About, func(done time.Duration) {
		if time.Since(said) < time.Second {
			return
		}
		said = time.Now()
		percent := min(99, int(100*done/max(edition.Length, time.Second)))
		// The next one says it, if this one cannot.
		_, _ = s.DB.Exec(ctx, `update edition_copy set percent = $3
			where edition_id = $1 and kind = $2 and state = 'making'`, in.Edition, in.Of, percent)
	})
	if err != nil {
		if !last || ctx.Err() != nil {
			return err
		}
		_, failed := s.DB.Exec(ctx, `update edition_copy set state = 'failed' where edition_id = $1 and kind = $2`,
			in.Edition, in.Of)
		return errors.Join(err, failed)
	}
	const keep = `update edition_copy c set state = 'ready', percent = 100, bytes = $3, about = $4 from edition e
		where c.edition_id = $1 and c.kind = $2 and e.id = c.edition_id and e.state = 'ready'`
	tag, err := s.DB.Exec(ctx, keep, in.Edition, in.Of, s.Blobs.Size(key), digest(in.About))
	if err != nil {
		return fmt.Errorf("keep that a copy is made: %w", err)
	}
	if tag.RowsAffected() == 0 {
		return s.Forget(in.Edition) // it was removed meanwhile, and so is this
	}
	return nil
}
