// Package signin knows how people sign in: accounts, passwords, the letters that open them, and attempts.
package signin

import (
	"context"
	"crypto/sha256"
	"encoding/binary"
	"errors"
	"fmt"
	"strings"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/fault"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/mail"
	"latelantern/internal/platform/passhash"
	"latelantern/internal/platform/postgres"
)

// People is what sign-in needs of the roster.
type People interface {
	// HoldCoordinators keeps those who coordinate the college from changing until tx ends.
	HoldCoordinators(ctx context.Context, tx pgx.Tx) error
	// Coordinated gives an error that can be shown unless someone coordinates the college who can sign in.
	Coordinated(ctx context.Context, tx pgx.Tx) error
	// Tell tells those who teach a person that something of the person changed.
	Tell(ctx context.Context, tx pgx.Tx, person uuid.UUID) error
}

// Service keeps accounts, and says who may sign in. All its fields are needed. It may be used by many at once. A call
// whose context ends gives its error and has changed nothing.
type Service struct {
	DB       *pgxpool.Pool
	People   People
	Queue    *jobs.Queue
	Post     mail.Post
	Public   string // address under which people reach the application, without a slash at its end
	Language string // in which those are written to who have chosen none
}

// Account is who signs in.
type Account struct {
	ID       uuid.UUID // of the person
	Email    string    // "" for a guest
	Name     string
	Closed   bool   // nobody signs in
	Language string // "" for who has chosen none
}

const accountSQL = `select id, email, name, closed, language from person_account `

// ErrUnknown says that there is no such person.
var ErrUnknown = fault.Code("account.unknown")

// account is that of a person. Its error is ErrUnknown for nobody.
func (s *Service) account(ctx context.Context, person uuid.UUID) (Account, error) {
	a, err := postgres.One[Account](ctx, s.DB, accountSQL+`where id = $1`, person)
	if errors.Is(err, pgx.ErrNoRows) {
		return a, ErrUnknown
	}
	if err != nil {
		return a, fmt.Errorf("look up an account: %w", err)
	}
	return a, nil
}

// ErrSignIn says that address and password do not belong together.
var ErrSignIn = fault.Code("wrong_password")

// ErrClosed says that the account was closed, to whoever knows its password.
var ErrClosed = fault.Code("closed")

// ErrTooMany says that something was asked for too often for now.
var ErrTooMany = fault.Code("too_many")

// ErrKey says that an address sent by mail is not, or no longer, good.
var ErrKey = fault.Code("key")

// ErrLanguage says that a language is not spoken here.
var ErrLanguage = fault.Code("account.language")

// ErrNoPost says that no mail server is set, so that no letter can be sent.
var ErrNoPost = fault.Code("no_post")

func limitKey(kind, of string) []byte {
	sum := sha256.Sum256([]byte(kind + "\x00" + of))
	return sum[:]
}

type limit struct {
	key  []byte
	most int
}

// count notes an attempt under each key and says whether all are within their limits.
func (s *Service) count(ctx context.Context, limits map[string]limit) (bool, error) {
	open := true
	for _, l := range limits {
		const note = `with old as (delete from sign_in_failure where at < now() - interval '15 minutes'),
			new as (insert into sign_in_failure (key, at) select $1, now()
			where (select count(*) from sign_in_failure where key = $1 and at >= now() - interval '15 minutes') < $2
			returning 1)
			select exists (select 1 from new)`
		err := postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
			// Of many at the same moment each sees those before it.
			if _, err := tx.Exec(ctx, `select pg_advisory_xact_lock($1)`,
				int64(binary.BigEndian.Uint64(l.key))); err != nil {
				return err
			}
			ok, err := postgres.Value[bool](ctx, tx, note, l.key, l.most)
			open = open && ok
			return err
		})
		if err != nil {
			return false, fmt.Errorf("count attempts: %w", err)
		}
	}
	return open, nil
}

