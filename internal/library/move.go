package library

import (
	"context"
	"errors"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/platform/postgres"
)

// CourseOf is the course of a recording, also of one that was joined to another. Its error is ErrUnknown.
func (s *Service) CourseOf(ctx context.Context, recording uuid.UUID) (uuid.UUID, error) {
	id, err := postgres.Value[uuid.UUID](ctx, s.DB, `select l.course_id from recording r join lecture l on l.id = r.lecture_id where r.id = $1`, recording)
	if errors.Is(err, pgx.ErrNoRows) {
		return id, ErrUnknown
	}
	if err != nil {
		return id, fmt.Errorf("find the course of a recording: %w", err)
	}
	return id, nil
}

// ErrShown says that a recording stays at its lecture, since students are shown it.
var ErrShown = errors.New("it gives light, or stands in a playlist: darken it and take it out of the playlist first, then it can go to another lecture")

// Move takes a recording to another lecture. Its errors are ErrUnknown and, while it gives light
// or stands in a playlist, ErrShown.
func (s *Service) Move(ctx context.Context, tx pgx.Tx, recording, lecture uuid.UUID) error {
	shown, err := s.shown(ctx, tx, recording)
	if err != nil {
		return err
	}
	if shown {
		return ErrShown
	}
	if _, err := tx.Exec(ctx, `update recording set lecture_id = $2 where id = $1`, recording, lecture); err != nil {
		return fmt.Errorf("take a recording to another lecture: %w", err)
	}
	return s.Tell(ctx, tx, "recording", recording)
}

// shown tells whether students are shown a recording, and holds it. Its error is ErrUnknown.
func (s *Service) shown(ctx context.Context, tx pgx.Tx, recording uuid.UUID) (bool, error) {
	const query = `select exists (select 1 from publication where recording_id = r.id and darkened_at is null) or exists (select 1 from playlist_entry where recording_id = r.id)
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
