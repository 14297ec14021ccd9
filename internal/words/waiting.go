package words

import (
	"context"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/postgres"
)

// LookForWords is the job of looking for slides that nobody has read, and captures of which no
// captions were drafted.
type LookForWords struct{}

// Kind names the job.
func (LookForWords) Kind() string { return "look_for_words" }

// InsertOpts says how it is queued.
func (LookForWords) InsertOpts() river.InsertOpts { return jobs.Looking }

func (s *Service) lookForWords(ctx context.Context, _ LookForWords, _ bool) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if err := s.unread(ctx, tx); err != nil || s.Captioner == nil {
			return err
		}
		return s.undrafted(ctx, tx)
	})
}

// unread queues the slides that nobody has read.
func (s *Service) unread(ctx context.Context, tx pgx.Tx) error {
	if !s.Reads {
		return nil
	}
	const unread = `select s.track_id from strip s join track t on t.id = s.track_id where s.done and t.video
			and not exists (select 1 from slides_read y where y.track_id = s.track_id)
			and not exists (select 1 from job j
			where j.kind = 'read_slides' and j.args->>'track' = s.track_id::text and j.given_up) limit 20`
	rows, err := tx.Query(ctx, unread)
	if err != nil {
		return fmt.Errorf("list slides that nobody read: %w", err)
	}
	tracks, err := pgx.CollectRows(rows, pgx.RowTo[uuid.UUID])
	if err != nil {
		return fmt.Errorf("list slides that nobody read: %w", err)
	}
	for _, t := range tracks {
		if err := s.Queue.Add(ctx, tx, ReadSlides{Track: t}); err != nil {
			return err
		}
	}
	return nil
}

// undrafted queues captures of which no captions were drafted. The words of the slides help with
// what is said, so they are read first. What nobody speaks in has nothing to be drafted.
func (s *Service) undrafted(ctx context.Context, tx pgx.Tx) error {
	type wanted struct {
		CaptureID uuid.UUID
		Language  string
	}
	const undrafted = `select distinct t.capture_id, k.language from strip s
		join track t on t.id = s.track_id and t.role = 'main' and t.state = 'ready' and t.audio
			join recording_capture rc on rc.capture_id = t.capture_id
			join recording r on r.id = rc.recording_id and r.deleted_at is null
			join release e on e.recording_id = r.id and e.own join course_setting k on k.course_id = e.course_id
			where s.done
			and (not t.video or not $1 or exists (select 1 from slides_read y where y.track_id = s.track_id))
			and s.speech <> '{}' and k.drafts
			and not exists (select 1 from caption p where p.capture_id = t.capture_id and p.language = k.language)
			limit 20`
	list, err := postgres.All[wanted](ctx, tx, undrafted, s.Reads)
	if err != nil {
		return fmt.Errorf("list what is not drafted: %w", err)
	}
	for _, x := range list {
		if !s.Captioner.Speaks(x.Language) {
			continue
		}
		if err := s.queueDraft(ctx, tx, x.CaptureID, x.Language); err != nil {
			return err
		}
		if err := s.tellHolding(ctx, tx, x.CaptureID); err != nil {
			return err
		}
	}
	// A draft that was asked for just as the one before ended has no job yet.
	const forgotten = `select p.capture_id, p.language from caption p
		where p.state in ('waiting', 'making') and p.drafted_by <> ''
		and not exists (select 1 from job j
		where j.kind = 'draft_captions' and j.args->>'capture' = p.capture_id::text and j.args->>'language' = p.language
			and j.under_way) limit 20`
	if list, err = postgres.All[wanted](ctx, tx, forgotten); err != nil {
		return fmt.Errorf("list drafts without a job: %w", err)
	}
	for _, x := range list {
		if err := s.Queue.Add(ctx, tx, Draft{Capture: x.CaptureID, Language: x.Language}); err != nil {
			return err
		}
	}
	return nil
}
