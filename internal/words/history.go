package words

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/platform/postgres"
)

// topic is what of a recording was changed: its captions in a language, or with none its chapters.
type topic struct {
	recording uuid.UUID
	language  string
}

// record is a change of a topic, with what it changed as it was and as it became.
type record struct {
	kind        string
	was, became any
	heads       []byte // see turnHeads
}

// undoable are columns that tell whether a change of the topic of a recording $1 and of a
// language can be taken back, or made again.
func undoable(language string) string {
	const of = `exists (select 1 from word_change h where h.recording_id = $1 and h.language = `
	return of + language + ` and h.undone_at is null) as undo, ` + of + language +
		` and h.undone_at is not null) as redo`
}

// keep keeps a change.
func (s *Service) keep(ctx context.Context, tx pgx.Tx, of topic, by uuid.UUID, r record) error {
	was, err := json.Marshal(r.was)
	became, err2 := json.Marshal(r.became)
	if err := errors.Join(err, err2); err != nil {
		return fmt.Errorf("write a change: %w", err)
	}
	// What was undone cannot be made again over another change.
	if _, err := tx.Exec(ctx,
		`delete from word_change where recording_id = $1 and language = $2 and undone_at is not null`, of.recording,
		of.language); err != nil {
		return fmt.Errorf("forget undone changes: %w", err)
	}
	const insert = `insert into word_change (id, recording_id, language, kind, was, became, heads, made_by, made_at)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9)`
	if _, err := tx.Exec(ctx, insert, uuid.Must(uuid.NewV7()), of.recording, of.language, r.kind, was, became, r.heads,
		who(by), s.Clock.Now()); err != nil {
		return fmt.Errorf("keep a change: %w", err)
	}
	return nil
}

// way is the direction in which one goes through changes.
type way bool

const (
	back  way = false
	again way = true
)

// turned is a change that was taken back or made again.
type turned struct {
	ID    uuid.UUID
	Heads []byte
}

// turn takes the last change of a topic back, or makes the one again that was taken back last. It
// reads what must stand there now into is, and what is to stand there into other. Its error is
// ErrNothing when there is none.
func (s *Service) turn(ctx context.Context, tx pgx.Tx, of topic, to way, is, other any) (turned, error) {
	query := `update word_change set undone_at = $3
		where id = (select id from word_change where recording_id = $1 and language = $2 and undone_at is null
		order by id desc limit 1)
		returning id, heads, became as is, was as other`
	if to == again {
		query = `update word_change set undone_at = null
			where $3::timestamptz is not null
			and id = (select id from word_change where recording_id = $1 and language = $2 and undone_at is not null
			order by id limit 1)
			returning id, heads, was as is, became as other`
	}
	c, err := postgres.One[struct {
		turned
		Is, Other []byte
	}](ctx, tx, query, of.recording, of.language, s.Clock.Now())
	if errors.Is(err, pgx.ErrNoRows) {
		return turned{}, ErrNothing
	}
	if err == nil {
		err = errors.Join(json.Unmarshal(c.Is, is), json.Unmarshal(c.Other, other))
	}
	if err != nil {
		return turned{}, fmt.Errorf("read a change: %w", err)
	}
	return c.turned, nil
}
