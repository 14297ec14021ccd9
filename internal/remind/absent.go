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
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/mail"
	"latelantern/internal/platform/postgres"
)

// ErrNotOn says that a lecture is not on, or that no mail is sent from here: nobody can be told to come.
var ErrNotOn = fault.Code("remind.not_on")

// onSQL is a lecture that is on at $2.
const onSQL = `select l.id, l.topic, k.code, k.title from lecture l join course k on k.id = l.course_id
	where l.id = $1 and l.called_off_at is null and $2 between l.starts_at and l.ends_at
	and not exists (select 1 from ended_class o where o.lecture_id = l.id and o.due_at <= $2)`

type on struct {
	ID                 uuid.UUID
	Topic, Code, Title string
}

// Absent writes to people that a lecture is on and that they are not there, to each once. It says to how many. Its
// error is ErrNotOn.
func (s *Service) Absent(ctx context.Context, lecture uuid.UUID, people []uuid.UUID) (told int, err error) {
	now := s.Clock.Now()
	if _, err := s.on(ctx, lecture, now); err != nil {
		return 0, err
	}
	if !s.Post.On() {
		return 0, ErrNotOn
	}
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const keep = `insert into absent_told (lecture_id, person_id, told_at)
			select $1, p.id, $3 from person_account p
			where p.id = any($2) and p.email <> '' and not p.closed order by p.id
			on conflict do nothing returning person_id`
		whom, err := postgres.Values[uuid.UUID](ctx, tx, keep, lecture, people, now)
		if err != nil {
			return fmt.Errorf("keep who is told to come: %w", err)
		}
		letters := make([]river.JobArgs, len(whom))
		for i, p := range whom {
			letters[i] = sendAbsent{Lecture: lecture, Person: p}
		}
		told = len(letters)
		return s.Queue.AddAll(ctx, tx, letters)
	})
	return told, err
}

// on is a lecture that is on. Its error is ErrNotOn for any other.
func (s *Service) on(ctx context.Context, lecture uuid.UUID, now time.Time) (on, error) {
	l, err := postgres.One[on](ctx, s.DB, onSQL, lecture, now)
	if errors.Is(err, pgx.ErrNoRows) {
		return l, ErrNotOn
	}
	if err != nil {
		return l, fmt.Errorf("look whether a lecture is on: %w", err)
	}
	return l, nil
}

// sendAbsent is the job of writing to one person that a lecture is on.
type sendAbsent struct {
	Lecture uuid.UUID `json:"lecture"`
	Person  uuid.UUID `json:"person"`
}

// Kind implements river.JobArgs.
func (sendAbsent) Kind() string { return "send_absent" }

// InsertOpts implements river.JobArgsWithInsertOpts.
func (sendAbsent) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Post, MaxAttempts: 5}
}

func (s *Service) sendAbsent(ctx context.Context, in sendAbsent, _ bool) error {
	l, err := s.on(ctx, in.Lecture, s.Clock.Now())
	if errors.Is(err, ErrNotOn) {
		return nil // it is over by now
	}
	if err != nil {
		return err
	}
	to, err := s.addressee(ctx, in.Person)
	if err != nil || to.Email == "" {
		return err
	}
	title := l.Topic
	if title == "" {
		title = l.Title
	}
	tongue := texts.Of(to.Language, s.Language)
	return s.Post.Send(ctx, mail.Letter{To: to.Email,
		Subject: tongue.Say(fault.Say("letter.absent", "course", l.Code, "title", title)),
		Text: tongue.Say(fault.Say("letter.absent_text", "course", l.Code, "title", title, "lecture",
			fmt.Sprintf("%s/lectures/%s", s.Public, l.ID)))})
}
