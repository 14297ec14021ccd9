package roster

import (
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"log/slog"
	"net/netip"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/platform/postgres"
)

// Slow says that attempts to sign in are looked at one after another now, and when the next one is.
type Slow struct {
	Wait time.Duration
}

// Error implements error.
func (s Slow) Error() string {
	return fmt.Sprintf("several attempts failed just now; try again in %d s", int(s.Wait.Round(time.Second)/time.Second))
}

// failedWithin is how long an attempt that failed counts.
const failedWithin = 15 * time.Minute

// mostHeld is how long an attempt waits for its turn before it is told to come again.
const mostHeld = 3 * time.Second

// counted is something by which failed attempts are counted, and how far apart the next ones are after so many.
type counted struct {
	key   []byte
	apart func(failed int) time.Duration
}

// Nothing closes an account or a network, however many attempts failed: they are looked at further apart, so that
// guessing takes for ever and its owner waits for half a minute at most. Someone who fails elsewhere slows down only
// that network; a browser that was signed in before is counted apart.
func counts(email, from string, known bool) []counted {
	pair := func(failed int) time.Duration {
		if failed < 5 {
			return 0
		}
		return min(time.Second<<min(failed-5, 5), 30*time.Second)
	}
	if known {
		return []counted{{limitKey("known", email), pair}}
	}
	return []counted{
		{limitKey("account at", email+"\x00"+Network(from)), pair},
		{limitKey("account", email), func(failed int) time.Duration { return min(time.Duration(failed/50)*time.Second, 2*time.Second) }},
		{limitKey("address", Network(from)), func(failed int) time.Duration {
			return min(time.Duration(failed/100)*20*time.Millisecond, 100*time.Millisecond)
		}},
	}
}

// Network is the part of an address on the net that one customer has: all of IPv4, 64 bits of IPv6.
func Network(from string) string {
	a, err := netip.ParseAddr(from)
	if err != nil {
		return from
	}
	if a = a.Unmap(); a.Is6() {
		if p, err := a.Prefix(64); err == nil {
			return p.String()
		}
	}
	return a.String()
}

// SignIn is the person with this address and password, asked from an address on the net by a browser in which known
// was the last to sign in. Its error is ErrSignIn for any other pair, ErrClosed for a closed account, and of type Slow
// when many attempts failed before. An attempt counts as failed before it is looked at, so that many at once are
// counted too.
func (s *Service) SignIn(ctx context.Context, email, password, from string, known uuid.UUID) (Person, error) {
	p, err := s.signIn(ctx, email, password, from, known)
	if err != nil {
		slog.InfoContext(ctx, "security", "event", "sign_in_refused", "from", Network(from), "person", p.ID, "slow", errors.As(err, new(Slow)))
		return Person{}, err
	}
	return p, nil
}

// signIn is SignIn that gives the person also with an error, if there is one with that address.
func (s *Service) signIn(ctx context.Context, email, password, from string, known uuid.UUID) (Person, error) {
	email = strings.ToLower(strings.TrimSpace(email))
	row, err := postgres.One[struct {
		Person
		PasswordHash string
	}](ctx, s.DB, `select `+personColumns+`, password_hash from person where email = $1`, email)
	if err != nil && !errors.Is(err, pgx.ErrNoRows) {
		return Person{}, fmt.Errorf("look up a person: %w", err)
	}
	by := counts(email, from, known != uuid.Nil && known == row.ID)
	if err := s.turn(ctx, by); err != nil {
		return row.Person, err
	}
	hash := row.PasswordHash
	if hash == "" {
		hash = unknownHash
	}
	if ok, err := argon2id.ComparePasswordAndHash(password, hash); err != nil || !ok || row.PasswordHash == "" {
		return row.Person, ErrSignIn
	}
	if row.Closed {
		return row.Person, ErrClosed
	}
	// What succeeds clears the attempts of the account from here; of the others it takes its own back.
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		for _, c := range by[1:] {
			const own = `delete from sign_in_failure where ctid in (select ctid from sign_in_failure where key = $1 order by at desc limit 1)`
			if _, err := tx.Exec(ctx, own, c.key); err != nil {
				return fmt.Errorf("take an attempt back: %w", err)
			}
		}
		return forgetFailures(ctx, tx, by[0].key)
	})
	return row.Person, err
}

