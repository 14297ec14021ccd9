package words

import (
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/lattice"
	"latelantern/internal/core/span"
	"latelantern/internal/core/wording"
	"latelantern/internal/platform/postgres"
)

// keepHeard adds words that may have been said in a capture to those that are kept.
func keepHeard(ctx context.Context, tx pgx.Tx, d Draft, list []lattice.Heard) error {
	columns := []string{"capture_id", "language", "start_ms", "end_ms", "word", "share"}
	_, err := tx.CopyFrom(ctx, pgx.Identifier{"heard"}, columns,
		pgx.CopyFromSlice(len(list), func(i int) ([]any, error) {
			h := list[i]
			return []any{d.Capture, d.Language, h.Start.Milliseconds(), h.End.Milliseconds(), h.Word, float32(h.Share)},
				nil
		}))
	if err != nil {
		return fmt.Errorf("keep what may have been said: %w", err)
	}
	return nil
}

// heardRow is a word that may have been said, on the clock of its capture.
type heardRow struct {
	CaptureID      uuid.UUID
	StartMs, EndMs int64
	Word           string
	Share          float64
}

// heard is that on a clock of which that of its capture begins at start.
func (r heardRow) heard(start time.Duration) lattice.Heard {
	at := span.Span{Start: start + time.Duration(r.StartMs)*ms, End: start + time.Duration(r.EndMs)*ms}
	return lattice.Heard{Span: at, Word: r.Word, Share: r.Share}
}

// mostHeard is how many places a search tells at most in which something may have been said.
const mostHeard = 100

// Perhaps is where something may have been said that is looked for, on the clock of a recording, the
// likeliest first: as the captioner heard it that drafted the captions, and where nobody has
// corrected them.
func (s *Service) Perhaps(ctx context.Context, recording uuid.UUID, language, text string) ([]lattice.Heard, error) {
	words := slices.DeleteFunc(wording.Words(text), func(w string) bool { return !wording.Carries(w) })
	if len(words) == 0 {
		return nil, nil
	}
	var patterns []string
	for _, w := range words {
		patterns = append(patterns, "%"+w+"%") // letters alone
	}
	const query = `select h.capture_id, h.start_ms, h.end_ms, h.word, h.share::float8 as share from heard h
		join caption p using (capture_id, language) join recording_capture rc using (capture_id)
		where rc.recording_id = $1 and h.language = $2 and h.word like any($3) and p.drafted_by <> ''
		and not exists (select 1 from cue q
		where q.capture_id = h.capture_id and q.language = h.language and q.corrected
		and q.start_ms <= (h.start_ms + h.end_ms) / 2 and q.end_ms > (h.start_ms + h.end_ms) / 2)
		order by h.start_ms`
	rows, err := postgres.All[heardRow](ctx, s.DB, query, recording, language, patterns)
	if err != nil {
		return nil, fmt.Errorf("read what may have been said: %w", err)
	}
	pieces, err := s.Recordings.Layout(ctx, s.DB, recording)
	if err != nil {
		return nil, err
	}
	var list []lattice.Heard
	for _, p := range pieces {
		for _, r := range rows {
			if x := r.heard(p.Start); r.CaptureID == p.Capture && p.At.Contains(x.Start) {
				list = append(list, x)
			}
		}
	}
	slices.SortStableFunc(list, func(a, b lattice.Heard) int { return int(a.Start - b.Start) })
	found := lattice.Find(list, words)
	return found[:min(len(found), mostHeard)], nil
}
