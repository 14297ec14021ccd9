package news

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"latelantern/internal/core/news"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/mail"
	"latelantern/internal/platform/postgres"
)

// Grace is for how long what was told can be taken back before a mail of it goes.
const Grace = 20 * time.Second

// SendNews is the job of sending the mails that are due, one after another over one connection.
type SendNews struct{}

// Kind implements river.JobArgs.
func (SendNews) Kind() string { return "send_news" }

// InsertOpts implements river.JobArgsWithInsertOpts.
func (SendNews) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Post, MaxAttempts: 10_000, UniqueOpts: jobs.OneAtATime}
}

// LookForNews is the job of looking for what can be told by now, and for mails that are due.
type LookForNews struct{}

// Kind implements river.JobArgs.
func (LookForNews) Kind() string { return "look_for_news" }

// InsertOpts implements river.JobArgsWithInsertOpts.
func (LookForNews) InsertOpts() river.InsertOpts { return jobs.Looking }

// longestAway is how long a mail server that does not take letters is left alone before it is tried again.
const longestAway = 10 * time.Minute

// Register adds the jobs of this package to kinds.
func (s *Service) Register(kinds *river.Workers) {
	away := func(n int) time.Duration { return min(5*time.Second<<min(n, 10), longestAway) }
	jobs.Register(kinds, jobs.Kind[SendNews]{Limit: time.Hour, After: away,
		Do: func(ctx context.Context, _ SendNews, _ bool) error {
			_, err := s.Send(ctx)
			return err
		}})
	jobs.Register(kinds, jobs.Kind[LookForNews]{Limit: time.Minute,
		Do: func(ctx context.Context, _ LookForNews, _ bool) error {
			return errors.Join(s.TellPlanned(ctx), s.look(ctx))
		}})
}

// look queues the sending when anything is due.
func (s *Service) look(ctx context.Context) error {
	if !s.Post.On() {
		return nil
	}
	people, err := s.due(ctx)
	if err != nil || len(people) == 0 {
		return err
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error { return s.Queue.Add(ctx, tx, SendNews{}) })
}

// due are the people to whom a mail is to go now, the one who waits longest first.
func (s *Service) due(ctx context.Context) ([]uuid.UUID, error) {
	const query = `select x.person_id, min(n.made_at) as came, coalesce(w.often, 'daily') as often, w.last_at
		from news_reader x join news n on n.id = x.news_id left join news_wish w on w.person_id = x.person_id
		where x.mail = 'waits' and n.made_at <= $1
		group by x.person_id, w.often, w.last_at order by came, x.person_id`
	now := s.Clock.Now()
	rows, err := postgres.All[struct {
		PersonID uuid.UUID
		Came     time.Time
		Often    news.Often
		LastAt   *time.Time
	}](ctx, s.DB, query, now.Add(-Grace))
	if err != nil {
		return nil, fmt.Errorf("list to whom mail is due: %w", err)
	}
	var out []uuid.UUID
	for _, x := range rows {
		var last time.Time
		if x.LastAt != nil {
			last = *x.LastAt
		}
		// Who wants none any more has theirs left out.
		if due, wanted := x.Often.Due(x.Came, last); !wanted || !due.After(now) {
			out = append(out, x.PersonID)
		}
	}
	return out, nil
}

// atOnce is of how many people what they are to be told is read at once.
const atOnce = 200

// Send sends the mails that are due, and says how many. Each is marked as sent as soon as the mail server has it: when
// the process dies, only the one on the line goes again. Its error says that the mail server takes no more now.
func (s *Service) Send(ctx context.Context) (sent int, err error) {
	people, err := s.due(ctx)
	if err != nil || len(people) == 0 {
		return 0, err
	}
	line, err := s.Post.Open(ctx)
	if err != nil {
		return 0, err
	}
	defer line.Close()
	for start := 0; start < len(people); start += atOnce {
		read, err := s.read(ctx, people[start:min(start+atOnce, len(people))])
		if err != nil {
			return sent, err
		}
		n, err := s.sendAll(ctx, line, read)
		sent += n
		if err := errors.Join(err, s.say(ctx, read)); err != nil {
			return sent, err
		}
	}
	return sent, nil
}

func (s *Service) sendAll(ctx context.Context, line *mail.Line, list []addressee) (sent int, err error) {
	for _, to := range list {
		if err := ctx.Err(); err != nil {
			return sent, err
		}
		one, err := s.sendOne(ctx, line, to)
		if err != nil {
			return sent, err
		}
		if one {
			sent++
		}
	}
	return sent, nil
}

// say notes for those who look at it how far the mails of their course are.
func (s *Service) say(ctx context.Context, list []addressee) error {
	var courses []uuid.UUID
	for _, to := range list {
		courses = append(courses, to.of...)
	}
	return notify(ctx, s.DB, courses)
}

// sendOne sends what waits for one person, unless another process does. The rows are held meanwhile. It is not broken
// off, so that a process that is told to end leaves no mail behind that went and is not marked.
func (s *Service) sendOne(ctx context.Context, line *mail.Line, to addressee) (sent bool, err error) {
	ctx = context.WithoutCancel(ctx)
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const hold = `select news_id from news_reader where person_id = $1 and news_id = any($2) and mail = 'waits'
			for update skip locked`
		held, err := postgres.Values[uuid.UUID](ctx, tx, hold, to.PersonID, to.waits)
		if err != nil || len(held) != len(to.waits) { // another process sends them, or some were taken back meanwhile
			return err
		}
		state := "left_out"
		if letter, ok := s.letter(to); ok {
			err := line.Send(letter)
			var refused *mail.Refused
			switch {
			case errors.As(err, &refused):
				state = "refused"
				slog.Info("a mail was refused", "status", refused.Status)
				if err := s.keepFault(ctx, tx, to.PersonID, to.Email, refused.Status); err != nil {
					return err
				}
			case err != nil:
				return err
			default:
				state, sent = "sent", true
			}
		}
		return s.settle(ctx, tx, to, state)
	})
	return sent, err
}

// settle keeps how it ended with the mails of one person, and when the last went to them.
func (s *Service) settle(ctx context.Context, tx pgx.Tx, to addressee, state string) error {
	const settle = `with settled as (
			update news_reader set mail = $3, settled_at = $4, address = $5
			where person_id = $1 and news_id = any($2))
		insert into news_wish (person_id, last_at) select $1, $4 where $3 = 'sent'
		on conflict (person_id) do update set last_at = $4`
	if _, err := tx.Exec(ctx, settle, to.PersonID, to.waits, state, s.Clock.Now(), to.Email); err != nil {
		return fmt.Errorf("keep that a mail was sent: %w", err)
	}
	return nil
}

// keepFault keeps that no mail arrives at the address of someone.
func (s *Service) keepFault(ctx context.Context, q execer, person uuid.UUID, address, status string) error {
	const keep = `insert into address_fault (person_id, address, status, since) values ($1, $2, $3, $4)
		on conflict (person_id) do update set address = $2, status = $3, since = $4`
	if _, err := q.Exec(ctx, keep, person, address, status, s.Clock.Now()); err != nil {
		return fmt.Errorf("keep that no mail arrives: %w", err)
	}
	return nil
}
