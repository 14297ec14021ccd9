package signin

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/texts"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/mail"
	"latelantern/internal/platform/postgres"
)

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
	tongue := texts.Of(p.Language, s.Language)
	return s.Post.Send(ctx, mail.Letter{To: p.Email, Subject: tongue.Say(fault.Say(subject)),
		Text: tongue.Say(fault.Say(text, "name", p.Name, "address", address))})
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

// Speak has a person written to in a language from now on. Its error is ErrLanguage for one of which there is no
// catalogue, and ErrUnknown for nobody.
func (s *Service) Speak(ctx context.Context, person uuid.UUID, language string) error {
	if texts.Languages[language] == nil {
		return ErrLanguage
	}
	const keep = `insert into account (person_id, language) select id, $2 from person where id = $1
		on conflict (person_id) do update set language = excluded.language`
	tag, err := s.DB.Exec(ctx, keep, person, language)
	if err != nil {
		return fmt.Errorf("keep the language of a person: %w", err)
	}
	if tag.RowsAffected() == 0 {
		return ErrUnknown
	}
	return nil
}
