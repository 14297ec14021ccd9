package news

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/core/news"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// Why is why someone is told of nothing, or gets no mail: one of these, or a reason why they cannot watch
// (viewing.Reason).
type Why string

const (
	TellsThem Why = ""           // they are told
	Told      Why = "told"       // they were, before
	Closed    Why = "closed"     // their account is
	NoPost    Why = "no_post"    // the college has no mail server
	NoAddress Why = "no_address" // the roster has none
	CameBack  Why = "came_back"  // no mail arrives at their address
	NotWanted Why = "not_wanted" // they want none
)

// Reader is a student of a course, and what they would be told.
type Reader struct {
	PersonID   uuid.UUID
	Name       string
	Recordings []uuid.UUID // that are new to them; none for whoever is told of nothing
	Why        Why         // they are told of nothing
	NoMail     Why         // they are told, and get no mail
	Due        time.Time   // when their mail goes, in the past for at once; the zero time for none
}

// studentsSQL are the students of a course and how they are written to.
const studentsSQL = `select m.person_id, p.name, p.email, p.closed, coalesce(w.often, 'daily') as often, w.last_at,
	exists (select 1 from address_fault f where f.person_id = p.id and f.address = p.email) as came_back
	from membership m join person_account p on p.id = m.person_id left join news_wish w on w.person_id = p.id
	where m.course_id = $1 and m.role = 'student' order by p.name, p.id`

type studentRow struct {
	PersonID         uuid.UUID
	Name, Email      string
	Closed, CameBack bool
	Often            news.Often
	LastAt           *time.Time
}

// Readers says of every student of a course what they would be told of some recordings that it has, now.
func (s *Service) Readers(ctx context.Context, course uuid.UUID, recordings []uuid.UUID) ([]Reader, error) {
	return s.readers(ctx, s.DB, course, recordings)
}

func (s *Service) readers(ctx context.Context, q postgres.Querier, course uuid.UUID,
	recordings []uuid.UUID) ([]Reader, error) {
	students, err := postgres.All[studentRow](ctx, q, studentsSQL, course)
	if err != nil {
		return nil, fmt.Errorf("list the students of a course: %w", err)
	}
	reasons, err := s.Audience.Watchers(ctx, q, course, recordings)
	if err != nil {
		return nil, err
	}
	told, err := toldOf(ctx, q, recordings)
	if err != nil {
		return nil, err
	}
	out := make([]Reader, len(students))
	for i, x := range students {
		r := Reader{PersonID: x.PersonID, Name: x.Name}
		var kept viewing.Reason
		for _, id := range recordings {
			why := reasons[id][x.PersonID]
			switch {
			case told[pair{id, x.PersonID}]:
				r.Why = Told
			case why == viewing.ByRule:
				r.Recordings = append(r.Recordings, id)
			default:
				kept = nearer(kept, why)
			}
		}
		switch {
		case x.Closed:
			r.Recordings, r.Why = nil, Closed
		case len(r.Recordings) > 0:
			r.Why = TellsThem
			r.Due, r.NoMail = s.mail(x)
		case kept != "":
			r.Why = Why(kept)
		}
		out[i] = r
	}
	return out, nil
}

// nearer is that of two reasons which is nearer to being let in; either may be none.
func nearer(a, b viewing.Reason) viewing.Reason {
	at := func(r viewing.Reason) int {
		if n := slices.Index(viewing.Reasons, r); n >= 0 {
			return n
		}
		return len(viewing.Reasons)
	}
	if at(b) < at(a) {
		return b
	}
	return a
}

// mail is when a mail goes to a student, or why none does.
func (s *Service) mail(x studentRow) (due time.Time, none Why) {
	var last time.Time
	if x.LastAt != nil {
		last = *x.LastAt
	}
	due, wanted := x.Often.Due(s.Clock.Now(), last)
	switch {
	case !s.Post.On():
		return time.Time{}, NoPost
	case x.Email == "":
		return time.Time{}, NoAddress
	case x.CameBack:
		return time.Time{}, CameBack
	case !wanted:
		return time.Time{}, NotWanted
	}
	return due, ""
}

// Message is what a course tells its students.
type Message struct {
	Course     uuid.UUID
	Recordings []Named // that the course has, in their order
	Template   string  // "" for what the college writes
}

