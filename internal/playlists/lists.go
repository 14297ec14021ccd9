package playlists

import (
	"context"
	"errors"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/playlist"
	"latelantern/internal/platform/postgres"
)

const (
	mostLists = 60 // that one course shows beside its main one
)

// Kept is what of a playlist is changed.
type Kept struct {
	Title    string // of the main one none
	About    string
	Arranged playlist.Arranged
}

func (k Kept) clean(main bool) (Kept, error) {
	least := 1
	if main {
		k.Title, least = "", 0
	}
	var err error
	if k.Title, err = line(k.Title, least, mostTitle, "playlist.title"); err != nil {
		return k, err
	}
	if k.About, err = line(k.About, 0, mostAbout, "playlist.about"); err != nil {
		return k, err
	}
	if !k.Arranged.Known() {
		return k, fmt.Errorf("%w: %w", ErrInvalid, fault.Code("playlist.arranged"))
	}
	return k, nil
}

// AddList makes a playlist of a course, which shows it after its others.
func (s *Service) AddList(ctx context.Context, course, by uuid.UUID, k Kept) (uuid.UUID, error) {
	k, err := k.clean(false)
	if err != nil {
		return uuid.Nil, err
	}
	var id uuid.UUID
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) (err error) {
		id, err = s.addList(ctx, tx, course, by, k)
		return err
	})
	return id, err
}

func (s *Service) addList(ctx context.Context, tx pgx.Tx, course, by uuid.UUID, k Kept) (uuid.UUID, error) {
	id := uuid.Must(uuid.NewV7())
	const insert = `insert into playlist (id, course_id, title, about, arranged, made_by, made_at)
		values ($1, $2, $3, $4, $5, $6, $7)`
	if _, err := tx.Exec(ctx, insert, id, course, k.Title, k.About, k.Arranged, by, s.Clock.Now()); err != nil {
		return id, fmt.Errorf("make a playlist: %w", err)
	}
	return id, s.place(ctx, tx, id, course)
}

// ChangeList changes what a playlist of a course is called, and what it is in order by.
func (s *Service) ChangeList(ctx context.Context, of Of, k Kept) error {
	return s.edit(ctx, of, func(tx pgx.Tx, h held) error {
		k, err := k.clean(h.Main)
		if err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, `update playlist set title = $2, about = $3, arranged = $4 where id = $1`, h.ID,
			k.Title, k.About, k.Arranged); err != nil {
			return fmt.Errorf("change a playlist: %w", err)
		}
		return nil
	})
}

// SetDeleted takes a playlist of a course away wherever it is shown, or brings it back. What is lit stays lit. The main
// one stays: it is ErrInvalid to take it away.
func (s *Service) SetDeleted(ctx context.Context, of Of, deleted bool) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const hold = listSQL + `where p.id = $1 and p.course_id = $2 for update of p`
		list, err := postgres.One[List](ctx, tx, hold, of.List, of.Course)
		if errors.Is(err, pgx.ErrNoRows) {
			return ErrUnknown
		}
		if err != nil {
			return fmt.Errorf("hold a playlist: %w", err)
		}
		if list.Main {
			return fmt.Errorf("%w: %w", ErrInvalid, fault.Code("playlist.main_stays"))
		}
		const update = `update playlist set deleted_at = case when $2 then coalesce(deleted_at, $3) end where id = $1`
		if _, err := tx.Exec(ctx, update, of.List, deleted, s.Clock.Now()); err != nil {
			return fmt.Errorf("take a playlist away: %w", err)
		}
		return said(ctx, tx, of.List)
	})
}

// Show has a course show a playlist, after its others, or show it no more. A main one is shown by its course alone, and
// one of its own a course always shows.
func (s *Service) Show(ctx context.Context, of Of, show bool) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const hold = listSQL + `where p.id = $1 and not p.main and p.course_id <> $2
			and p.deleted_at is null for update of p`
		if _, err := postgres.One[List](ctx, tx, hold, of.List, of.Course); errors.Is(err, pgx.ErrNoRows) {
			return ErrUnknown
		} else if err != nil {
			return fmt.Errorf("hold a playlist: %w", err)
		}
		if show {
			return s.place(ctx, tx, of.List, of.Course)
		}
		if err := said(ctx, tx, of.List); err != nil { // also where it is shown no more
			return err
		}
		_, err := tx.Exec(ctx, `delete from playlist_place where playlist_id = $1 and course_id = $2`, of.List,
			of.Course)
		return err
	})
}

// place has a course show a playlist after its others; one that it shows stays in its place.
func (s *Service) place(ctx context.Context, tx pgx.Tx, list, course uuid.UUID) error {
	const held = `select 1 from course where id = $1 for no key update`
	if _, err := tx.Exec(ctx, held, course); err != nil {
		return fmt.Errorf("hold a course: %w", err)
	}
	n, err := postgres.Value[int](ctx, tx, `select count(*) from shown_playlist where course_id = $1`, course)
	if err != nil {
		return fmt.Errorf("count playlists: %w", err)
	}
	if n > mostLists {
		return fmt.Errorf("%w: %w", ErrInvalid, fault.Say("playlist.too_many", "most", mostLists))
	}
	const insert = `insert into playlist_place (playlist_id, course_id, position)
		values ($1, $2, (select coalesce(max(position) + 1, 0) from playlist_place where course_id = $2))
		on conflict do nothing`
	if _, err := tx.Exec(ctx, insert, list, course); err != nil {
		return fmt.Errorf("show a playlist: %w", err)
	}
	return said(ctx, tx, list)
}
