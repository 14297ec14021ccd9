package words

import (
	"context"
	"errors"
	"fmt"
	"os"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"golang.org/x/sync/errgroup"

	"latelantern/internal/core/caption"
	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/captioner"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/media"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// Draft drafts the captions of a capture.
type Draft struct {
	Capture  uuid.UUID `json:"capture"`
	Language string    `json:"language"`
}

// Kind names the job.
func (Draft) Kind() string { return "draft_captions" }

// InsertOpts says how it is queued.
func (Draft) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Drafting, MaxAttempts: 5, UniqueOpts: jobs.OneAtATime}
}

func (s *Service) makeDraft(ctx context.Context, in Draft, last bool) error {
	err := s.draft(ctx, in)
	if err == nil || ctx.Err() != nil {
		return err
	}
	// What someone reads is a sentence of the catalogue; what the log has is all.
	why := fault.Code("draft.failed")
	switch {
	case errors.Is(err, media.ErrNoTool):
		why, last = "draft.no_tool", true
	case errors.Is(err, captioner.ErrDown):
		why = "draft.down"
	case errors.Is(err, captioner.ErrNonsense):
		why = "draft.nonsense"
	}
	state := waiting
	if last {
		state = failed
	}
	if err2 := s.setState(ctx, in, state, why); err2 != nil {
		return errors.Join(err, err2)
	}
	if last {
		return river.JobCancel(err)
	}
	return err
}

// setState keeps how far a draft is, as long as there is one to be made.
func (s *Service) setState(ctx context.Context, d Draft, state string, why fault.Code) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const update = `update caption set state = $3, fault = $4
			where capture_id = $1 and language = $2 and state in ('waiting', 'making')`
		tag, err := tx.Exec(ctx, update, d.Capture, d.Language, state, why)
		if err != nil {
			return fmt.Errorf("keep how far a draft is: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return nil
		}
		return s.tellHolding(ctx, tx, d.Capture)
	})
}

func (s *Service) tellHolding(ctx context.Context, tx pgx.Tx, capture uuid.UUID) error {
	all, err := s.Recordings.Holding(ctx, tx, capture)
	if err != nil {
		return err
	}
	for _, id := range all {
		if err := recordings.Tell(ctx, tx, event.Words, id); err != nil {
			return err
		}
	}
	return nil
}

const (
	mostPiece = 25 * time.Second // of one piece of sound
	atOnce    = 2                // batches of pieces
	batch     = time.Minute      // of sound, after which what was drafted is kept
)

// draft drafts what of a capture is not drafted yet, a batch after another, each kept as it is done.
func (s *Service) draft(ctx context.Context, d Draft) error {
	type begun struct {
		Track     uuid.UUID
		DraftedMs int64
	}
	const query = `select t.id as track, p.drafted_ms from caption p
		join track t on t.capture_id = p.capture_id and t.role = 'main'
		where p.capture_id = $1 and p.language = $2 and p.state in ('waiting', 'making') and p.drafted_by <> ''`
	at, err := postgres.One[begun](ctx, s.DB, query, d.Capture, d.Language)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil // it is not wanted any more
	}
	if err != nil {
		return fmt.Errorf("read what to draft: %w", err)
	}
	if s.Captioner == nil || !s.Captioner.Speaks(d.Language) {
		return s.setState(ctx, d, failed, "draft.language")
	}
	own, err := s.ownWords(ctx, d.Capture, d.Language)
	if err != nil {
		return err
	}
	speech, quiet, err := s.Tracks.Spoken(ctx, at.Track)
	if err != nil {
		return err
	}
	pieces := caption.Pieces(speech, quiet, mostPiece)
	pieces = slices.DeleteFunc(pieces, func(p span.Span) bool { return p.End.Milliseconds() <= at.DraftedMs })
	if len(pieces) > 0 {
		if err := s.begin(ctx, d, pieces[len(pieces)-1].End); err != nil {
			return err
		}
		sound, err := os.CreateTemp("", "voice")
		if err != nil {
			return fmt.Errorf("make room for sound: %w", err)
		}
		defer os.Remove(sound.Name())
		defer sound.Close()
		if err := s.Tracks.Voice(ctx, at.Track, sound); err != nil {
			return err
		}
		session, err := s.Captioner.Begin(ctx, own)
		if err != nil {
			return err
		}
		defer session.Close()
		for len(pieces) > 0 {
			n := 0
			if pieces, n, err = s.draftSome(ctx, d, sound, pieces, session); err != nil || n < 0 {
				return err
			}
		}
	}
	return s.setState(ctx, d, ready, "")
}

// begin says that a draft is being made, and how far it will go.
func (s *Service) begin(ctx context.Context, d Draft, to time.Duration) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const update = `update caption set state = 'making', fault = '', spoken_ms = $3
			where capture_id = $1 and language = $2 and state in ('waiting', 'making')`
		if _, err := tx.Exec(ctx, update, d.Capture, d.Language, to.Milliseconds()); err != nil {
			return fmt.Errorf("begin a draft: %w", err)
		}
		return s.tellHolding(ctx, tx, d.Capture)
	})
}

