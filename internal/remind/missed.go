package remind

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/span"
	"latelantern/internal/core/texts"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/mail"
	"latelantern/internal/platform/postgres"
)

// Standing knows what people have to catch up.
type Standing interface {
	// Missed is what each of those of a course who can watch a recording, or one of them, still has to catch up of it,
	// on the clock of what is published; who has nothing to is left out. known is false as long as nobody of them can
	// watch it, or it is known of none of them that they were there.
	Missed(ctx context.Context, course, recording uuid.UUID, only *uuid.UUID) (missed map[uuid.UUID]span.Set,
		known bool, err error)
}

// Stops makes the secret part of the address under which someone stops mail without signing in.
type Stops interface{ StopKey(person uuid.UUID) string }

const (
	// missedAfter is how long after a recording was lit those who missed it are told: it can be darkened again.
	missedAfter = 10 * time.Minute
	// missedFor is for how long it is looked whether they can watch it by then.
	missedFor = 14 * 24 * time.Hour
	// missedAgain is how long after that was looked for once it is again.
	missedAgain = time.Hour
)

// RemindsMissed tells whether a course reminds those who were not there of what they missed. It does not unless it was
// said.
func (s *Service) RemindsMissed(ctx context.Context, course uuid.UUID) (bool, error) {
	on, err := postgres.Value[bool](ctx, s.DB,
		`select exists (select 1 from missed_reminders where course_id = $1 and since is not null)`, course)
	if err != nil {
		return false, fmt.Errorf("read whether those who missed a lecture are reminded: %w", err)
	}
	return on, nil
}

// SetRemindsMissed changes that; of what was lit before nobody is reminded.
func (s *Service) SetRemindsMissed(ctx context.Context, course uuid.UUID, on bool) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const keep = `insert into missed_reminders (course_id, since) values ($1, case when $2 then $3::timestamptz end)
			on conflict (course_id) do update
			set since = case when $2 then coalesce(missed_reminders.since, excluded.since) end`
		if _, err := tx.Exec(ctx, keep, course, on, s.Clock.Now()); err != nil {
			return fmt.Errorf("keep whether those who missed a lecture are reminded: %w", err)
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Timetable, Course: course})
	})
}

// CarryCourse has a course remind as another does, as a part of tx, unless it says already whether.
func (s *Service) CarryCourse(ctx context.Context, tx pgx.Tx, from, to uuid.UUID) error {
	const carry = `insert into missed_reminders (course_id, since)
		select $2, case when since is not null then $3::timestamptz end from missed_reminders where course_id = $1
		on conflict do nothing`
	if _, err := tx.Exec(ctx, carry, from, to, s.Clock.Now()); err != nil {
		return fmt.Errorf("carry whether those who missed a lecture are reminded: %w", err)
	}
	return nil
}

// lit is a recording that was lit for a course.
type lit struct{ CourseID, RecordingID uuid.UUID }

// LookMissed writes to those who missed something of what was lit for a course that wants it, each once for each
// recording. It says to how many.
func (s *Service) LookMissed(ctx context.Context) (told int, err error) {
	if !s.Post.On() {
		return 0, nil
	}
	const query = `select x.course_id, x.recording_id from released x
		join missed_reminders m on m.course_id = x.course_id and x.lit_at >= m.since
		join recording r on r.id = x.recording_id and r.deleted_at is null
		where x.lit and x.lit_at between $1 and $2
		and not exists (select 1 from missed_looked d
			where d.course_id = x.course_id and d.recording_id = x.recording_id and (d.done or d.looked_at > $3))
		order by x.lit_at, x.recording_id, x.course_id limit 100`
	now := s.Clock.Now()
	list, err := postgres.All[lit](ctx, s.DB, query, now.Add(-missedFor), now.Add(-missedAfter),
		now.Add(-missedAgain))
	if err != nil {
		return 0, fmt.Errorf("look for what was lit: %w", err)
	}
	for _, x := range list {
		missed, known, err := s.Standing.Missed(ctx, x.CourseID, x.RecordingID, nil)
		if err != nil {
			return told, err
		}
		n, err := s.tellMissed(ctx, x, missed, known)
		if err != nil {
			return told, fmt.Errorf("tell who missed a lecture: %w", err)
		}
		told += n
	}
	return told, nil
}

