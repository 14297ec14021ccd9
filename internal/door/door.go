// Package door lets people into live lectures: the enrolled by the doorway of the lecture,
// guests by a link of their own.
package door

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/doorway"
	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/platform/seal"
)

// People is what the door needs of the roster.
type People interface {
	// AddGuest adds a person who has no account.
	AddGuest(ctx context.Context, tx pgx.Tx, name string) (uuid.UUID, error)
}

// Halls is what the door needs of the halls.
type Halls interface {
	// StopIn tells the recorder that captures a lecture, if one does, to stop.
	StopIn(ctx context.Context, lecture, by uuid.UUID) error
}

// Service decides who may come into a lecture, and lets them. All its fields are needed. It may be used by many at
// once. A call whose context ends gives its error and has changed nothing.
type Service struct {
	DB     *pgxpool.Pool
	People People
	Halls  Halls
	Queue  *jobs.Queue
	Clock  clock.Clock
	Secret []byte // signs the links of guests
	Public string // address under which people reach the application, without a slash at its end
}

// ErrUnknown says that there is no such lecture, guest or link.
var ErrUnknown = fault.Code("door.unknown")

// ErrNotAsked says that nobody is asked at this door, or that this person has not.
var ErrNotAsked = fault.Code("not_asked")

// At is how someone stands at the door of a lecture.
type At struct {
	doorway.Decision
	Course  uuid.UUID
	Code    string // of the course
	Opens   time.Time
	Ends    time.Time // planned
	Running bool      // it is being captured now, and not by someone alone
	Private bool      // nobody was invited; see viewing.Learns
	Word    string    // to who was sent away or out, if somebody said one
}

type standing struct {
	PersonID    uuid.UUID
	CourseID    uuid.UUID
	Code        string
	StartsAt    time.Time
	EndsAt      time.Time
	CalledOff   bool
	Doorway     doorway.Way
	OpensMin    int
	Running     bool
	Alone       bool
	Private     bool
	Coordinator bool
	Role        viewing.Role
	Guest       doorway.Role
	Asked       bool
	LetIn       bool
	SentOut     bool
	Ended       bool
	Followed    bool
	Word        string
}

// A guest's link holds only until its end, and only if nobody took it back. While someone
// captures alone, the door is closed. Where whoever comes is let in from now on, they walk in.
const standingSQL = `select p.id as person_id, l.course_id, k.code, l.starts_at, l.ends_at,
		l.called_off_at is not null as called_off, case
		when u.alone then 'closed' when l.doorway = 'ask' and i.lecture_id is not null then 'walk_in'
		else l.doorway end as doorway, l.opens_min,
		u.running, u.alone, exists (select 1 from private_lecture v where v.id = l.id) as private,
		p.coordinator, coalesce(m.role, '') as role, coalesce(g.role, '') as guest, a.asked_at is not null
		and a.answered_at is null as asked, coalesce(a.let_in, false) as let_in,
		a.sent_out_at is not null as sent_out, coalesce(a.word, '') as word, coalesce(e.due_at <= $3, false) as ended,
		e.due_at <= $3 and (exists (select 1 from following f where f.lecture_id = l.id and f.person_id = p.id
			and f.played_at > e.due_at - $4::interval)
		or exists (select 1 from presence n where n.lecture_id = l.id and n.person_id = p.id
			and n.until_at > e.due_at - $4::interval)) is true as followed
	from lecture l join course k on k.id = l.course_id join person p on p.id = any($2)
	cross join lateral (select count(*) > 0 as running, coalesce(bool_and(c.alone), false) as alone from live_capture c
		where c.lecture_id = l.id and c.started_at > $3::timestamptz - interval '12 hours') u
	left join membership m on m.course_id = l.course_id and m.person_id = p.id
	left join guest g on g.lecture_id = l.id and g.person_id = p.id and g.taken_back_at is null and g.ends_at > $3
	left join doorway_ask a on a.lecture_id = l.id and a.person_id = p.id
	left join doorway_open i on i.lecture_id = l.id
	left join ended_class e on e.lecture_id = l.id
	where l.id = $1`

