package remind

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/texts"
	"latelantern/internal/core/workflow"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/mail"
	"latelantern/internal/platform/postgres"
)

// Lectures is what is needed of recordings and what they wait for.
type Lectures interface {
	// Next is what a recording of a lecture waits for, and how it is called. One that is there no more waits for
	// nothing.
	Next(ctx context.Context, lecture, recording uuid.UUID) (step workflow.Step, title string, err error)
}

const (
	// readyAfter is how long after a capture has ended those who lecture are told: who is still at the desk sees it.
	readyAfter = 2 * time.Minute
	// readyFor is for how long it is told at all.
	readyFor = 12 * time.Hour
)

// captured is a recording of a capture that has ended.
type captured struct {
	RecordingID uuid.UUID
	LectureID   uuid.UUID
	CourseID    uuid.UUID
	Code        string
}

const capturedSQL = `select r.id as recording_id, r.lecture_id, l.course_id, k.code
	from recording r join lecture l on l.id = r.lecture_id join course k on k.id = l.course_id
	where r.deleted_at is null `

// endedSQL are those of captures that ended between two moments and of which nobody was told.
const endedSQL = capturedSQL + `and r.id in (select rc.recording_id from capture c
		join recording_capture rc on rc.capture_id = c.id
		where c.source <> 'file' and c.stopped_at between $1 and $2)
	and not exists (select 1 from ready_told x where x.recording_id = r.id)
	order by r.id`

// nextSteps are what one does next with a recording, as letters say it.
var nextSteps = map[workflow.Step]fault.Code{
	workflow.Trim:    "ready.trim",
	workflow.Title:   "ready.title",
	workflow.Rule:    "ready.rule",
	workflow.List:    "ready.playlist",
	workflow.LightUp: "ready.light",
	workflow.Publish: "ready.publish",
	workflow.Words:   "ready.words",
}

// LookReady writes to those who lecture when a capture of theirs can be watched and waits for something, or when
// nothing of it can be watched; once. It says of how many recordings.
func (s *Service) LookReady(ctx context.Context) (told int, err error) {
	if !s.Post.On() {
		return 0, nil
	}
	now := s.Clock.Now()
	list, err := postgres.All[captured](ctx, s.DB, endedSQL, now.Add(-readyFor), now.Add(-readyAfter))
	if err != nil {
		return 0, fmt.Errorf("look for captures that have ended: %w", err)
	}
	for _, x := range list {
		step, _, err := s.Lectures.Next(ctx, x.LectureID, x.RecordingID)
		if err != nil {
			return told, err
		}
		if !settled(step) {
			continue
		}
		wrote, err := s.tellReady(ctx, x, step)
		if err != nil {
			return told, fmt.Errorf("tell of a capture that can be watched: %w", err)
		}
		told += wrote
	}
	return told, nil
}

// settled reports whether it is known by now what becomes of a capture: a step is named, or nothing is left to do.
func settled(step workflow.Step) bool {
	_, named := nextSteps[step]
	return named || step == workflow.TryAgain || step == workflow.Done
}

// tellReady queues the letters of a recording, unless another process did, or it waits for nothing.
func (s *Service) tellReady(ctx context.Context, x captured, step workflow.Step) (told int, err error) {
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, `insert into ready_told (recording_id, made_at) values ($1, $2) on conflict do nothing`,
			x.RecordingID, s.Clock.Now())
		if err != nil || tag.RowsAffected() == 0 || step == workflow.Done {
			return err
		}
		// Whoever of the lecturers began it; of what began by itself, or by someone else, all of them.
		const who = `with own as (select m.person_id from membership m join capture c on c.started_by = m.person_id
				join recording_capture rc on rc.capture_id = c.id and rc.recording_id = $2
				where m.course_id = $1 and m.role = 'lecturer')
			select p.id from person_account p join membership m on m.person_id = p.id
			where m.course_id = $1 and m.role = 'lecturer' and p.email <> '' and not p.closed
			and (p.id in (select person_id from own) or not exists (select 1 from own))
			and not exists (select 1 from ready_wish w where w.person_id = p.id) order by p.id`
		people, err := postgres.Values[uuid.UUID](ctx, tx, who, x.CourseID, x.RecordingID)
		if err != nil {
			return fmt.Errorf("list who is written to: %w", err)
		}
		var letters []river.JobArgs
		for _, p := range people {
			letters = append(letters, sendReady{Recording: x.RecordingID, Person: p})
		}
		told = 1
		return s.Queue.AddAll(ctx, tx, letters)
	})
	return told, err
}

// sendReady is the job of writing to one person that a recording can be watched.
type sendReady struct {
	Recording uuid.UUID `json:"recording"`
	Person    uuid.UUID `json:"person"`
}

// Kind implements river.JobArgs.
func (sendReady) Kind() string { return "send_ready" }

// InsertOpts implements river.JobArgsWithInsertOpts.
func (sendReady) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Post, MaxAttempts: 5}
}

func (s *Service) sendReady(ctx context.Context, in sendReady, _ bool) error {
	x, err := postgres.One[captured](ctx, s.DB, capturedSQL+`and r.id = $1`, in.Recording)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil // it was taken away since
	}
	if err != nil {
		return fmt.Errorf("look up a recording: %w", err)
	}
	step, title, err := s.Lectures.Next(ctx, x.LectureID, x.RecordingID)
	if err != nil || !settled(step) || step == workflow.Done {
		return err // it was dealt with since
	}
	to, err := s.addressee(ctx, in.Person)
	if err != nil || to.Email == "" {
		return err
	}
	bench, account := fmt.Sprintf("%s/recordings/%s", s.Public, x.RecordingID), s.Public+"/account"
	subject := fault.Say("letter.ready", "course", x.Code, "title", title)
	text := fault.Say("letter.ready_text", "title", title, "next", fault.Say(nextSteps[step]), "bench", bench,
		"account", account)
	if step == workflow.TryAgain {
		subject = fault.Say("letter.unready", "course", x.Code, "title", title)
		text = fault.Say("letter.unready_text", "title", title, "bench", bench)
	}
	tongue := texts.Of(to.Language, s.Language)
	return s.Post.Send(ctx, mail.Letter{To: to.Email, Subject: tongue.Say(subject), Text: tongue.Say(text)})
}

// WantsReady says whether someone wants mail when a capture of theirs can be watched.
func (s *Service) WantsReady(ctx context.Context, person uuid.UUID) (bool, error) {
	const query = `select exists (select 1 from ready_wish where person_id = $1)`
	none, err := postgres.Value[bool](ctx, s.DB, query, person)
	if err != nil {
		return false, fmt.Errorf("read whether someone wants mail: %w", err)
	}
	return !none, nil
}

// SetWantsReady changes it.
func (s *Service) SetWantsReady(ctx context.Context, person uuid.UUID, wants bool) error {
	change := `insert into ready_wish (person_id) values ($1) on conflict do nothing`
	if wants {
		change = `delete from ready_wish where person_id = $1`
	}
	if _, err := s.DB.Exec(ctx, change, person); err != nil {
		return fmt.Errorf("keep whether someone wants mail: %w", err)
	}
	return nil
}
