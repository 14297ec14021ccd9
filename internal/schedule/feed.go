package schedule

import (
	"context"
	"crypto/hmac"
	"encoding/binary"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/format/ical"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/platform/seal"
)

// FeedKind is whose lectures a feed has.
type FeedKind string

const (
	OfPerson FeedKind = "person" // those of all courses of a person
	OfCourse FeedKind = "course"
	OfHall   FeedKind = "hall"
)

var feedByte = map[FeedKind]byte{OfPerson: 'p', OfCourse: 'c', OfHall: 'h'}

// FeedKey is the secret part of the address of a feed. It is computed, not kept: whoever
// reads the database alone cannot make one.
func (s *Service) FeedKey(ctx context.Context, kind FeedKind, subject uuid.UUID) (string, error) {
	era, err := postgres.Value[int](ctx, s.DB,
		`select coalesce((select era from feed where kind = $1 and subject = $2), 0)`, kind, subject)
	if err != nil {
		return "", fmt.Errorf("read the era of a feed: %w", err)
	}
	return s.feedKey(kind, subject, era), nil
}

func (s *Service) feedKey(kind FeedKind, subject uuid.UUID, era int) string {
	return seal.Key(s.Secret, "feed", append([]byte{feedByte[kind]}, subject[:]...),
		binary.BigEndian.AppendUint32(nil, uint32(era)))
}

// RenewFeed makes a new address for a feed; the one before is worth nothing from now on.
func (s *Service) RenewFeed(ctx context.Context, kind FeedKind, subject uuid.UUID) (string, error) {
	const renew = `insert into feed (kind, subject, era) values ($1, $2, 1) on conflict (kind, subject)
		do update set era = feed.era + 1 returning era`
	era, err := postgres.Value[int](ctx, s.DB, renew, kind, subject)
	if err != nil {
		return "", fmt.Errorf("renew a feed: %w", err)
	}
	return s.feedKey(kind, subject, era), nil
}

// Feed is the calendar behind a key: its name, and its lectures with the address of each page
// below base. Its error is ErrUnknown for a key that is wrong or was renewed.
func (s *Service) Feed(ctx context.Context, key, base string) (name string, events []ical.Event, err error) {
	b, ok := seal.About(key, 17)
	if !ok {
		return "", nil, ErrUnknown
	}
	subject, _ := uuid.FromBytes(b[1:])
	for kind, first := range feedByte {
		if b[0] != first {
			continue
		}
		right, err := s.FeedKey(ctx, kind, subject)
		if err != nil {
			return "", nil, err
		}
		if !hmac.Equal([]byte(right), []byte(key)) {
			break
		}
		return s.Calendar(ctx, kind, subject, base)
	}
	return "", nil, ErrUnknown
}

var feedSQL = map[FeedKind]struct{ name, lectures string }{
	OfPerson: {`select name from person_account where id = $1 and not guest and not closed`,
		`l.course_id in (select course_id from membership where person_id = $1)`},
	OfCourse: {`select code || ' ' || title from course where id = $1`, `l.course_id = $1`},
	OfHall:   {`select name from hall where id = $1`, `l.hall_id = $1`},
}

// Calendar is what a feed has, in order of time. Lectures that were called off are in it, so
// that calendars which had them learn of it; those of the standing room are not.
func (s *Service) Calendar(ctx context.Context, kind FeedKind, subject uuid.UUID,
	base string) (name string, events []ical.Event, err error) {
	what := feedSQL[kind]
	name, err = postgres.Value[string](ctx, s.DB, what.name, subject)
	if errors.Is(err, pgx.ErrNoRows) {
		return "", nil, ErrUnknown
	}
	if err != nil {
		return "", nil, fmt.Errorf("find what a feed is about: %w", err)
	}
	type row struct {
		ID        uuid.UUID
		PlanID    *uuid.UUID
		Code      string
		Title     string
		Topic     string
		Hall      string
		StartsAt  time.Time
		EndsAt    time.Time
		Sequence  int
		ChangedAt *time.Time
		Off       bool
	}
	rows, err := postgres.All[row](ctx, s.DB,
		`select l.id, l.plan_id, k.code, k.title, l.topic, coalesce(h.name, '') as hall, l.starts_at, l.ends_at,
			l.sequence, l.changed_at, l.called_off_at is not null as off
		from lecture l join course k on k.id = l.course_id left join hall h on h.id = l.hall_id
		where not l.unplanned and `+what.lectures+` order by l.starts_at, k.code, l.id`, subject)
	if err != nil {
		return "", nil, fmt.Errorf("list the lectures of a feed: %w", err)
	}
	for _, r := range rows {
		e := ical.Event{UID: r.ID.String() + "@late-lantern", Start: r.StartsAt, End: r.EndsAt, Sequence: r.Sequence,
			Title: eventTitle(r.Code, r.Title, r.Topic), Hall: r.Hall, CalledOff: r.Off, Changed: r.StartsAt}
		if r.PlanID != nil {
			e.Series = r.PlanID.String() + "@late-lantern"
		}
		if r.ChangedAt != nil {
			e.Changed = *r.ChangedAt
		}
		if base != "" {
			e.Address = base + "/lectures/" + r.ID.String()
			e.Text = r.Code + " " + r.Title + "\n" + e.Address
		}
		events = append(events, e)
	}
	return name, events, nil
}

// eventTitle is what a calendar shows of a lecture; topicOf reads it back.
func eventTitle(code, title, topic string) string {
	if topic == "" {
		return code + " " + title
	}
	return code + ": " + topic
}
