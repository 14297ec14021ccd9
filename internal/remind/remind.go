// Package remind tells people by mail what waits for them: that a lecture has begun and nobody captures it, that a
// capture of theirs can be watched, and what they missed of what was lit.
package remind

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/riverqueue/river"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/texts"
	"latelantern/internal/core/watchdog"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/mail"
	"latelantern/internal/platform/postgres"
)

// Service tells those who teach what they may have forgotten. All its fields are needed. It may be used by many at
// once. A call whose context ends gives its error and has changed nothing.
type Service struct {
	DB       *pgxpool.Pool
	Clock    clock.Clock
	Queue    *jobs.Queue
	Lectures Lectures
	Standing Standing
	Stops    Stops
	Post     mail.Post
	Public   string // address under which people reach the application, without a slash at its end
	Language string // in which those are written to who have chosen none
}

// Forgotten is a lecture that is on and is not captured.
type Forgotten struct {
	LectureID uuid.UUID
	CourseID  uuid.UUID
	Code      string
	Title     string // of the course
	Topic     string
	Hall      string // "" for none
	StartsAt  time.Time
	EndsAt    time.Time
	Zone      string
}

// forgottenSQL finds the lectures that are on at $1 and of which no capture has begun. When
// each was due is said by the core.
const forgottenSQL = `select l.id as lecture_id, l.course_id, c.code, c.title, l.topic, coalesce(h.name, '') as hall,
	l.starts_at, l.ends_at, t.zone
	from lecture l join course c on c.id = l.course_id join term t on t.id = c.term_id left
	join hall h on h.id = l.hall_id
	where l.starts_at <= $1 and l.ends_at > $1 and l.called_off_at is null and not l.unplanned
	and not exists (select 1 from capture x where x.lecture_id = l.id)
	and not exists (select 1 from ended_class o where o.lecture_id = l.id and o.due_at <= $1)`

func (s *Service) forgotten(ctx context.Context, more string, args ...any) ([]Forgotten, error) {
	now := s.Clock.Now()
	list, err := postgres.All[Forgotten](ctx, s.DB, forgottenSQL+more+` order by l.starts_at, c.code`,
		append([]any{now}, args...)...)
	if err != nil {
		return nil, fmt.Errorf("look for lectures that nobody captures: %w", err)
	}
	var out []Forgotten
	for _, f := range list {
		if watchdog.NotStarted(f.StartsAt, f.EndsAt, now) {
			out = append(out, f)
		}
	}
	return out, nil
}

// Of lists the forgotten lectures of the courses that a person teaches.
func (s *Service) Of(ctx context.Context, person uuid.UUID) ([]Forgotten, error) {
	return s.forgotten(ctx,
		` and exists (select 1 from membership m
			where m.course_id = l.course_id and m.person_id = $2 and m.role in ('lecturer', 'assistant'))`, person)
}

// Look writes to the lecturers of each forgotten lecture, and to the coordinators, once. It
// says of how many lectures.
func (s *Service) Look(ctx context.Context) (told int, err error) {
	list, err := s.forgotten(ctx,
		` and not exists (select 1 from reminder r where r.lecture_id = l.id and r.kind = 'not_started')`)
	if err != nil {
		return 0, err
	}
	for _, f := range list {
		err := postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
			tag, err := tx.Exec(ctx,
				`insert into reminder (lecture_id, kind, made_at) values ($1, 'not_started', $2)
					on conflict do nothing`, f.LectureID, s.Clock.Now())
			if err != nil || tag.RowsAffected() == 0 { // another process was first
				return err
			}
			told++
			if err := s.write(ctx, tx, f); err != nil {
				return err
			}
			return postgres.Notify(ctx, tx,
				postgres.Event{About: event.Reminder, Course: f.CourseID, Lecture: f.LectureID})
		})
		if err != nil {
			return told, fmt.Errorf("tell of a lecture that nobody captures: %w", err)
		}
	}
	return told, nil
}

