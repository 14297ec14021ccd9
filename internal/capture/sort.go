package capture

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"latelantern/internal/core/event"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/postgres"
)

// sortFile finds out of which lecture a file is that came without one.
type sortFile struct {
	Track uuid.UUID `json:"track"`
}

// Kind names the job.
func (sortFile) Kind() string { return "sort_file" }

// InsertOpts says how it is queued.
func (sortFile) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Reading, MaxAttempts: 5}
}

// sort looks into a file that came whole, and takes it for the lecture that it is surely of.
// What is here already waits for a person, and so does what is of no lecture for sure.
func (s *Service) sort(ctx context.Context, in sortFile, _ bool) error {
	track := in.Track
	a, err := s.Arrival(ctx, track)
	if err != nil || a.LectureID != nil || a.PutAway {
		return err
	}
	var fault Fault
	h, err := s.look(ctx, track, File)
	if err != nil && !errors.As(err, &fault) {
		return fmt.Errorf("look into a file: %w", err)
	}
	twice, err := s.twice(ctx, track)
	if err != nil {
		return err
	}
	a.MadeAt, a.LengthMs, a.Words = orNever(h.probe.Made), h.probe.Duration.Milliseconds(), a.Words+" "+h.probe.Words
	// Nobody sees it sorted and not yet where it belongs.
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const keep = `update arrival
			set sorted_at = $2, fault = $3, made_at = $4, length_ms = $5, words = left($6, 2000)
			where track_id = $1 and sorted_at is null`
		if _, err := tx.Exec(ctx, keep, track, s.Clock.Now(), string(fault), a.MadeAt, a.LengthMs,
			a.Words); err != nil {
			return fmt.Errorf("keep what a file says of itself: %w", err)
		}
		if fault == "" && !twice && a.By != nil {
			course := uuid.Nil
			if a.CourseID != nil {
				course = *a.CourseID
			}
			matches, err := s.Timetable.Matches(ctx, *a.By, course, a.Evidence())
			if err != nil {
				return err
			}
			if len(matches) > 0 && matches[0].Sure {
				lecture, err := uuid.Parse(matches[0].ID)
				if err != nil {
					return fmt.Errorf("read which lecture a file is of: %w", err)
				}
				return s.place(ctx, tx, track, lecture, "itself", matches[0].By)
			}
		}
		by := uuid.Nil
		if a.By != nil {
			by = *a.By
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.File, Person: by, Track: track})
	})
}

// twice reports whether the file came before, as far as it can be known without reading all.
func (s *Service) twice(ctx context.Context, track uuid.UUID) (bool, error) {
	print, err := postgres.Value[[]byte](ctx, s.DB, `select fingerprint from track where id = $1`, track)
	if err != nil {
		return false, fmt.Errorf("read by what a file is known: %w", err)
	}
	if print == nil {
		return false, nil
	}
	found, err := s.Find(ctx, print)
	return slices.ContainsFunc(found, func(k Known) bool { return k.TrackID != track && !k.Deleted }), err
}

func orNever(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
}
