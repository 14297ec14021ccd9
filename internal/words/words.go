// Package words holds what is said and written in recordings: their captions, in one language or
// several, the drafts of captions, what stands on slides, and the words of a course.
//
// Captions are kept on the clock of what was captured, so that neither a cut nor a split moves
// them; lines are given on the clock of a recording.
package words

import (
	"context"
	"fmt"
	"io"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/riverqueue/river"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/captioner"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// Tracks is what words need of what was measured.
type Tracks interface {
	// Spoken is where someone speaks in a track, and its moments of quiet.
	Spoken(ctx context.Context, track uuid.UUID) (speech span.Set, quiet []time.Duration, err error)
	// Voice writes the sound of a track as one channel of 16 kHz in 16 bits.
	Voice(ctx context.Context, track uuid.UUID, w io.Writer) error
	// SlidesLarge gives each slide of a track in its own size.
	SlidesLarge(ctx context.Context, track uuid.UUID, each func(at int64, picture io.Reader) error) error
}

// Service keeps captions, chapters and what stands on slides. All its fields but Captioner and Reads are needed. It
// may be used by many at once. A call whose context ends gives its error and has changed nothing.
type Service struct {
	DB         *pgxpool.Pool
	Queue      *jobs.Queue
	Clock      clock.Clock
	Recordings *recordings.Reader
	Tracks     Tracks
	Captioner  captioner.Captioner // nil for none: then nothing is drafted
	Reads      bool                // what stands on slides is read
}

// Register adds the jobs of this use-case.
func (s *Service) Register(kinds *river.Workers) {
	// A captioner that is down is given some minutes.
	later := func(n int) time.Duration { return time.Duration(n*n) * 2 * time.Minute }
	jobs.Register(kinds, jobs.Kind[Draft]{Limit: 12 * time.Hour, Do: s.makeDraft, After: later})
	jobs.Register(kinds, jobs.Kind[LookForWords]{Limit: time.Minute, Do: s.lookForWords})
	jobs.Register(kinds, jobs.Kind[ReadSlides]{Limit: 2 * time.Hour, Do: s.readSlides})
}

var (
	// ErrUnknown says that there are no such captions, or no such line.
	ErrUnknown = fault.Code("captions.unknown")
	// ErrNothing says that there is no change to take back, or to make again.
	ErrNothing = fault.Code("captions.no_change")
	// ErrChanged says that lines were changed by someone else meanwhile.
	ErrChanged = fault.Code("other_line")
	// ErrInvalid says that a value cannot be kept; the error it wraps can be shown.
	ErrInvalid = fault.Code("captions.invalid")
)

func invalid(code fault.Code, with ...any) error {
	return fmt.Errorf("%w: %w", ErrInvalid, fault.Say(code, with...))
}

// The states of a draft.
const (
	waiting = "waiting"
	making  = "making"
	ready   = "ready"
	failed  = "failed"
)

// Captions is what is known of the captions of a recording in one language.
type Captions struct {
	Language  string     // BCP 47
	State     string     // of its draft: waiting, making, ready, failed
	Fault     fault.Code // why it could not be made yet; "" for nothing
	DraftedBy string     // the name of the captioner; "" for what came otherwise
	Share     int        // per cent of the draft that is made
	Lines     int
	Corrected int
	Proposed  int  // lines for which readers proposed something else
	Looked    bool // someone has looked at all of it
	Shown     bool // those who watch may read it
	Undo      bool
	Redo      bool
}

// Draft tells whether nobody but a captioner stands for the words yet.
func (c Captions) Draft() bool { return c.DraftedBy != "" && !c.Looked }

var captionsSQL = `select p.language, case when bool_or(p.state = 'failed') then 'failed'
	when bool_or(p.state = 'making') then 'making' when bool_or(p.state = 'waiting') then 'waiting'
	else 'ready' end as state,
	max(p.fault) as fault, max(p.drafted_by) as drafted_by,
	coalesce(100 * sum(least(p.drafted_ms, p.spoken_ms)) / nullif(sum(p.spoken_ms), 0), 0)::int as share,
	coalesce(sum(n.lines), 0)::int as lines, coalesce(sum(n.corrected), 0)::int as corrected,
	(select count(distinct q.cue_id) from caption_proposal q join cue u on u.id = q.cue_id and u.text = q.seen
		where q.left_at is null and u.language = p.language
		and q.capture_id in (select capture_id from recording_capture where recording_id = $1)) as proposed,
	bool_and(p.looked_at is not null) as looked, bool_and(p.shown_at is not null) as shown,
	` + undoable(`p.language`) + `
	from caption p left
	join lateral (select count(*) as lines, count(*) filter (where q.corrected) as corrected from cue q
	where q.capture_id = p.capture_id and q.language = p.language) n on true
	where p.capture_id in (select capture_id from recording_capture where recording_id = $1)
	group by p.language order by p.language`

// Captions lists the captions of a recording, a language each.
func (s *Service) Captions(ctx context.Context, recording uuid.UUID) ([]Captions, error) {
	out, err := postgres.All[Captions](ctx, s.DB, captionsSQL, recording)
	if err != nil {
		return nil, fmt.Errorf("list captions: %w", err)
	}
	return out, nil
}

// Of is what is known of captions in one language. Its error is ErrUnknown for none.
func (s *Service) Of(ctx context.Context, recording uuid.UUID, language string) (Captions, error) {
	all, err := s.Captions(ctx, recording)
	if err != nil {
		return Captions{}, err
	}
	for _, c := range all {
		if c.Language == language {
			return c, nil
		}
	}
	return Captions{}, ErrUnknown
}

// Show lets those who watch read captions, or takes that back. Who lets them has looked at them.
func (s *Service) Show(ctx context.Context, recording uuid.UUID, language string, by uuid.UUID, shown bool) error {
	const show = `update caption
		set shown_at = $3, shown_by = $4, looked_at = coalesce(looked_at, $3), looked_by = coalesce(looked_by, $4)
		where language = $2 and capture_id in (select capture_id from recording_capture where recording_id = $1)`
	const hide = `update caption set shown_at = null, shown_by = null
		where language = $2 and capture_id in (select capture_id from recording_capture where recording_id = $1)`
	if shown {
		return s.mark(ctx, recording, show, recording, language, s.Clock.Now(), by)
	}
	return s.mark(ctx, recording, hide, recording, language)
}

// Look says that someone has looked at a draft, and leaves it what it is; or takes that back.
func (s *Service) Look(ctx context.Context, recording uuid.UUID, language string, by uuid.UUID, looked bool) error {
	const look = `update caption set looked_at = $3, looked_by = $4
		where language = $2 and capture_id in (select capture_id from recording_capture where recording_id = $1)`
	if !looked {
		return s.mark(ctx, recording, look, recording, language, nil, nil)
	}
	return s.mark(ctx, recording, look, recording, language, s.Clock.Now(), by)
}

func (s *Service) mark(ctx context.Context, recording uuid.UUID, sql string, args ...any) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, sql, args...)
		if err != nil {
			return fmt.Errorf("mark captions: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return ErrUnknown
		}
		return s.tell(ctx, tx, recording)
	})
}

// tell says that the words of a recording changed. Others that hold the same capture are told too.
func (s *Service) tell(ctx context.Context, tx pgx.Tx, recording uuid.UUID) error {
	rows, err := tx.Query(ctx,
		`select distinct o.recording_id from recording_capture rc join recording_capture o using (capture_id)
			where rc.recording_id = $1`, recording)
	if err != nil {
		return fmt.Errorf("find whom to tell: %w", err)
	}
	all, err := pgx.CollectRows(rows, pgx.RowTo[uuid.UUID])
	if err != nil {
		return fmt.Errorf("find whom to tell: %w", err)
	}
	for _, id := range all {
		if err := recordings.Tell(ctx, tx, event.Words, id); err != nil {
			return err
		}
	}
	return nil
}