// write queues a letter to everyone who can still do something.
func (s *Service) write(ctx context.Context, tx pgx.Tx, f Forgotten) error {
	if !s.Post.On() {
		return nil
	}
	const who = `select p.id from person p
		where p.email is not null
		and (p.coordinator
		or exists (select 1 from membership m where m.person_id = p.id and m.course_id = $1 and m.role = 'lecturer'))
		order by p.email`
	people, err := postgres.Values[uuid.UUID](ctx, tx, who, f.CourseID)
	if err != nil {
		return fmt.Errorf("list who is written to: %w", err)
	}
	var letters []river.JobArgs
	for _, p := range people {
		letters = append(letters, sendReminder{Lecture: f.LectureID, Person: p})
	}
	return s.Queue.AddAll(ctx, tx, letters)
}

// sendReminder is the job of writing to one person that a lecture is not captured.
type sendReminder struct {
	Lecture uuid.UUID `json:"lecture"`
	Person  uuid.UUID `json:"person"`
}

// Kind implements river.JobArgs.
func (sendReminder) Kind() string { return "send_reminder" }

// InsertOpts implements river.JobArgsWithInsertOpts.
func (sendReminder) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Post, MaxAttempts: 5}
}

func (s *Service) send(ctx context.Context, in sendReminder, _ bool) error {
	list, err := s.forgotten(ctx, ` and l.id = $2`, in.Lecture)
	if err != nil || len(list) == 0 { // it was started, called off, or is over
		return err
	}
	f := list[0]
	to, err := s.addressee(ctx, in.Person)
	if err != nil || to.Email == "" {
		return err
	}
	zone, err := time.LoadLocation(f.Zone)
	if err != nil {
		return fmt.Errorf("read the zone of a term: %w", err)
	}
	text := fault.Say("letter.forgotten_text", "course", f.Code, "title", f.Title, "at",
		fault.Hour{Time: f.StartsAt.In(zone)},
		"lecture", fmt.Sprintf("%s/lectures/%s", s.Public, f.LectureID))
	if f.Hall != "" {
		text.Code, text.With["hall"] = "letter.forgotten_in_text", f.Hall
	}
	tongue := texts.Of(to.Language, s.Language)
	return s.Post.Send(ctx, mail.Letter{
		To: to.Email, Subject: tongue.Say(fault.Say("letter.forgotten", "course", f.Code)),
		Text: tongue.Say(text),
	})
}

// addressee is where someone is written to and in which language.
type addressee struct{ Email, Language string }

// addressee looks someone up; it is the zero value for someone who is gone.
func (s *Service) addressee(ctx context.Context, person uuid.UUID) (addressee, error) {
	to, err := postgres.One[addressee](ctx, s.DB, `select email, language from person_account where id = $1`, person)
	if errors.Is(err, pgx.ErrNoRows) {
		return addressee{}, nil
	}
	if err != nil {
		return addressee{}, fmt.Errorf("look up a person: %w", err)
	}
	return to, nil
}

// LookJob is the job of looking for lectures that nobody captures, for captures that have ended, and for what was lit.
type LookJob struct{}

// Kind implements river.JobArgs.
func (LookJob) Kind() string { return "look_for_forgotten_lectures" }

// InsertOpts implements river.JobArgsWithInsertOpts.
func (LookJob) InsertOpts() river.InsertOpts { return jobs.Looking }

// Register adds the jobs of this package to kinds.
func (s *Service) Register(kinds *river.Workers) {
	// Soon: a letter that comes after the lecture is of no use.
	soon := func(int) time.Duration { return 20 * time.Second }
	jobs.Register(kinds, jobs.Kind[sendReminder]{Limit: time.Minute, Do: s.send, After: soon})
	jobs.Register(kinds, jobs.Kind[sendAbsent]{Limit: time.Minute, Do: s.sendAbsent, After: soon})
	jobs.Register(kinds, jobs.Kind[sendReady]{Limit: time.Minute, Do: s.sendReady})
	jobs.Register(kinds, jobs.Kind[sendMissed]{Limit: time.Minute, Do: s.sendMissed})
	jobs.Register(kinds, jobs.Kind[LookJob]{Limit: time.Minute, Do: func(ctx context.Context, _ LookJob, _ bool) error {
		_, err := s.Look(ctx)
		_, ready := s.LookReady(ctx)
		_, missed := s.LookMissed(ctx)
		return errors.Join(err, ready, missed)
	}})
}
