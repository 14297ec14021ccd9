package words

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/core/slidetext"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// proposeSubjects keeps what the recordings of a capture are about, as their slides say.
func (s *Service) proposeSubjects(ctx context.Context, capture uuid.UUID) error {
	all, err := s.Recordings.Holding(ctx, s.DB, capture)
	if err != nil {
		return err
	}
	for _, id := range all {
		subject, err := s.subject(ctx, id)
		if err != nil {
			return err
		}
		err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
			const keep = `insert into recording_words as w (recording_id, subject) values ($1, $2)
				on conflict (recording_id) do update set subject = excluded.subject where w.subject <> excluded.subject`
			tag, err := tx.Exec(ctx, keep, id, subject)
			if err != nil {
				return fmt.Errorf("keep what a recording is about: %w", err)
			}
			if tag.RowsAffected() == 0 {
				return nil
			}
			return recordings.Tell(ctx, tx, event.Recording, id)
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// subject is the title of the slide that stands when someone begins to speak, or else of the first after it.
func (s *Service) subject(ctx context.Context, recording uuid.UUID) (string, error) {
	pieces, err := s.Recordings.Layout(ctx, s.DB, recording)
	if err != nil || len(pieces) == 0 {
		return "", err
	}
	begins := time.Duration(0)
	speech, _, err := s.Tracks.Spoken(ctx, pieces[0].Track)
	switch spans := speech.Shift(pieces[0].Start).Intersect(span.Of(pieces[0].At)).Spans(); {
	case err != nil:
		return "", err
	case len(spans) > 0:
		begins = spans[0].Start
	}
	slides, err := s.Slides(ctx, recording)
	if err != nil {
		return "", err
	}
	for _, x := range slides {
		if x.Until > begins && slidetext.Tells(x.Title) {
			return x.Title, nil
		}
	}
	return "", nil
}
