package words

import (
	"context"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/caption"
	"latelantern/internal/core/naming"
	"latelantern/internal/platform/postgres"
)

// Take keeps the captions of a file in place of any there were in its language, as one change that
// can be undone. They come from people, so that they are shown from then on.
func (s *Service) Take(ctx context.Context, recording uuid.UUID, language string, by uuid.UUID,
	sheet caption.Sheet) error {
	if !naming.Language(language) {
		return invalid("language", "language", language)
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		heads, err := postgres.Value[[]byte](ctx, tx, headsSQL, recording, language)
		if err != nil {
			return fmt.Errorf("read what captions were: %w", err)
		}
		const begin = `insert into caption (capture_id, language, state, head, tail)
			select distinct capture_id, $2, 'ready', $3, $4 from recording_capture where recording_id = $1
			on conflict (capture_id, language)
			do update set state = 'ready', fault = '', drafted_by = '', head = excluded.head, tail = excluded.tail`
		if _, err := tx.Exec(ctx, begin, recording, language, sheet.Head, sheet.Tail); err != nil {
			return fmt.Errorf("keep captions: %w", err)
		}
		const look = `update caption
			set looked_at = coalesce(looked_at, $3), looked_by = coalesce(looked_by, $4),
			shown_at = coalesce(shown_at, $3), shown_by = coalesce(shown_by, $4)
			where language = $2 and capture_id in (select capture_id from recording_capture where recording_id = $1)`
		if _, err := tx.Exec(ctx, look, recording, language, s.Clock.Now(), who(by)); err != nil {
			return fmt.Errorf("keep captions: %w", err)
		}
		change, err := s.instead(ctx, tx, recording, language, sheet)
		if err != nil {
			return err
		}
		change.heads = heads
		return s.make(ctx, tx, recording, language, by, change)
	})
}

// instead is the change that puts a sheet in place of all lines, of those of which the recording
// shows nothing too.
func (s *Service) instead(ctx context.Context, tx pgx.Tx, recording uuid.UUID, language string,
	sheet caption.Sheet) (Change, error) {
	out := Change{Kind: "take"}
	all, err := windows(ctx, tx, recording)
	if err != nil {
		return out, err
	}
	for _, w := range all {
		rows, err := tx.Query(ctx,
			`select id from cue where capture_id = $1 and language = $2 and start_ms >= $3 and start_ms < $4`,
			w.CaptureID, language, w.FromMs, w.UntilMs)
		if err != nil {
			return out, fmt.Errorf("list lines: %w", err)
		}
		ids, err := pgx.CollectRows(rows, pgx.RowTo[uuid.UUID])
		if err != nil {
			return out, fmt.Errorf("list lines: %w", err)
		}
		out.Gone = append(out.Gone, ids...)
	}
	for _, c := range sheet.Cues {
		out.Put = append(out.Put, Line{c, uuid.Must(uuid.NewV7()), true})
	}
	return out, nil
}

// Sheet is the captions of a recording in a language as a file holds them.
func (s *Service) Sheet(ctx context.Context, recording uuid.UUID, language string) (caption.Sheet, error) {
	type ends struct{ Head, Tail string }
	e, err := postgres.All[ends](ctx, s.DB,
		`select head, tail from caption
			where language = $2 and capture_id in (select capture_id from recording_capture where recording_id = $1)
			order by capture_id`, recording, language)
	if err != nil {
		return caption.Sheet{}, fmt.Errorf("read captions: %w", err)
	}
	if len(e) == 0 {
		return caption.Sheet{}, ErrUnknown
	}
	lines, err := s.Lines(ctx, recording, language)
	if err != nil {
		return caption.Sheet{}, err
	}
	out := caption.Sheet{Head: e[0].Head, Tail: e[len(e)-1].Tail}
	for _, l := range lines {
		out.Cues = append(out.Cues, l.Cue)
	}
	return out, nil
}
