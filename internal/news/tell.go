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
	"latelantern/internal/recordings"
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
func (s *Service) Readers(ctx context.Context, course uuid.UUID, list []uuid.UUID) ([]Reader, error) {
	return s.readers(ctx, s.DB, course, list)
}

func (s *Service) readers(ctx context.Context, q postgres.Querier, course uuid.UUID,
	list []uuid.UUID) ([]Reader, error) {
	students, err := postgres.All[studentRow](ctx, q, studentsSQL, course)
	if err != nil {
		return nil, fmt.Errorf("list the students of a course: %w", err)
	}
	reasons, err := s.Audience.Watchers(ctx, q, course, list, nil)
	if err != nil {
		return nil, err
	}
	told, err := toldOf(ctx, q, list)
	if err != nil {
		return nil, err
	}
	out := make([]Reader, len(students))
	for i, x := range students {
		r := Reader{PersonID: x.PersonID, Name: x.Name}
		var kept viewing.Reason
		for _, id := range list {
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
	if err := recordings.Hold(ctx, tx, ids...); err != nil {
		return err
	}
	readers, err := s.readers(ctx, tx, m.Course, ids)
	if err != nil {
		return err
	}
	readers = slices.DeleteFunc(readers, func(r Reader) bool { return len(r.Recordings) == 0 })
	if len(readers) == 0 {
		return ErrNobody
	}
	const begin = `insert into news (id, course_id, made_by, made_at, template) values ($1, $2, $3, $4, $5)`
	if _, err := tx.Exec(ctx, begin, id, m.Course, postgres.OrNil(by), s.Clock.Now(), m.Template); err != nil {
		return fmt.Errorf("keep what a course tells: %w", err)
	}
	titles := make([]string, len(ids))
	for i, x := range m.Recordings {
		titles[i] = x.Title
	}
	const keep = `insert into news_recording (news_id, recording_id, position, title)
		select $1, x.id, x.n, x.title from unnest($2::uuid[], $3::text[]) with ordinality as x(id, title, n)
		where x.id = any($4)`
	if _, err := tx.Exec(ctx, keep, id, ids, titles, toldIn(readers)); err != nil {
		return fmt.Errorf("keep what a course tells: %w", err)
	}
	if err := keepReaders(ctx, tx, id, readers); err != nil {
		return err
	}
	return postgres.Notify(ctx, tx, postgres.Event{About: event.News, Course: m.Course})
}

// toldIn are the recordings that anyone is told of.
func toldIn(readers []Reader) []uuid.UUID {
	var out []uuid.UUID
	for _, r := range readers {
		for _, id := range r.Recordings {
			if !slices.Contains(out, id) {
				out = append(out, id)
			}
		}
	}
	return out
}

// keepReaders keeps who is told of what, and whose mail waits.
func keepReaders(ctx context.Context, tx pgx.Tx, id uuid.UUID, readers []Reader) error {
	rows := make([][]any, len(readers))
	for i, r := range readers {
		state := "waits"
		if r.NoMail != "" {
			state = "none"
		}
		rows[i] = []any{id, r.PersonID, r.Recordings, r.Recordings, state}
	}
	columns := []string{"news_id", "person_id", "recordings", "unseen", "mail"}
	if _, err := tx.CopyFrom(ctx, pgx.Identifier{"news_reader"}, columns, pgx.CopyFromRows(rows)); err != nil {
		return fmt.Errorf("keep who is told: %w", err)
	}
	return nil
}

// TakeBack takes back what a course told, but for those to whom its mail has gone, and says how many they are. Its
// error is ErrUnknown.
func (s *Service) TakeBack(ctx context.Context, course, id uuid.UUID) (kept int, err error) {
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const held = `select id from news where id = $1 and course_id = $2 for update`
		if _, err := postgres.Value[uuid.UUID](ctx, tx, held, id, course); errors.Is(err, pgx.ErrNoRows) {
			return ErrUnknown
		} else if err != nil {
			return fmt.Errorf("look up what a course told: %w", err)
		}
		var err error
		kept, err = s.takeBackIn(ctx, tx, course, id)
		return err
	})
	return kept, err
}

func (s *Service) takeBackIn(ctx context.Context, tx pgx.Tx, course, id uuid.UUID) (kept int, err error) {
	// A mail that is on the line is waited for.
	if _, err := tx.Exec(ctx, `delete from news_reader where news_id = $1 and mail <> 'sent'`, id); err != nil {
		return 0, fmt.Errorf("take back what a course told: %w", err)
	}
	kept, err = postgres.Value[int](ctx, tx, `select count(*)::int from news_reader where news_id = $1`, id)
	if err != nil {
		return 0, fmt.Errorf("count whose mail has gone: %w", err)
	}
	if kept == 0 {
		if _, err := tx.Exec(ctx, `delete from news where id = $1`, id); err != nil {
			return 0, fmt.Errorf("take back what a course told: %w", err)
		}
	}
	return kept, postgres.Notify(ctx, tx, postgres.Event{About: event.News, Course: course})
}
