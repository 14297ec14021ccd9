package words

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/chapter"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/postgres"
)

// Chapters are those of a recording, on its clock.
type Chapters struct {
	List   []chapter.Chapter
	ByHand bool // a person kept them; otherwise they are what markers and slides propose for what is kept
	Unread bool // its slides are still being read, and may propose more
	Undo   bool // a change of them can be taken back
	Redo   bool // or made again
}

// Chapters are those of a recording of which some is kept.
func (s *Service) Chapters(ctx context.Context, recording uuid.UUID, kept span.Set) (Chapters, error) {
	return s.chapters(ctx, s.DB, recording, kept)
}

func (s *Service) chapters(ctx context.Context, db postgres.Querier, recording uuid.UUID, kept span.Set) (Chapters, error) {
	const about = `select chapters_at is not null as by_hand,
		exists (select 1 from recording_capture rc join track t using (capture_id) join strip x on x.track_id = t.id where rc.recording_id = r.id and x.read_at is null) as unread,
		exists (select 1 from chapter_change c where c.recording_id = r.id and c.undone_at is null) as undo,
		exists (select 1 from chapter_change c where c.recording_id = r.id and c.undone_at is not null) as redo from recording r where id = $1`
	type known struct{ ByHand, Unread, Undo, Redo bool }
	k, err := postgres.One[known](ctx, db, about, recording)
	if err != nil {
		return Chapters{}, fmt.Errorf("read whose chapters they are: %w", err)
	}
	out := Chapters{ByHand: k.ByHand, Unread: k.Unread && s.Reads, Undo: k.Undo, Redo: k.Redo}
	type row struct {
		AtMs  int64
		Title string
	}
	read := func(query string) ([]chapter.Chapter, error) {
		rows, err := postgres.All[row](ctx, db, query, recording)
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
	if out.ByHand {
		out.List, err = read(`select rc.start_ms + x.at_ms as at_ms, x.title from recording_capture rc join chapter x on x.capture_id = rc.capture_id where rc.recording_id = $1 and x.at_ms ` + within)
		return out, err
	}
	markers, err := read(`select rc.start_ms + x.at_ms as at_ms, x.word as title from recording_capture rc join marker x on x.capture_id = rc.capture_id where rc.recording_id = $1 and x.pause_ms is null and x.at_ms ` + within)
	if err != nil {
		return out, err
	}
	slides, err := s.slides(ctx, db, recording)
	if err != nil {
		return out, err
	}
	var titles []chapter.Chapter
	for _, x := range slides {
		titles = append(titles, chapter.Chapter{At: x.At, Title: x.Title})
	}
	out.List = chapter.Propose(markers, titles, kept)
	return out, nil
}