// checkPassword finds fault with a password that someone chooses (NIST SP 800-63B: length
// counts, rules about kinds of characters do not).
func checkPassword(password string, p Account) error {
	var f fault.Faults
	switch n := len([]rune(password)); {
	case n < 10:
		f.Add("password", "password.short")
	case n > 200:
		f.Add("password", "password.long")
	case strings.EqualFold(password, p.Email) || strings.EqualFold(password, p.Name):
		f.Add("password", "password.name")
	case strings.Count(password, password[:1]) == len(password):
		f.Add("password", "password.same")
	case common(password):
		f.Add("password", "password.common")
	}
	return f.Err()
}

// Opens is the person whose account an address sent by mail opens. Its error is ErrKey when
// it opens none.
func (s *Service) Opens(ctx context.Context, key string) (Account, error) {
	sum := sha256.Sum256([]byte(key))
	const whose = `where id = (select person_id from account_key
		where hash = $1 and used_at is null and ends_at > now())
		and not closed`
	p, err := postgres.One[Account](ctx, s.DB, accountSQL+whose, sum[:])
	if errors.Is(err, pgx.ErrNoRows) {
		return p, ErrKey
	}
	if err != nil {
		return p, fmt.Errorf("look up an account by its address: %w", err)
	}
	return p, nil
}

// Activate sets the password of the account that an address sent by mail opens, ends all its
// sessions, and uses the address up, and every other one that was sent to this person.
func (s *Service) Activate(ctx context.Context, key, password string) (person uuid.UUID, err error) {
	p, err := s.Opens(ctx, key)
	if err != nil {
		return p.ID, err
	}
	sum := sha256.Sum256([]byte(key))
	return p.ID, s.setPassword(ctx, p, password, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx,
			`update account_key set used_at = now() where hash = $1 and used_at is null and ends_at > now()`, sum[:])
		if err != nil {
			return fmt.Errorf("use an address up: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return ErrKey
		}
		return nil
	})
}

// ChangePassword sets a new password for someone who knows the old one, and ends all their
// sessions. Its error is of type fault.Faults when either is not right.
func (s *Service) ChangePassword(ctx context.Context, person uuid.UUID, old, password string) error {
	p, err := s.account(ctx, person)
	if err != nil {
		return err
	}
	hash, err := postgres.Value[string](ctx, s.DB,
		`select coalesce((select password_hash from account where person_id = $1), '')`, p.ID)
	if err != nil {
		return fmt.Errorf("look up a password: %w", err)
	}
	account := limitKey("change", p.Email)
	if open, err := s.count(ctx, map[string]limit{"": {account, 10}}); err != nil || !open {
		return errors.Join(err, ErrTooMany)
	}
	if !passhash.Matches(old, hash) {
		return fault.One("old", "password.old")
	}
	return s.setPassword(ctx, p, password, func(pgx.Tx) error { return nil })
}

func (s *Service) setPassword(ctx context.Context, p Account, password string, first func(pgx.Tx) error) error {
	if err := checkPassword(password, p); err != nil {
		return err
	}
	hash, err := passhash.Of(password)
	if err != nil {
		return err
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if err := first(tx); err != nil {
			return err
		}
		const keep = `insert into account (person_id, password_hash, session_era) values ($1, $2, 1)
			on conflict (person_id) do update
			set password_hash = excluded.password_hash, session_era = account.session_era + 1`
		if _, err := tx.Exec(ctx, keep, p.ID, hash); err != nil {
			return fmt.Errorf("keep a password: %w", err)
		}
		if _, err := tx.Exec(ctx, `update account_key set used_at = now() where person_id = $1 and used_at is null`,
			p.ID); err != nil {
			return fmt.Errorf("use up addresses: %w", err)
		}
		if err := forgetFailures(ctx, tx, limitKey("account", p.Email), limitKey("change", p.Email)); err != nil {
			return err
		}
		// Whoever teaches them sees that their account is active now.
		return s.People.Tell(ctx, tx, p.ID)
	})
}