// Tell tells the students of a course who can watch them of recordings that are new to them, once, and queues their
// mails in the same transaction. They go a little later, so that it can be taken back. Its error is ErrNobody when
// there are none, and of type fault.Faults for a template that cannot be used.
func (s *Service) Tell(ctx context.Context, by uuid.UUID, m Message) (id uuid.UUID, err error) {
	if err := checked(m.Template); err != nil {
		return uuid.Nil, err
	}
	id = uuid.Must(uuid.NewV7())
	return id, postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error { return s.TellIn(ctx, tx, id, by, m) })
}

// TellIn is Tell in a transaction, under a name of the caller's own, of a template that was looked at.
func (s *Service) TellIn(ctx context.Context, tx pgx.Tx, id, by uuid.UUID, m Message) error {
	ids := make([]uuid.UUID, len(m.Recordings))
	for i, x := range m.Recordings {
		ids[i] = x.ID
	}
	readers, err := s.readers(ctx, tx, m.Course, ids)
	if err != nil {
		return err
	}
	const begin = `insert into news (id, course_id, made_by, made_at, template) values ($1, $2, $3, $4, $5)`
	if _, err := tx.Exec(ctx, begin, id, m.Course, by, s.Clock.Now(), m.Template); err != nil {
		return fmt.Errorf("keep what a course tells: %w", err)
	}
	told, err := s.keepTold(ctx, tx, id, readers)
	if err != nil {
		return err
	}
	if len(told) == 0 {
		return ErrNobody
	}
	for n, x := range m.Recordings {
		const keep = `insert into news_recording (news_id, recording_id, position, title) select $1, $2, $3, $4
			where exists (select 1 from told where news_id = $1 and recording_id = $2)`
		if _, err := tx.Exec(ctx, keep, id, x.ID, n, x.Title); err != nil {
			return fmt.Errorf("keep what a course tells: %w", err)
		}
	}
	return errors.Join(s.keepLetters(ctx, tx, id, readers, told),
		postgres.Notify(ctx, tx, postgres.Event{About: event.News, Course: m.Course}))
}

// keepTold keeps who is told of what, and gives those who are told of anything: another may have told them since.
func (s *Service) keepTold(ctx context.Context, tx pgx.Tx, id uuid.UUID, readers []Reader) (map[uuid.UUID]bool,
	error) {
	var people, recordings []uuid.UUID
	for _, r := range readers {
		for _, x := range r.Recordings {
			people, recordings = append(people, r.PersonID), append(recordings, x)
		}
	}
	const keep = `insert into told (recording_id, person_id, news_id)
		select r, p, $3 from unnest($1::uuid[], $2::uuid[]) as x(r, p) order by r, p
		on conflict do nothing returning person_id`
	rows, err := postgres.Values[uuid.UUID](ctx, tx, keep, recordings, people, id)
	if err != nil {
		return nil, fmt.Errorf("keep who is told: %w", err)
	}
	out := map[uuid.UUID]bool{}
	for _, p := range rows {
		out[p] = true
	}
	return out, nil
}

// keepLetters queues the mails to those who are told and want any.
func (s *Service) keepLetters(ctx context.Context, tx pgx.Tx, id uuid.UUID, readers []Reader,
	told map[uuid.UUID]bool) error {
	var people []uuid.UUID
	for _, r := range readers {
		if told[r.PersonID] && r.NoMail == "" {
			people = append(people, r.PersonID)
		}
	}
	if len(people) == 0 {
		return nil
	}
	const keep = `insert into news_letter (news_id, person_id) select $1, unnest($2::uuid[])`
	if _, err := tx.Exec(ctx, keep, id, people); err != nil {
		return fmt.Errorf("keep which mails are to be sent: %w", err)
	}
	return nil
}

// TakeBack takes back what a course told, but for those to whom its mail has gone. Its error is ErrUnknown.
func (s *Service) TakeBack(ctx context.Context, course, id uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const held = `select id from news where id = $1 and course_id = $2 for update`
		if _, err := postgres.Value[uuid.UUID](ctx, tx, held, id, course); errors.Is(err, pgx.ErrNoRows) {
			return ErrUnknown
		} else if err != nil {
			return fmt.Errorf("look up what a course told: %w", err)
		}
		for _, undo := range []string{
			`delete from news_letter where news_id = $1 and state = 'waits'`,
			`delete from told t where news_id = $1 and not exists (select 1 from news_letter x
				where x.news_id = t.news_id and x.person_id = t.person_id and x.state = 'sent')`,
			`delete from news n where id = $1 and not exists (select 1 from told where news_id = n.id)`,
		} {
			if _, err := tx.Exec(ctx, undo, id); err != nil {
				return fmt.Errorf("take back what a course told: %w", err)
			}
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.News, Course: course})
	})
}
