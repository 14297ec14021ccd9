// Package news tells students what is there for them: in the product, and by mail as often as they want it. Nobody is
// told of a recording twice, and of none that they cannot watch.
package news

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/news"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/mail"
	"latelantern/internal/platform/postgres"
)

// Audience is what is needed of who may watch.
type Audience interface {
	// Watchers decides for students of a course, those of people or with nil all, and each of some recordings that it
	// has: by recording, by person.
	Watchers(ctx context.Context, q postgres.Querier, course uuid.UUID,
		recordings, people []uuid.UUID) (map[uuid.UUID]map[uuid.UUID]viewing.Reason, error)
}

// Service tells students of recordings. All its fields are needed. It may be used by many at once. A call whose
// context ends gives its error and has changed nothing.
type Service struct {
	DB       *pgxpool.Pool
	Clock    clock.Clock
	Queue    *jobs.Queue
	Post     mail.Post
	Audience Audience
	Secret   []byte // signs the addresses at which mails are stopped, and what mails are known by
	Public   string // address under which people reach the application, without a slash at its end
	Language string // in which those are written to who have chosen none
}

// ErrUnknown says that there is no such news, or person.
var ErrUnknown = fault.Code("news.unknown")

// ErrKey says that there is no such address at which mails are stopped.
var ErrKey = fault.Code("news.key")

// ErrNobody says that nobody would be told: whoever can watch was told before.
var ErrNobody = fault.Code("news.nobody")

// Named is a recording as it is called where students meet it.
type Named struct {
	ID    uuid.UUID
	Title string
}

// Candidate is a recording that is lit for a course, and whom it is new to.
type Candidate struct {
	RecordingID uuid.UUID
	Title       string    // "" for none of its own
	Topic       string    // of its lecture
	StartsAt    time.Time // of its lecture
	LengthMs    int64     // of what is published
	Silent      bool      // somebody said that nobody need be told
	New         int       `db:"-"` // students who can watch it and were not told of it
	Told        int       `db:"-"` // students of the course who were told
}

// Candidates are the recordings that are lit for a course and published, by their lectures, the latest first.
func (s *Service) Candidates(ctx context.Context, course uuid.UUID) ([]Candidate, error) {
	const query = `select e.recording_id, r.title, l.topic, l.starts_at, coalesce(ed.length_ms, 0) as length_ms,
		exists (select 1 from news_silent x where x.recording_id = r.id and x.course_id = e.course_id) as silent
		from released e join recorded r on r.id = e.recording_id join lecture l on l.id = r.lecture_id
		join edition ed on ed.id = r.edition_id
		where e.course_id = $1 and e.lit and r.deleted_at is null order by l.starts_at desc, r.created_at desc, r.id`
	out, err := postgres.All[Candidate](ctx, s.DB, query, course)
	if err != nil {
		return nil, fmt.Errorf("list what students could be told of: %w", err)
	}
	ids := make([]uuid.UUID, len(out))
	for i, x := range out {
		ids[i] = x.RecordingID
	}
	reasons, err := s.Audience.Watchers(ctx, s.DB, course, ids, nil)
	if err != nil {
		return nil, err
	}
	told, err := toldOf(ctx, s.DB, ids)
	if err != nil {
		return nil, err
	}
	for i, x := range out {
		for person, why := range reasons[x.RecordingID] {
			switch {
			case told[pair{x.RecordingID, person}]:
				out[i].Told++
			case why == viewing.ByRule:
				out[i].New++
			}
		}
	}
	return out, nil
}

// pair is a recording and who was told of it.
type pair struct{ recording, person uuid.UUID }

func toldOf(ctx context.Context, q postgres.Querier, recordings []uuid.UUID) (map[pair]bool, error) {
	rows, err := postgres.All[struct{ RecordingID, PersonID uuid.UUID }](ctx, q,
		`select x.recording_id, t.person_id
		from news_recording x join news_reader t on t.news_id = x.news_id and x.recording_id = any(t.recordings)
		where x.recording_id = any($1)`, recordings)
	if err != nil {
		return nil, fmt.Errorf("list who was told: %w", err)
	}
	out := map[pair]bool{}
	for _, x := range rows {
		out[pair{x.RecordingID, x.PersonID}] = true
	}
	return out, nil
}

// Template is what a course writes to its students; "" for what the college writes.
func (s *Service) Template(ctx context.Context, course uuid.UUID) (string, error) {
	t, err := postgres.Value[string](ctx, s.DB, `select template from course_news where course_id = $1`, course)
	if err != nil && !errors.Is(err, pgx.ErrNoRows) {
		return "", fmt.Errorf("read what a course writes: %w", err)
	}
	return t, nil
}

// SetTemplate changes what a course writes to its students; nothing, or spaces, for what the college writes. Its error
// is of type fault.Faults for a template that cannot be used.
func (s *Service) SetTemplate(ctx context.Context, course uuid.UUID, template string) error {
	if err := checked(template); err != nil {
		return err
	}
	const keep = `insert into course_news (course_id, template) values ($1, $2)
		on conflict (course_id) do update set template = $2`
	if _, err := s.DB.Exec(ctx, keep, course, strings.TrimSpace(template)); err != nil {
		return fmt.Errorf("keep what a course writes: %w", err)
	}
	return nil
}

func checked(template string) error {
	if err := news.Check(template); err != nil {
		return fault.Faults{{Field: "template", Text: fault.Of(err)}}
	}
	return nil
}

// Past is what a course told its students once.
type Past struct {
	ID      uuid.UUID
	At      time.Time
	By      string // a name; "" for someone who is gone
	Titles  []string
	People  int // who were told of any of it
	Waits   int // mails
	Sent    int
	Refused int
}

// Past lists what a course told last, the latest first, twenty at most.
func (s *Service) Past(ctx context.Context, course uuid.UUID) ([]Past, error) {
	const query = `select n.id, n.made_at as at, coalesce(p.name, '') as by,
		(select array_agg(title order by position) from news_recording where news_id = n.id) as titles,
		count(x.person_id)::int as people,
		count(*) filter (where x.mail = 'waits')::int as waits,
		count(*) filter (where x.mail = 'sent')::int as sent,
		count(*) filter (where x.mail = 'refused')::int as refused
		from news n left join person p on p.id = n.made_by left join news_reader x on x.news_id = n.id
		where n.course_id = $1 group by n.id, p.name order by n.made_at desc, n.id desc limit 20`
	out, err := postgres.All[Past](ctx, s.DB, query, course)
	if err != nil {
		return nil, fmt.Errorf("list what a course told: %w", err)
	}
	return out, nil
}