func forgetFailures(ctx context.Context, tx pgx.Tx, keys ...[]byte) error {
	for _, sql := range []string{`delete from sign_in_failure where key = any($1)`, `delete from sign_in_slot where key = any($1)`} {
		if _, err := tx.Exec(ctx, sql, keys); err != nil {
			return fmt.Errorf("forget failed attempts: %w", err)
		}
	}
	return nil
}

// turn notes an attempt and waits for its turn. Its error is of type Slow when that is too far away; then the attempt
// was not looked at, and does not count.
func (s *Service) turn(ctx context.Context, by []counted) error {
	// What no longer counts goes, but for what someone else is just removing.
	for _, sql := range []string{
		`delete from sign_in_failure where ctid = any(array(select ctid from sign_in_failure where at < now() - $1::interval limit 1000 for update skip locked))`,
		`delete from sign_in_slot where key = any(array(select key from sign_in_slot where next_at < now() - $1::interval limit 1000 for update skip locked))`,
	} {
		if _, err := s.DB.Exec(ctx, sql, failedWithin); err != nil {
			return fmt.Errorf("forget old attempts: %w", err)
		}
	}
	var wait time.Duration
	err := postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		for _, c := range by {
			// Of many at the same moment each sees those before it.
			if _, err := tx.Exec(ctx, `select pg_advisory_xact_lock($1)`, int64(binary.BigEndian.Uint64(c.key))); err != nil {
				return fmt.Errorf("take turns: %w", err)
			}
			const look = `select (select count(*) from sign_in_failure where key = $1 and at >= now() - $2::interval)::int as failed,
				coalesce((select greatest(next_at - now(), interval '0') from sign_in_slot where key = $1), interval '0') as until`
			x, err := postgres.One[struct {
				Failed int
				Until  time.Duration
			}](ctx, tx, look, c.key, failedWithin)
			if err != nil {
				return fmt.Errorf("count attempts: %w", err)
			}
			apart := c.apart(x.Failed)
			if apart == 0 {
				x.Until = 0
			}
			if wait = max(wait, x.Until); wait > mostHeld {
				return Slow{wait}
			}
			const keep = `with slot as (insert into sign_in_slot (key, next_at) select $1, now() + $2::interval where $3
				on conflict (key) do update set next_at = excluded.next_at)
				insert into sign_in_failure (key, at) values ($1, now())`
			if _, err := tx.Exec(ctx, keep, c.key, x.Until+apart, apart > 0); err != nil {
				return fmt.Errorf("note an attempt: %w", err)
			}
		}
		return nil
	})
	if err != nil || wait == 0 {
		return err
	}
	select {
	case <-time.After(wait):
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}

// EndSessions ends all sessions of a person.
func (s *Service) EndSessions(ctx context.Context, person uuid.UUID) error {
	tag, err := s.DB.Exec(ctx, `update person set session_era = session_era + 1 where id = $1`, person)
	if err != nil {
		return fmt.Errorf("end the sessions of a person: %w", err)
	}
	if tag.RowsAffected() == 0 {
		return ErrUnknown
	}
	return nil
}

// SetClosed closes the account of a person and ends all their sessions, or opens it again. What they did stays. Its
// error is ErrLast when no coordinator would be left.
func (s *Service) SetClosed(ctx context.Context, person uuid.UUID, closed bool) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `select 1 from person where coordinator for update`); err != nil {
			return fmt.Errorf("hold the coordinators: %w", err)
		}
		const set = `update person set closed_at = case when $2 then now() end, session_era = session_era + 1 where id = $1 and not guest`
		tag, err := tx.Exec(ctx, set, person, closed)
		if err != nil {
			return fmt.Errorf("close an account: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return ErrUnknown
		}
		return coordinated(ctx, tx)
	})
}

// coordinated is ErrLast unless someone coordinates the college who can sign in.
func coordinated(ctx context.Context, tx pgx.Tx) error {
	const query = `select exists (select 1 from person where coordinator and password_hash <> '' and closed_at is null)`
	left, err := postgres.Value[bool](ctx, tx, query)
	if err != nil {
		return fmt.Errorf("count the coordinators: %w", err)
	}
	if !left {
		return ErrLast
	}
	return nil
}
