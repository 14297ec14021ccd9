package words

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/chapter"
	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
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

// Carried are the chapters of a recording on the clock of what is published.
func (s *Service) Carried(ctx context.Context, r recordings.Recording, by cutlist.Carrier) ([]chapter.Published,
	error) {
	now, err := s.Chapters(ctx, r.ID, r.Kept())
	return chapter.Carry(now.List, by), err
}

func (s *Service) chapters(ctx context.Context, db postgres.Querier, recording uuid.UUID,
	kept span.Set) (Chapters, error) {
	about := `select exists (select 1 from recording_capture rc join track t using (capture_id)
		join strip x on x.track_id = t.id where rc.recording_id = r.id and t.video
			and not exists (select 1 from slides_read y where y.track_id = x.track_id)) as unread,
		` + undoable(`''`) + ` from recording r where id = $1`
	type known struct{ Unread, Undo, Redo bool }
	k, err := postgres.One[known](ctx, db, about, recording)
	if err != nil {
		return Chapters{}, fmt.Errorf("read what is known of chapters: %w", err)
	}
	out := Chapters{Unread: k.Unread && s.Reads, Undo: k.Undo, Redo: k.Redo}
	byHand, err := keptChapters(ctx, db, recording)
	if err != nil {
		return out, err
	}
	if out.ByHand = byHand != nil; out.ByHand {
		all, err := windows(ctx, db, recording)
		if err != nil {
			return out, err
		}
		out.List = []chapter.Chapter{}
		for _, c := range byHand {
			if w, ok := c.window(all); ok {
				out.List = append(out.List, chapter.Chapter{At: time.Duration(w.StartMs+c.AtMs) * ms, Title: c.Title})
			}
		}
		slices.SortFunc(out.List, func(a, b chapter.Chapter) int { return cmp.Compare(a.At, b.At) })
		return out, nil
	}
	const flagged = `select rc.start_ms + x.at_ms as at_ms, x.word as title from recording_capture rc
		join marker x on x.capture_id = rc.capture_id
		where rc.recording_id = $1 and x.pause_ms is null and x.at_ms >= coalesce(rc.from_ms, 0)
		and (rc.until_ms is null or x.at_ms < rc.until_ms) order by 1`
	rows, err := postgres.All[struct {
		AtMs  int64
		Title string
	}](ctx, db, flagged, recording)
	if err != nil {
		return out, fmt.Errorf("read markers: %w", err)
	}
	var markers []chapter.Chapter
	for _, r := range rows {
		markers = append(markers, chapter.Chapter{At: time.Duration(r.AtMs) * ms, Title: r.Title})
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