// Stands says whether a person can come into a lecture now, and why. Its error is ErrUnknown
// when there is no such lecture.
func (s *Service) Stands(ctx context.Context, person, lecture uuid.UUID) (At, error) {
	all, err := s.AllStand(ctx, []uuid.UUID{person}, lecture)
	if err != nil {
		return At{}, err
	}
	at, ok := all[person]
	if !ok {
		return At{}, ErrUnknown
	}
	return at, nil
}

// AllStand is Stands of many people, by person. Where there is no such lecture or person there is no entry.
func (s *Service) AllStand(ctx context.Context, people []uuid.UUID, lecture uuid.UUID) (map[uuid.UUID]At, error) {
	now := s.Clock.Now()
	rows, err := postgres.All[standing](ctx, s.DB, standingSQL, lecture, people, now, doorway.Lapse)
	if err != nil {
		return nil, fmt.Errorf("look who stands at a door: %w", err)
	}
	out := make(map[uuid.UUID]At, len(rows))
	for _, x := range rows {
		out[x.PersonID] = x.at(now)
	}
	return out, nil
}

func (x standing) at(now time.Time) At {
	d := doorway.Door{Way: x.Doorway, Opens: time.Duration(x.OpensMin) * time.Minute, Start: x.StartsAt,
		CalledOff: x.CalledOff, Ended: x.Ended}
	v := doorway.Visitor{Staff: x.Coordinator || x.Role.Staff(), Enrolled: x.Role == viewing.Student, Guest: x.Guest,
		Asked: x.Asked, LetIn: x.LetIn, SentOut: x.SentOut,
		Followed: x.Followed}
	return At{doorway.Decide(d, v, x.Running, now), x.CourseID, x.Code, d.OpensAt(), x.EndsAt, x.Running && !x.Alone,
		x.Private, x.Word}
}

// Ask asks to be let in. Its error is ErrNotAsked where nobody has to.
func (s *Service) Ask(ctx context.Context, person, lecture uuid.UUID) error {
	at, err := s.Stands(ctx, person, lecture)
	if err != nil {
		return err
	}
	if at.Reason != doorway.MustAsk {
		return ErrNotAsked
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const keep = `insert into doorway_ask (lecture_id, person_id, asked_at) values ($1, $2, $3)
			on conflict (lecture_id, person_id)
			do update set asked_at = $3, answered_at = null, answered_by = null, let_in = false, word = ''`
		if _, err := tx.Exec(ctx, keep, lecture, person, s.Clock.Now()); err != nil {
			return fmt.Errorf("ask at a door: %w", err)
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Doorway, Course: at.Course, Lecture: lecture})
	})
}

// Asking is someone who waits at the door, was let in, or was sent out.
type Asking struct {
	PersonID uuid.UUID
	Name     string
	AskedAt  time.Time
	LetIn    bool
	SentOut  bool
}

// Asks lists who waits at the door of a lecture, and who was let in or sent out, in order of asking.
func (s *Service) Asks(ctx context.Context, lecture uuid.UUID) ([]Asking, error) {
	const query = `select a.person_id, p.name, a.asked_at, a.let_in, a.sent_out_at is not null as sent_out
		from doorway_ask a join person p on p.id = a.person_id
		where a.lecture_id = $1 and (a.answered_at is null or a.let_in or a.sent_out_at is not null)
		order by a.asked_at`
	out, err := postgres.All[Asking](ctx, s.DB, query, lecture)
	if err != nil {
		return nil, fmt.Errorf("list who asks at a door: %w", err)
	}
	return out, nil
}

// Guest is an outsider with a link.
type Guest struct {
	ID      uuid.UUID
	Name    string
	Role    doorway.Role
	EndsAt  time.Time
	Link    string
	MadeAt  time.Time
	Expired bool
}

// link is the secret address of a guest. It is computed, not kept.
func (s *Service) link(id uuid.UUID) string { return s.Public + "/guest/" + s.key(id) }

func (s *Service) key(id uuid.UUID) string {
	return seal.Key(s.Secret, "guest", id[:])
}

// GuestForm is a guest as someone enters them.
type GuestForm struct {
	Name   string
	Role   doorway.Role
	EndsAt time.Time
}

// longest is how long a guest's link can hold.
const longest = 366 * 24 * time.Hour

