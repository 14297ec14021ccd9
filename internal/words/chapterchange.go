package words

import (
	"bytes"
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/chapter"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// keptChapter is a chapter as it is kept: on the clock of its capture.
type keptChapter struct {
	CaptureID uuid.UUID `json:"capture"`
	AtMs      int64     `json:"at"`
	Title     string    `json:"title"`
}

// window is where a chapter lies in a recording.
func (c keptChapter) window(all []window) (window, bool) {
	i := slices.IndexFunc(all, func(w window) bool { return w.CaptureID == c.CaptureID && w.holds(c.AtMs) })
	if i < 0 {
		return window{}, false
	}
	return all[i], true
}

// SetChapters keeps the chapters that a person wrote in place of those that were seen; with nil
// those that are proposed stand there again. It can be undone. Its errors are ErrChanged, when
// there are others by now, and fault.Faults.
func (s *Service) SetChapters(ctx context.Context, recording, by uuid.UUID, kept span.Set, length time.Duration,
	seen, list []chapter.Chapter) error {
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
		if err := s.keep(ctx, tx, topic{recording: recording}, by,
			record{kind: "chapters", was: was, became: became}); err != nil {
			return err
		}
		return putChapters(ctx, tx, recording, who(by), s.Clock.Now(), all, became)
	})
}

// UndoChapters takes the last change of chapters back. Its errors are ErrNothing, and ErrChanged
// when they are no longer what it made of them.
func (s *Service) UndoChapters(ctx context.Context, recording, by uuid.UUID) error {
	return s.turnChapters(ctx, recording, by, back)
}

// RedoChapters makes the change again that was taken back last.
func (s *Service) RedoChapters(ctx context.Context, recording, by uuid.UUID) error {
	return s.turnChapters(ctx, recording, by, again)
}

func (s *Service) turnChapters(ctx context.Context, recording, by uuid.UUID, to way) error {
	return s.changeChapters(ctx, recording, func(tx pgx.Tx, all []window) error {
		var is, other []keptChapter
		if _, err := s.turn(ctx, tx, topic{recording: recording}, to, &is, &other); err != nil {
			return err
		}
		now, err := keptChapters(ctx, tx, recording)
		if err != nil {
			return err
		}
		if (now == nil) != (is == nil) || !slices.Equal(now, within(is, all)) {
			return ErrChanged
		}
		return putChapters(ctx, tx, recording, who(by), s.Clock.Now(), all, other)
	})
}

// changeChapters does something while no one else changes the chapters of a recording.
func (s *Service) changeChapters(ctx context.Context, recording uuid.UUID,
	do func(tx pgx.Tx, all []window) error) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if err := recordings.Hold(ctx, tx, recording); err != nil {
			return err
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
func keptChapters(ctx context.Context, db postgres.Querier, recording uuid.UUID) ([]keptChapter, error) {
	const query = `select x.capture_id, x.at_ms, x.title from recorded r
		join recording_capture rc on rc.recording_id = r.id join chapter x on x.capture_id = rc.capture_id
		where r.id = $1 and r.chapters_at is not null and x.at_ms >= coalesce(rc.from_ms, 0)
		and (rc.until_ms is null or x.at_ms < rc.until_ms) order by x.capture_id, x.at_ms`
	out, err := postgres.All[keptChapter](ctx, db, query, recording)
	if err != nil {
		return nil, fmt.Errorf("read chapters as they are: %w", err)
	}
	byHand, err := postgres.Value[bool](ctx, db, `select chapters_at is not null from recorded where id = $1`,
		recording)
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
		_, ok := c.window(all)
		return !ok
	})
	slices.SortFunc(out, func(a, b keptChapter) int {
		return cmp.Or(bytes.Compare(a.CaptureID[:], b.CaptureID[:]), cmp.Compare(a.AtMs, b.AtMs))
	})
	return out
}

// putChapters puts chapters in place of those that stand in a recording; nil leaves it to those
// that are proposed.
func putChapters(ctx context.Context, tx pgx.Tx, recording uuid.UUID, by *uuid.UUID, now time.Time, all []window,
	list []keptChapter) error {
	const keep = `insert into recording_words (recording_id, chapters_at, chapters_by)
		values ($1, case when $2 then $3::timestamptz end, case when $2 then $4::uuid end)
		on conflict (recording_id) do update set chapters_at = excluded.chapters_at, chapters_by = excluded.chapters_by`
	if _, err := tx.Exec(ctx, keep, recording, list != nil, now, by); err != nil {
		return fmt.Errorf("keep whose chapters they are: %w", err)
	}
	for _, w := range all {
		if _, err := tx.Exec(ctx, `delete from chapter where capture_id = $1 and at_ms >= $2 and at_ms < $3`,
			w.CaptureID, w.FromMs, w.UntilMs); err != nil {
			return fmt.Errorf("clear chapters: %w", err)
		}
	}
	for _, c := range within(list, all) {
		if _, err := tx.Exec(ctx, `insert into chapter (capture_id, at_ms, title) values ($1, $2, $3)`, c.CaptureID,
			c.AtMs, c.Title); err != nil {
			return fmt.Errorf("keep a chapter: %w", err)
		}
	}
	return nil
}
