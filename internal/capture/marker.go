package capture

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/platform/postgres"
)

// Marker is a moment that someone flagged while capturing, or a pause.
type Marker struct {
	At    time.Duration // on the clock of the capture, or of the recording where Markers gives it
	Pause time.Duration // how long the capture was paused there; 0 for a moment
	Word  string        // "" for none
}

// MaxWord is how many characters the word of a marker may have.
const MaxWord = 120

// Mark keeps a marker of the capture that a track belongs to. To keep the same one again
// changes its word. Its errors are ErrUnknown and fault.Faults.
func (s *Service) Mark(ctx context.Context, track, id, by uuid.UUID, m Marker) error {
	m.Word = strings.Join(strings.Fields(m.Word), " ")
	var wrong fault.Faults
	wrong.When(utf8.RuneCountInString(m.Word) > MaxWord, "word", "marker.word", "most", MaxWord)
	if err := wrong.Err(); err != nil {
		return err
	}
	var pause *int64
	if m.Pause > 0 {
		ms := max(1, m.Pause.Milliseconds())
		pause = &ms
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		b, err := s.begun(ctx, tx, track)
		if errors.Is(err, pgx.ErrNoRows) {
			return ErrUnknown
		}
		if err != nil {
			return fmt.Errorf("find the capture of a marker: %w", err)
		}
		const upsert = `insert into marker (id, capture_id, at_ms, pause_ms, word, made_by, made_at)
			values ($1, $2, $3, $4, $5, $6, $7)
			on conflict (id) do update set word = excluded.word where marker.capture_id = excluded.capture_id`
		tag, err := tx.Exec(ctx, upsert, id, b.Capture, max(0, m.At.Milliseconds()), pause, m.Word, by, s.Clock.Now())
		if err != nil {
			return fmt.Errorf("keep a marker: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return ErrTaken
		}
		return s.notify(ctx, tx, event.Recording, track)
	})
}

// Markers lists the markers of a recording in order, on its clock.
func (s *Service) Markers(ctx context.Context, recording uuid.UUID) ([]Marker, error) {
	type row struct {
		AtMs, PauseMs int64
		Word          string
	}
	const query = `select rc.start_ms + m.at_ms as at_ms, coalesce(m.pause_ms, 0) as pause_ms, m.word
		from recording_capture rc join marker m on m.capture_id = rc.capture_id
		where rc.recording_id = $1 and m.at_ms >= coalesce(rc.from_ms, 0)
		and (rc.until_ms is null or m.at_ms < rc.until_ms) order by 1, m.id`
	rows, err := postgres.All[row](ctx, s.DB, query, recording)
	if err != nil {
		return nil, fmt.Errorf("list the markers of a recording: %w", err)
	}
	var out []Marker
	for _, x := range rows {
		out = append(out,
			Marker{time.Duration(x.AtMs) * time.Millisecond, time.Duration(x.PauseMs) * time.Millisecond, x.Word})
	}
	return out, nil
}