// Invite makes a link for a named outsider. Its error is of type fault.Faults when something
// is wrong with what was entered.
func (s *Service) Invite(ctx context.Context, lecture, by uuid.UUID, in GuestForm) (Guest, error) {
	now := s.Clock.Now()
	var f fault.Faults
	in.Name = strings.Join(strings.Fields(in.Name), " ")
	f.When(in.Name == "" || len([]rune(in.Name)) > 200, "name", "guest.name")
	f.When(in.Role != doorway.Listener && in.Role != doorway.Speaker, "role", "guest.role")
	f.When(!in.EndsAt.After(now), "ends_at", "guest.past")
	f.When(in.EndsAt.Sub(now) > longest, "ends_at", "guest.long")
	if err := f.Err(); err != nil {
		return Guest{}, err
	}
	g := Guest{ID: uuid.Must(uuid.NewV7()), Name: in.Name, Role: in.Role, EndsAt: in.EndsAt, MadeAt: now}
	g.Link = s.link(g.ID)
	err := postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		person, err := s.People.AddGuest(ctx, tx, in.Name)
		if err != nil {
			return err
		}
		const keep = `insert into guest (id, lecture_id, person_id, role, made_by, made_at, ends_at)
			values ($1, $2, $3, $4, $5, $6, $7)`
		if _, err := tx.Exec(ctx, keep, g.ID, lecture, person, in.Role, by, now, in.EndsAt); err != nil {
			return fmt.Errorf("invite a guest: %w", err)
		}
		return nil
	})
	return g, err
}

// Guests lists the guests of a lecture whose links were not taken back.
func (s *Service) Guests(ctx context.Context, lecture uuid.UUID) ([]Guest, error) {
	const query = `select g.id, p.name, g.role, g.ends_at, g.made_at, '' as link, g.ends_at <= $2 as expired
		from guest g join person p on p.id = g.person_id where g.lecture_id = $1 and g.taken_back_at is null
		order by g.made_at, g.id`
	out, err := postgres.All[Guest](ctx, s.DB, query, lecture, s.Clock.Now())
	if err != nil {
		return nil, fmt.Errorf("list guests: %w", err)
	}
	for i := range out {
		out[i].Link = s.link(out[i].ID)
	}
	return out, nil
}

// TakeBack ends the link of a guest, or with back gives it again. Who came in by it is out at once.
func (s *Service) TakeBack(ctx context.Context, lecture, guest uuid.UUID, back bool) error {
	now := s.Clock.Now()
	at := &now
	if back {
		at = nil
	}
	tag, err := s.DB.Exec(ctx, `update guest set taken_back_at = $3 where id = $2 and lecture_id = $1`, lecture, guest,
		at)
	if err != nil {
		return fmt.Errorf("take a link back: %w", err)
	}
	if tag.RowsAffected() == 0 {
		return ErrUnknown
	}
	return nil
}

// Welcome is the guest behind the key of a link. Its error is ErrUnknown when the link is
// wrong, was taken back, or has ended.
func (s *Service) Welcome(ctx context.Context, key string) (person, lecture uuid.UUID, err error) {
	b, ok := seal.About(key, 16)
	if !ok || !seal.Opens(key, s.Secret, "guest", b) {
		return person, lecture, ErrUnknown
	}
	return s.guest(ctx, `g.id = $1`, uuid.UUID(b))
}

// Holds is the lecture that a guest can come to now. Its error is ErrUnknown when their link no longer holds.
func (s *Service) Holds(ctx context.Context, person uuid.UUID) (lecture uuid.UUID, err error) {
	_, lecture, err = s.guest(ctx, `g.person_id = $1`, person)
	return lecture, err
}

func (s *Service) guest(ctx context.Context, where string, id uuid.UUID) (person, lecture uuid.UUID, err error) {
	row, err := postgres.One[struct{ PersonID, LectureID uuid.UUID }](ctx, s.DB,
		`select g.person_id, g.lecture_id from guest g where `+where+` and g.taken_back_at is null and g.ends_at > $2`,
		id, s.Clock.Now())
	if errors.Is(err, pgx.ErrNoRows) {
		return person, lecture, ErrUnknown
	}
	if err != nil {
		return person, lecture, fmt.Errorf("look up a guest: %w", err)
	}
	return row.PersonID, row.LectureID, nil
}
