package words

import (
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/chapter"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/postgres"
)

// Chapters are those of a recording, on its clock. ByHand says that a person kept them; otherwise
// they are what markers and slides propose for what is kept.
func (s *Service) Chapters(ctx context.Context, recording uuid.UUID, kept span.Set) (list []chapter.Chapter, byHand bool, err error) {
	if byHand, err = postgres.Value[bool](ctx, s.DB, `select chapters_at is not null from recording where id = $1`, recording); err != nil {
		return nil, false, fmt.Errorf("read whose chapters they are: %w", err)
	}
	type row struct {
		AtMs  int64
		Title string
	}
	read := func(query string) ([]chapter.Chapter, error) {
		rows, err := postgres.All[row](ctx, s.DB, query, recording)
		if err != nil {
			return nil, fmt.Errorf("read chapters: %w", err)
		}
		out := []chapter.Chapter{}
		for _, r := range rows {
			out = append(out, chapter.Chapter{At: time.Duration(r.AtMs) * ms, Title: r.Title})
		}
		return out, nil
	}
	const within = `>= coalesce(rc.from_ms, 0) and (rc.until_ms is null or x.at_ms < rc.until_ms) order by 1`
	if byHand {
		list, err = read(`select rc.start_ms + x.at_ms as at_ms, x.title from recording_capture rc join chapter x on x.capture_id = rc.capture_id where rc.recording_id = $1 and x.at_ms ` + within)
		return list, true, err
	}
	markers, err := read(`select rc.start_ms + x.at_ms as at_ms, x.word as title from recording_capture rc join marker x on x.capture_id = rc.capture_id where rc.recording_id = $1 and x.pause_ms is null and x.at_ms ` + within)
	if err != nil {
		return nil, false, err
	}
	slides, err := s.Slides(ctx, recording)
	if err != nil {
		return nil, false, err
	}
	var titles []chapter.Chapter
	for _, x := range slides {
		titles = append(titles, chapter.Chapter{At: x.At, Title: x.Title})
	}
	return chapter.Propose(markers, titles, kept), false, nil
}

// SetChapters keeps the chapters that a person wrote in place of those that were seen; with nil
// those that are proposed stand there again. Its errors are ErrChanged, when there are others by
// now, and fault.Faults.
func (s *Service) SetChapters(ctx context.Context, recording, by uuid.UUID, kept span.Set, length time.Duration, seen, list []chapter.Chapter) error {
	now, _, err := s.Chapters(ctx, recording, kept)
	if err != nil {
		return err
	}
	if !slices.Equal(now, seen) {
		return ErrChanged
	}
	list, err = chapter.Check(list, length)
	if err != nil {
		return err
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const keep = `update recording set chapters_at = case when $2 then $3::timestamptz end, chapters_by = case when $2 then $4::uuid end where id = $1`
		if _, err := tx.Exec(ctx, keep, recording, list != nil, s.Clock.Now(), by); err != nil {
			return fmt.Errorf("keep whose chapters they are: %w", err)
		}
		all, err := windows(ctx, tx, recording)
		if err != nil {
			return err
		}
		for _, w := range all {
			if _, err := tx.Exec(ctx, `delete from chapter where capture_id = $1 and at_ms >= $2 and at_ms < $3`, w.CaptureID, w.FromMs, w.UntilMs); err != nil {
				return fmt.Errorf("clear chapters: %w", err)
			}
		}
		for _, c := range list {
			at := c.At.Milliseconds()
			for _, w := range all {
				if local := at - w.StartMs; local >= w.FromMs && local < w.UntilMs {
					if _, err := tx.Exec(ctx, `insert into chapter (capture_id, at_ms, title) values ($1, $2, $3)`, w.CaptureID, local, c.Title); err != nil {
						return fmt.Errorf("keep a chapter: %w", err)
					}
					break
				}
			}
		}
		return s.tell(ctx, tx, recording)
	})
}
