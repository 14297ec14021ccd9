package recordings

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/layout"
	"latelantern/internal/platform/postgres"
)

// Layout tells of what a recording is made, piece by piece in order.
func (s *Reader) Layout(ctx context.Context, q postgres.Querier, recording uuid.UUID) ([]layout.Shown, error) {
	all, err := s.Layouts(ctx, q, []uuid.UUID{recording})
	return all[recording], err
}

// Layouts tells it of several recordings.
func (s *Reader) Layouts(ctx context.Context, q postgres.Querier, recordings []uuid.UUID) (
	map[uuid.UUID][]layout.Shown, error) {
	type row struct {
		RecordingID       uuid.UUID
		Capture, Track    uuid.UUID
		StartMs, PackedMs int64
		FromMs, UntilMs   *int64
	}
	const query = `select rc.recording_id, rc.capture_id as capture, t.id as track, rc.start_ms, t.packed_ms,
			rc.from_ms, rc.until_ms
		from recording_capture rc join capture c on c.id = rc.capture_id join track t on t.capture_id = c.id
		where rc.recording_id = any($1) and t.role = 'main' and t.state <> 'failed'
		order by rc.recording_id, c.started_at, c.id, rc.position`
	rows, err := postgres.All[row](ctx, q, query, recordings)
	if err != nil {
		return nil, fmt.Errorf("read the parts of a recording: %w", err)
	}
	out := map[uuid.UUID][]layout.Shown{}
	for len(rows) > 0 {
		id, n := rows[0].RecordingID, 1
		for n < len(rows) && rows[n].RecordingID == id {
			n++
		}
		parts := make([]layout.Part, n)
		for i, x := range rows[:n] {
			parts[i] = window(x.StartMs, x.FromMs, x.UntilMs, time.Duration(x.PackedMs)*time.Millisecond)
		}
		for _, p := range layout.Lay(parts) {
			x := rows[p.Part]
			out[id] = append(out[id], layout.Shown{Capture: x.Capture, Track: x.Track,
				Start: time.Duration(x.StartMs) * time.Millisecond, At: p.At})
		}
		rows = rows[n:]
	}
	return out, nil
}

// window is the part of a recording that a stretch of a capture of a length is.
func window(start int64, from, until *int64, length time.Duration) layout.Part {
	var p layout.Part
	if from != nil {
		p.From = time.Duration(*from) * time.Millisecond
	}
	if until != nil {
		length = min(length, time.Duration(*until)*time.Millisecond)
	}
	p.Start, p.Length = time.Duration(start)*time.Millisecond+p.From, max(0, length-p.From)
	return p
}

// Holding lists the recordings that hold some of a capture.
func (s *Reader) Holding(ctx context.Context, q postgres.Querier, capture uuid.UUID) ([]uuid.UUID, error) {
	const query = `select distinct recording_id from recording_capture where capture_id = $1 order by 1`
	out, err := postgres.Values[uuid.UUID](ctx, q, query, capture)
	if err != nil {
		return nil, fmt.Errorf("find the recordings of a capture: %w", err)
	}
	return out, nil
}

// CourseOf is the course of a recording, also of one that was joined to another. Its error is ErrUnknown.
func (s *Reader) CourseOf(ctx context.Context, recording uuid.UUID) (uuid.UUID, error) {
	id, err := postgres.Value[uuid.UUID](ctx, s.DB, `select course_id from release where recording_id = $1 and own`,
		recording)
	if errors.Is(err, pgx.ErrNoRows) {
		return id, ErrUnknown
	}
	if err != nil {
		return id, fmt.Errorf("find the course of a recording: %w", err)
	}
	return id, nil
}

// Shown tells whether anyone but those who teach it is shown a recording, and holds it. Its error is ErrUnknown.
func Shown(ctx context.Context, tx pgx.Tx, recording uuid.UUID) (bool, error) {
	const query = `select exists (select 1 from shown_recording where recording_id = r.id)
			or exists (select 1 from listed_recording where recording_id = r.id)
		from recording r where r.id = $1 for update`
	shown, err := postgres.Value[bool](ctx, tx, query, recording)
	if errors.Is(err, pgx.ErrNoRows) {
		return false, ErrUnknown
	}
	if err != nil {
		return false, fmt.Errorf("read whether a recording is shown: %w", err)
	}
	return shown, nil
}
