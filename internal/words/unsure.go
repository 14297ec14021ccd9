package words

import (
	"context"
	"fmt"

	"github.com/google/uuid"

	"latelantern/internal/core/lattice"
	"latelantern/internal/core/span"
	"latelantern/internal/core/wording"
	"latelantern/internal/platform/postgres"
)

// doubt marks the words of lines of which their captioner was hardly sure, where nobody corrected them.
func (s *Service) doubt(ctx context.Context, q postgres.Querier, recording uuid.UUID, language string,
	lines []Line) error {
	const query = `select h.capture_id, h.start_ms, h.end_ms, h.word, h.share::float8 as share from heard h
		join caption p using (capture_id, language) join recording_capture rc using (capture_id)
		where rc.recording_id = $1 and h.language = $2 and p.drafted_by <> '' order by h.start_ms`
	rows, err := postgres.All[heardRow](ctx, q, query, recording, language)
	if err != nil {
		return fmt.Errorf("read how sure a captioner was: %w", err)
	}
	if len(rows) == 0 {
		return nil
	}
	pieces, err := s.Recordings.Layout(ctx, q, recording)
	if err != nil {
		return err
	}
	for _, p := range pieces {
		var heard []lattice.Heard
		for _, r := range rows {
			if r.CaptureID == p.Capture {
				heard = append(heard, r.heard(p.Start))
			}
		}
		for _, l := range lines {
			if l.Corrected || !p.At.Contains(l.Start) {
				continue
			}
			for n, w := range l.Words {
				l.Words[n].Unsure = unsure(heard, w.Text, w.Span)
			}
		}
	}
	return nil
}

// unsure reports whether a word as it is written was hardly heard so.
func unsure(heard []lattice.Heard, text string, at span.Span) bool {
	spoken := wording.Words(text)
	if len(spoken) != 1 || !wording.Carries(spoken[0]) {
		return false
	}
	share, ok := lattice.Share(heard, spoken[0], at)
	return ok && share < lattice.Unsure
}
