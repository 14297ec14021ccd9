package words

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/chapter"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/postgres"
)

// keptChapter is a chapter as it is kept: on the clock of its capture.
type keptChapter struct {
	CaptureID uuid.UUID `json:"capture"`
	AtMs      int64     `json:"at"`
	Title     string    `json:"title"`
}

// SetChapters keeps the chapters that a person wrote in place of those that were seen; with nil
// those that are proposed stand there again. It can be undone. Its errors are ErrChanged, when
// there are others by now, and fault.Faults.
func (s *Service) SetChapters(ctx context.Context, recording, by uuid.UUID, kept span.Set, length time.Duration, seen, list []chapter.Chapter) error {
	list, err := chapter.Check(list, length)
	if err != nil {
		return err
	}
	return s.changeChapters(ctx, recording, func(tx pgx.Tx, all []window) error {
		now, err := s.chapters(ctx, tx, recording, kept)
		if err != nil {
			return err
		}
		if !slices.Equal(now.List, seen) {
			return ErrChanged
		}
		var became []keptChapter
		if list != nil {
			became = []keptChapter{}
		}
		for _, c := range list {
			if w, ok := at(all, c.At); ok {
				became = append(became, keptChapter{w.CaptureID, c.At.Milliseconds() - w.StartMs, c.Title})
			}
		}
		was, err := keptChapters(ctx, tx, recording)
		if err != nil {
			return err
		}
		// What was undone cannot be made again over another change.
		if _, err := tx.Exec(ctx, `delete from chapter_change where recording_id = $1 and undone_at is not null`, recording); err != nil {
			return fmt.Errorf("forget undone changes: %w", err)
		}
		const insert = `insert into chapter_change (id, recording_id, was, became, made_by, made_at) values ($1, $2, $3, $4, $5, $6)`
		if _, err := tx.Exec(ctx, insert, uuid.Must(uuid.NewV7()), recording, was, became, who(by), s.Clock.Now()); err != nil {
			return fmt.Errorf("keep a change of chapters: %w", err)
		}
		return putChapters(ctx, tx, recording, who(by), s.Clock.Now(), all, became)
	})
}

// UndoChapters takes the last change of chapters back. Its errors are ErrNothing, and ErrChanged
// when they are no longer what it made of them.
func (s *Service) UndoChapters(ctx context.Context, recording, by uuid.UUID) error {
	const query = `select id, became as is, was as other from chapter_change where recording_id = $1 and undone_at is null order by id desc limit 1`
	return s.turnChapters(ctx, recording, by, query, `update chapter_change set undone_at = $2 where id = $1`)
}

// RedoChapters makes the change again that was taken back last.
func (s *Service) RedoChapters(ctx context.Context, recording, by uuid.UUID) error {
	const query = `select id, was as is, became as other from chapter_change where recording_id = $1 and undone_at is not null order by id limit 1`
	return s.turnChapters(ctx, recording, by, query, `update chapter_change set undone_at = null where id = $1 and $2::timestamptz is not null`)
}

func (s *Service) turnChapters(ctx context.Context, recording, by uuid.UUID, query, done string) error {
	return s.changeChapters(ctx, recording, func(tx pgx.Tx, all []window) error {
		var id uuid.UUID
		var is, other []byte
		err := tx.QueryRow(ctx, query, recording).Scan(&id, &is, &other)
		if errors.Is(err, pgx.ErrNoRows) {
			return ErrNothing
		}
		if err != nil {
			return fmt.Errorf("read a change of chapters: %w", err)
		}
		var from, to []keptChapter
		for _, x := range []struct {
			text []byte
			into *[]keptChapter
		}{{is, &from}, {other, &to}} {
			if x.text == nil {
				continue
			}
			if err := json.Unmarshal(x.text, x.into); err != nil {
				return fmt.Errorf("read a change of chapters: %w", err)
			}
		}
		now, err := keptChapters(ctx, tx, recording)
		if err != nil {
			return err
		}
		if (now == nil) != (from == nil) || !slices.Equal(now, within(from, all)) {
			return ErrChanged
		}
		if _, err := tx.Exec(ctx, done, id, s.Clock.Now()); err != nil {
			return fmt.Errorf("mark a change of chapters: %w", err)
		}
		return putChapters(ctx, tx, recording, who(by), s.Clock.Now(), all, to)
	})
}

