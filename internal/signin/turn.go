package signin

import (
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"log/slog"
	"net/netip"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/fault"
	"latelantern/internal/platform/passhash"
	"latelantern/internal/platform/postgres"
)

// Slow says that attempts to sign in are looked at one after another now, and when the next one is.
type Slow struct {
	Wait time.Duration
}

// Error implements error, for logs.
func (s Slow) Error() string { return s.Text().Error() }

// Text says it to people.
func (s Slow) Text() fault.Text {
	return fault.Say("slow_sign_in", "seconds", int(s.Wait.Round(time.Second)/time.Second))
}

// After is when the next one is looked at, in whole seconds.
func (s Slow) After() time.Duration { return s.Wait.Truncate(time.Second) + time.Second }

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
		{limitKey("account", email),
			func(failed int) time.Duration { return min(time.Duration(failed/50)*time.Second, 2*time.Second) }},
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
func (s *Service) SignIn(ctx context.Context, email, password, from string, known uuid.UUID) (Account, error) {
	p, err := s.signIn(ctx, email, password, from, known)
	if err != nil {
		slog.InfoContext(ctx, "security", "event", "sign_in_refused", "from", Network(from), "person", p.ID, "slow",
			errors.As(err, new(Slow)))
		return Account{}, err
	}
	return p, nil
}

// signIn is SignIn that gives the person also with an error, if there is one with that address.
func (s *Service) signIn(ctx context.Context, email, password, from string, known uuid.UUID) (Account, error) {
	email = strings.ToLower(strings.TrimSpace(email))
	row, err := postgres.One[struct {
		Account
		PasswordHash string
	}](ctx, s.DB, `select p.id, p.email, p.name, p.closed, p.language, coalesce(a.password_hash, '') as password_hash
		from person_account p left join account a on a.person_id = p.id where p.email = $1`, email)
	if err != nil && !errors.Is(err, pgx.ErrNoRows) {
		return Account{}, fmt.Errorf("look up a person: %w", err)
	}
	by := counts(email, from, known != uuid.Nil && known == row.ID)
	if err := s.turn(ctx, by); err != nil {
		return row.Account, err
	}
	hash := row.PasswordHash
	if hash == "" {
		hash = passhash.None
	}
	if !passhash.Matches(password, hash) || row.PasswordHash == "" {
		return row.Account, ErrSignIn
	}
	if row.Closed {
		return row.Account, ErrClosed
	}
	// What succeeds clears the attempts of the account from here; of the others it takes its own back.
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		for _, c := range by[1:] {
			const own = `delete from sign_in_failure
				where ctid in (select ctid from sign_in_failure where key = $1 order by at desc limit 1)`
			if _, err := tx.Exec(ctx, own, c.key); err != nil {
				return fmt.Errorf("take an attempt back: %w", err)
			}
		}
		return forgetFailures(ctx, tx, by[0].key)
	})
	return row.Account, err
}

func forgetFailures(ctx context.Context, tx pgx.Tx, keys ...[]byte) error {
	for _, sql := range []string{`delete from sign_in_failure where key = any($1)`,
		`delete from sign_in_slot where key = any($1)`} {
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
		`delete from sign_in_failure
			where ctid = any(array(select ctid from sign_in_failure
			where at < now() - $1::interval limit 1000 for no key update skip locked))`,
		`delete from sign_in_slot
			where key = any(array(select key from sign_in_slot
			where next_at < now() - $1::interval limit 1000 for no key update skip locked))`,
	} {
		if _, err := s.DB.Exec(ctx, sql, failedWithin); err != nil {
			return fmt.Errorf("forget old attempts: %w", err)
		}
	}
	var wait time.Duration
	err := postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		for _, c := range by {
			// Of many at the same moment each sees those before it.
			if _, err := tx.Exec(ctx, `select pg_advisory_xact_lock($1)`,
				int64(binary.BigEndian.Uint64(c.key))); err != nil {
				return fmt.Errorf("take turns: %w", err)
			}
			const look = `select (select count(*) from sign_in_failure
				where key = $1 and at >= now() - $2::interval)::int as failed,
				coalesce((select greatest(next_at - now(), interval '0') from sign_in_slot
				where key = $1), interval '0') as until`
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
