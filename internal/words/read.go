package words

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/slidetext"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/media"
	"latelantern/internal/platform/postgres"
)

// ReadSlides reads what stands on the slides of a track.
type ReadSlides struct {
	Track uuid.UUID `json:"track"`
}

// Kind names the job.
func (ReadSlides) Kind() string { return "read_slides" }

// InsertOpts says how it is queued.
func (ReadSlides) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Slides, MaxAttempts: 3, UniqueOpts: jobs.OneAtATime}
}

// readSlides reads one slide after another, with the least right to the processor.
func (s *Service) readSlides(ctx context.Context, in ReadSlides, last bool) error {
	type read struct {
		at          int64
		title, body string
	}
	var all []read
	err := s.Tracks.SlidesLarge(ctx, in.Track, func(at int64, picture io.Reader) error {
		// Blocks of tab-separated values: one a word, with its place and how sure it is.
		out, err := media.ToolOutput(ctx,
			media.Call{Name: "tesseract",
				Args: []string{"stdin", "stdout", "--psm", "3", "-c", "tessedit_create_tsv=1"}, Stdin: picture,
				Limit: time.Minute, Nice: 19})
		if err != nil {
			return err
		}
		title, body := slidetext.Read(string(out))
		all = append(all, read{at, title, body})
		return nil
	})
	switch {
	case errors.Is(err, media.ErrNoTool) || err != nil && last:
		// What cannot be read is not waited for.
		slog.Warn("slides cannot be read", "track", in.Track, "error", err)
		all = nil
	case err != nil:
		return fmt.Errorf("read slides: %w", err)
	}
	capture, err := postgres.Value[uuid.UUID](ctx, s.DB, `select capture_id from track where id = $1`, in.Track)
	if err != nil {
		return fmt.Errorf("find the capture of slides: %w", err)
	}
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `delete from slide_text where track_id = $1`, in.Track); err != nil {
			return fmt.Errorf("clear what stands on slides: %w", err)
		}
		for _, r := range all {
			if _, err := tx.Exec(ctx,
				`insert into slide_text (track_id, at_ms, title, body) values ($1, $2, $3, $4) on conflict do nothing`,
				in.Track, r.at, r.title, r.body); err != nil {
				return fmt.Errorf("keep what stands on a slide: %w", err)
			}
		}
		if _, err := tx.Exec(ctx,
			`insert into slides_read (track_id, read_at) values ($1, $2) on conflict (track_id)
				do update set read_at = excluded.read_at`, in.Track, s.Clock.Now()); err != nil {
			return fmt.Errorf("mark slides as read: %w", err)
		}
		return s.tellHolding(ctx, tx, capture)
	})
	if err != nil {
		return err
	}
	return s.proposeSubjects(ctx, capture)
}

// SlideText is what stands on a slide, on the clock of a recording.
type SlideText struct {
	At, Until   time.Duration // from when it stands, and until when
	Title, Body string
}

// Slides lists what stands on the slides of a recording, in order; slides of which nothing was read are left out.
func (s *Service) Slides(ctx context.Context, recording uuid.UUID) ([]SlideText, error) {
	return s.slides(ctx, s.DB, recording)
}

func (s *Service) slides(ctx context.Context, db postgres.Querier, recording uuid.UUID) ([]SlideText, error) {
	pieces, err := s.Recordings.Layout(ctx, db, recording)
	if err != nil {
		return nil, err
	}
	type row struct {
		TrackID     uuid.UUID
		AtMs        int64
		Title, Body string
	}
	const query = `select x.track_id, x.at_ms, x.title, x.body from slide_text x join track t on t.id = x.track_id
		join recording_capture rc on rc.capture_id = t.capture_id where rc.recording_id = $1
		order by x.track_id, x.at_ms`
	rows, err := postgres.All[row](ctx, db, query, recording)
	if err != nil {
		return nil, fmt.Errorf("read what stands on slides: %w", err)
	}
	var out []SlideText
	for _, p := range pieces {
		var of []row
		var moments []time.Duration
		for _, r := range rows {
			if r.TrackID == p.Track {
				of, moments = append(of, r), append(moments, p.Start+time.Duration(r.AtMs)*ms)
			}
		}
		for _, x := range (cutlist.Carrier{{Source: p.At, At: p.At.Start}}).Standing(moments) {
			if r := of[x.Of]; r.Title+r.Body != "" {
				out = append(out, SlideText{x.At.Start, x.At.End, r.Title, r.Body})
			}
		}
	}
	return out, nil
}

// Flat is what stands on a slide in one line.
func (x SlideText) Flat() string {
	return strings.ReplaceAll(strings.TrimSpace(x.Title+"\n"+x.Body), "\n", " · ")
}
