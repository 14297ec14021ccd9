// Package signin knows how people sign in: accounts, passwords, the letters that open them, and attempts.
package signin

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/binary"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/riverqueue/river"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/texts"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/mail"
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
	DB     *pgxpool.Pool
	People People
	Queue  *jobs.Queue
	Post   mail.Post
	Public string // address under which people reach the application, without a slash at its end
}

// Account is who signs in.
type Account struct {
	ID     uuid.UUID // of the person
	Email  string    // "" for a guest
	Name   string
	Closed bool // nobody signs in
}

const accountSQL = `select id, email, name, closed from person_account `

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

// ErrNoPost says that no mail server is set, so that no letter can be sent.
var ErrNoPost = fault.Code("no_post")

// unknownHash is compared with when an address is unknown, so that the answer takes as long.
const unknownHash = "$argon2id$v=19$m=19456,t=2,p=1$AAAAAAAAAAAAAAAAAAAAAA$AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA"

// params are OWASP's second recommendation for Argon2id (RFC 9106).
var params = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

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

// Hash is a password as it is kept.
func Hash(password string) (string, error) {
	h, err := argon2id.CreateHash(password, params)
	if err != nil {
		return "", fmt.Errorf("hash a password: %w", err)
	}
	return h, nil
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

// Letter kinds, by what the address in them is for.
const (
	Invitation = "invitation" // activates an account
	NewWord    = "new_word"   // sets a new password
)

var lasts = map[string]time.Duration{Invitation: 14 * 24 * time.Hour, NewWord: 2 * time.Hour}

// sendKey is the job of sending someone an address that opens their account.
type sendKey struct {
	Person uuid.UUID `json:"person"`
	Letter string    `json:"letter"`
}

// Kind implements river.JobArgs.
func (sendKey) Kind() string { return "send_key" }

// InsertOpts implements river.JobArgsWithInsertOpts.
func (sendKey) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Post, MaxAttempts: 12}
}

// Register adds the jobs of this package to kinds.
func (s *Service) Register(kinds *river.Workers) {
	jobs.Register(kinds, jobs.Kind[sendKey]{Limit: time.Minute, Do: s.send})
}

// Key makes an address, below the public one, that opens the account of a person once. Only
// its hash is kept.
func (s *Service) Key(ctx context.Context, person uuid.UUID, letter string) (string, error) {
	raw := make([]byte, 24)
	_, _ = rand.Read(raw) // never fails
	key := base64.RawURLEncoding.EncodeToString(raw)
	sum := sha256.Sum256([]byte(key))
	// Real time counts here, as for sessions.
	const keep = `insert into account_key (hash, person_id, made_at, ends_at)
		values ($1, $2, now(), now() + $3::interval)`
	if _, err := s.DB.Exec(ctx, keep, sum[:], person, lasts[letter]); err != nil {
		return "", fmt.Errorf("make an address for an account: %w", err)
	}
	return s.Public + "/welcome/" + key, nil
}

func (s *Service) send(ctx context.Context, in sendKey, _ bool) error {
	p, err := s.account(ctx, in.Person)
	if errors.Is(err, ErrUnknown) {
		return nil // they are gone
	}
	if err != nil {
		return err
	}
	address, err := s.Key(ctx, p.ID, in.Letter)
	if err != nil {
		return err
	}
	subject, text := fault.Code("letter.password"), fault.Code("letter.password_text")
	if in.Letter == Invitation {
		subject, text = "letter.invitation", "letter.invitation_text"
	}
	return s.Post.Send(ctx, mail.Letter{To: p.Email, Subject: texts.English.Say(fault.Say(subject)),
		Text: texts.English.Say(fault.Say(text, "name", p.Name, "address", address))})
}

// Invite sends people who have no active account a letter with which they can activate it,
// and says how many. Its error is ErrNoPost when none can be sent. course limits it to those of a
// course, again includes those who were invited before, but nobody more often than once an hour.
func (s *Service) Invite(ctx context.Context, course *uuid.UUID, people []uuid.UUID, again bool) (sent int, err error) {
	if !s.Post.On() {
		return 0, ErrNoPost
	}
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const mark = `insert into account (person_id, invited_at) select p.id, now() from person_account p
			where not p.active and not p.guest and not p.closed
			and ($1::uuid is null or exists (select 1 from membership m where m.person_id = p.id and m.course_id = $1))
			and ($2::uuid[] is null or p.id = any($2))
			on conflict (person_id) do update set invited_at = now()
			where account.invited_at is null or $3 and account.invited_at < now() - interval '1 hour'
			returning person_id`
		rows, err := tx.Query(ctx, mark, course, people, again)
		if err != nil {
			return fmt.Errorf("invite people: %w", err)
		}
		ids, err := pgx.CollectRows(rows, pgx.RowTo[uuid.UUID])
		if err != nil {
			return fmt.Errorf("invite people: %w", err)
		}
		sent = len(ids)
		list := make([]river.JobArgs, len(ids))
		for i, id := range ids {
			list[i] = sendKey{id, Invitation}
		}
		return s.Queue.AddAll(ctx, tx, list)
	})
	return sent, err
}

// Forgotten sends the person with this address a letter with which they can set a new
// password. It says nothing about whether there is one.
func (s *Service) Forgotten(ctx context.Context, email, from string) error {
	if !s.Post.On() {
		return ErrNoPost
	}
	email = strings.ToLower(strings.TrimSpace(email))
	// A network is that of a whole hall, so that it may ask for many.
	account, address := limitKey("forgotten", email), limitKey("forgotten from", Network(from))
	open, err := s.count(ctx, map[string]limit{string(account): {account, 3}, string(address): {address, 300}})
	if err != nil {
		return err
	}
	if !open {
		return ErrTooMany
	}
	id, err := postgres.Value[uuid.UUID](ctx, s.DB, `select id from person_account where email = $1 and not closed`,
		email)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil
	}
	if err != nil {
		return fmt.Errorf("look up a person: %w", err)
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error { return s.Queue.Add(ctx, tx, sendKey{id, NewWord}) })
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
	if ok, err := argon2id.ComparePasswordAndHash(old, hash); err != nil || !ok {
		return fault.One("old", "password.old")
	}
	return s.setPassword(ctx, p, password, func(pgx.Tx) error { return nil })
}

func (s *Service) setPassword(ctx context.Context, p Account, password string, first func(pgx.Tx) error) error {
	if err := checkPassword(password, p); err != nil {
		return err
	}
	hash, err := Hash(password)
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