// tellMissed queues the letters of a recording, unless another process did; as long as nothing is known it notes that
// it was looked.
func (s *Service) tellMissed(ctx context.Context, x lit, missed map[uuid.UUID]span.Set, known bool) (told int,
	err error) {
	people := make([]uuid.UUID, 0, len(missed))
	for p := range missed {
		people = append(people, p)
	}
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		now := s.Clock.Now()
		tag, err := tx.Exec(ctx, `insert into missed_looked (course_id, recording_id, looked_at, done)
			values ($1, $2, $3, $4) on conflict (course_id, recording_id) do update
			set looked_at = excluded.looked_at, done = excluded.done where not missed_looked.done`,
			x.CourseID, x.RecordingID, now, known)
		if err != nil || tag.RowsAffected() == 0 || !known {
			return err
		}
		const keep = `insert into missed_told (recording_id, person_id, told_at)
			select $1, p.id, $3 from person_account p
			where p.id = any($2) and p.email <> '' and not p.closed
			and not exists (select 1 from news_wish w where w.person_id = p.id and w.often = 'never')
			order by p.id on conflict do nothing returning person_id`
		whom, err := postgres.Values[uuid.UUID](ctx, tx, keep, x.RecordingID, people, now)
		if err != nil {
			return fmt.Errorf("keep who is reminded: %w", err)
		}
		letters := make([]river.JobArgs, len(whom))
		for i, p := range whom {
			letters[i] = sendMissed{Course: x.CourseID, Recording: x.RecordingID, Person: p}
		}
		told = len(letters)
		return s.Queue.AddAll(ctx, tx, letters)
	})
	return told, err
}

// Reminded is how many people were written to of each of some recordings, that they missed something of it; one of
// which nobody was is left out.
func (s *Service) Reminded(ctx context.Context, recordings []uuid.UUID) (map[uuid.UUID]int, error) {
	const query = `select recording_id as id, count(*)::int as n from missed_told where recording_id = any($1) group by 1`
	rows, err := postgres.All[struct {
		ID uuid.UUID
		N  int
	}](ctx, s.DB, query, recordings)
	if err != nil {
		return nil, fmt.Errorf("count who was reminded: %w", err)
	}
	out := make(map[uuid.UUID]int, len(rows))
	for _, r := range rows {
		out[r.ID] = r.N
	}
	return out, nil
}

// sendMissed is the job of writing to one person what they missed of a recording.
type sendMissed struct {
	Course    uuid.UUID `json:"course"`
	Recording uuid.UUID `json:"recording"`
	Person    uuid.UUID `json:"person"`
}

// Kind implements river.JobArgs.
func (sendMissed) Kind() string { return "send_missed" }

// InsertOpts implements river.JobArgsWithInsertOpts.
func (sendMissed) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Post, MaxAttempts: 5}
}

func (s *Service) sendMissed(ctx context.Context, in sendMissed, _ bool) error {
	missed, _, err := s.Standing.Missed(ctx, in.Course, in.Recording, &in.Person)
	if err != nil || missed[in.Person].Empty() { // they caught up, or it is dark by now
		return err
	}
	to, err := s.addressee(ctx, in.Person)
	if err != nil || to.Email == "" {
		return err
	}
	type named struct{ Code, Title string }
	const query = `select k.code, coalesce(nullif(r.title, ''), nullif(l.topic, ''), k.title) as title
		from recording r join lecture l on l.id = r.lecture_id, course k where r.id = $1 and k.id = $2`
	x, err := postgres.One[named](ctx, s.DB, query, in.Recording, in.Course)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil
	}
	if err != nil {
		return fmt.Errorf("look up a recording: %w", err)
	}
	tongue := texts.Of(to.Language, s.Language)
	var stretches []string
	for _, m := range missed[in.Person].Spans() {
		stretches = append(stretches, tongue.Say(fault.Say("letter.missed_stretch", "from", fault.Clock(m.Start), "until",
			fault.Clock(m.End))))
	}
	begins, stop := missed[in.Person].Spans()[0].Start, s.Public+"/stop/"+s.Stops.StopKey(in.Person)
	text := tongue.Say(fault.Say("letter.missed_text", "course", x.Code, "title", x.Title,
		"stretches", strings.Join(stretches, "\n"),
		"minutes", int((missed[in.Person].Len()+59*time.Second)/time.Minute),
		"address", fmt.Sprintf("%s/watch/%s?at=%d", s.Public, in.Recording, begins.Milliseconds())))
	foot := tongue.Say(fault.Say("letter.news_foot", "account", s.Public+"/account", "stop", stop))
	return s.Post.Send(ctx, mail.Letter{To: to.Email, Stop: stop, Text: text + "\n" + foot,
		Subject: tongue.Say(fault.Say("letter.missed", "course", x.Code, "title", x.Title))})
}