// changeChapters does something while no one else changes the chapters of a recording.
func (s *Service) changeChapters(ctx context.Context, recording uuid.UUID, do func(tx pgx.Tx, all []window) error) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `select 1 from recording where id = $1 for update`, recording); err != nil {
			return fmt.Errorf("lock chapters: %w", err)
		}
		all, err := windows(ctx, tx, recording)
		if err != nil {
			return err
		}
		if err := do(tx, all); err != nil {
			return err
		}
		return s.tell(ctx, tx, recording)
	})
}

// keptChapters are those that a person kept in a recording, in order; nil when none did.
func keptChapters(ctx context.Context, tx pgx.Tx, recording uuid.UUID) ([]keptChapter, error) {
	const query = `select x.capture_id, x.at_ms, x.title from recording r join recording_capture rc on rc.recording_id = r.id join chapter x on x.capture_id = rc.capture_id
		where r.id = $1 and r.chapters_at is not null and x.at_ms >= coalesce(rc.from_ms, 0) and (rc.until_ms is null or x.at_ms < rc.until_ms) order by x.capture_id, x.at_ms`
	out, err := postgres.All[keptChapter](ctx, tx, query, recording)
	if err != nil {
		return nil, fmt.Errorf("read chapters as they are: %w", err)
	}
	byHand, err := postgres.Value[bool](ctx, tx, `select chapters_at is not null from recording where id = $1`, recording)
	if err != nil {
		return nil, fmt.Errorf("read whose chapters they are: %w", err)
	}
	if !byHand {
		return nil, nil
	}
	return append([]keptChapter{}, out...), nil
}

// within are those of chapters that lie in a recording as it is now, in the order in which they are read.
func within(list []keptChapter, all []window) []keptChapter {
	out := slices.DeleteFunc(slices.Clone(list), func(c keptChapter) bool {
		return !slices.ContainsFunc(all, func(w window) bool {
			return w.CaptureID == c.CaptureID && w.holds(c.AtMs)
		})
	})
	slices.SortFunc(out, func(a, b keptChapter) int {
		return cmp.Or(bytes.Compare(a.CaptureID[:], b.CaptureID[:]), cmp.Compare(a.AtMs, b.AtMs))
	})
	return out
}

// putChapters puts chapters in place of those that stand in a recording; nil leaves it to those
// that are proposed.
func putChapters(ctx context.Context, tx pgx.Tx, recording uuid.UUID, by *uuid.UUID, now time.Time, all []window, list []keptChapter) error {
	const keep = `update recording set chapters_at = case when $2 then $3::timestamptz end, chapters_by = case when $2 then $4::uuid end where id = $1`
	if _, err := tx.Exec(ctx, keep, recording, list != nil, now, by); err != nil {
		return fmt.Errorf("keep whose chapters they are: %w", err)
	}
	for _, w := range all {
		if _, err := tx.Exec(ctx, `delete from chapter where capture_id = $1 and at_ms >= $2 and at_ms < $3`, w.CaptureID, w.FromMs, w.UntilMs); err != nil {
			return fmt.Errorf("clear chapters: %w", err)
		}
	}
	for _, c := range within(list, all) {
		if _, err := tx.Exec(ctx, `insert into chapter (capture_id, at_ms, title) values ($1, $2, $3)`, c.CaptureID, c.AtMs, c.Title); err != nil {
			return fmt.Errorf("keep a chapter: %w", err)
		}
	}
	return nil
}