// draftSome drafts the next pieces, two batches at once, keeps their lines and gives the pieces
// that are left. n is negative when nobody wants the draft any more.
func (s *Service) draftSome(ctx context.Context, d Draft, sound *os.File, pieces []span.Span,
	session captioner.Session) (left []span.Span, n int, err error) {
	made := make([]captioner.Draft, atOnce)
	both, within := errgroup.WithContext(ctx)
	var until time.Duration
	for i := range atOnce {
		var some []captioner.Piece
		for long := time.Duration(0); len(pieces) > 0 && long < batch; pieces = pieces[1:] {
			p, err := cutOut(sound, pieces[0])
			if err != nil {
				return nil, 0, err
			}
			some, until = append(some, p), pieces[0].End
			long += pieces[0].Len()
		}
		if len(some) > 0 {
			both.Go(func() (err error) {
				made[i], err = session.Draft(within, some)
				return err
			})
		}
	}
	if err := both.Wait(); err != nil {
		return nil, 0, err
	}
	var all captioner.Draft
	for _, m := range made {
		all.Words, all.Heard = append(all.Words, m.Words...), append(all.Heard, m.Heard...)
	}
	n, err = s.keepDrafted(ctx, d, all, until)
	return pieces, n, err
}

// cutOut is a piece of a sound.
func cutOut(sound *os.File, at span.Span) (captioner.Piece, error) {
	offset := func(t time.Duration) int64 { return 2 * int64(t*captioner.Rate/time.Second) }
	b := make([]byte, offset(at.End)-offset(at.Start))
	n, err := sound.ReadAt(b, offset(at.Start))
	if n == 0 && err != nil {
		return captioner.Piece{At: at}, nil // speech was measured to the end of a window
	}
	return captioner.Piece{At: at, PCM: b[:n&^1]}, nil
}

func (s *Service) keepDrafted(ctx context.Context, d Draft, made captioner.Draft,
	until time.Duration) (n int, err error) {
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const update = `update caption set drafted_ms = $3 where capture_id = $1 and language = $2 and state = 'making'`
		tag, err := tx.Exec(ctx, update, d.Capture, d.Language, until.Milliseconds())
		if err != nil {
			return fmt.Errorf("keep a draft: %w", err)
		}
		if tag.RowsAffected() == 0 {
			n = -1
			return nil
		}
		var rows []row
		for _, c := range caption.FromWords(made.Words) {
			rows = append(rows, rowOf(Line{Cue: c, ID: uuid.Must(uuid.NewV7())}, d.Capture, 0))
		}
		if err := s.swap(ctx, tx, d.Language, nil, rows); err != nil {
			return err
		}
		if err := keepHeard(ctx, tx, d, made.Heard); err != nil {
			return err
		}
		return s.tellHolding(ctx, tx, d.Capture)
	})
	return n, err
}

// AskForDraft has the captions of a recording drafted, again if there is a draft that nobody
// corrected. Its error wraps ErrInvalid where there are words of people, which a draft would replace.
func (s *Service) AskForDraft(ctx context.Context, recording uuid.UUID, language string) error {
	if s.Captioner == nil || !s.Captioner.Speaks(language) {
		return invalid("draft.language")
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const people = `select exists (select 1 from caption p
			where p.language = $2 and p.capture_id in (select capture_id from recording_capture where recording_id = $1)
			and (p.drafted_by = ''
			or exists (select 1 from cue q
			where q.capture_id = p.capture_id and q.language = p.language and q.corrected)))`
		theirs, err := postgres.Value[bool](ctx, tx, people, recording, language)
		if err != nil {
			return fmt.Errorf("look at captions: %w", err)
		}
		if theirs {
			return invalid("draft.corrected")
		}
		rows, err := tx.Query(ctx,
			`select distinct rc.capture_id from recording_capture rc
				join track t on t.capture_id = rc.capture_id and t.role = 'main' and t.audio
				where rc.recording_id = $1`, recording)
		if err != nil {
			return fmt.Errorf("list what to draft: %w", err)
		}
		captures, err := pgx.CollectRows(rows, pgx.RowTo[uuid.UUID])
		if err != nil {
			return fmt.Errorf("list what to draft: %w", err)
		}
		if len(captures) == 0 {
			return invalid("draft.no_sound")
		}
		for _, c := range captures {
			if _, err := tx.Exec(ctx, `delete from caption where capture_id = $1 and language = $2`, c,
				language); err != nil {
				return fmt.Errorf("clear a draft: %w", err)
			}
			if err := s.queueDraft(ctx, tx, c, language); err != nil {
				return err
			}
		}
		return s.tell(ctx, tx, recording)
	})
}

func (s *Service) queueDraft(ctx context.Context, tx pgx.Tx, capture uuid.UUID, language string) error {
	const insert = `insert into caption (capture_id, language, state, drafted_by) values ($1, $2, 'waiting', $3)
		on conflict do nothing`
	if _, err := tx.Exec(ctx, insert, capture, language, s.Captioner.Name()); err != nil {
		return fmt.Errorf("ask for a draft: %w", err)
	}
	return s.Queue.Add(ctx, tx, Draft{Capture: capture, Language: language})
}
