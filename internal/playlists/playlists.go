// Package playlists keeps the recordings of a course in order, under topic headings.
package playlists

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/playlist"
	"latelantern/internal/platform/postgres"
)

// Service keeps the playlists of courses. All its fields are needed. It may be used by many at once. A call whose
// context ends gives its error and has changed nothing.
type Service struct {
	DB *pgxpool.Pool
}

// ErrUnknown says that there is no such entry, recording or course.
var ErrUnknown = fault.Code("playlist.unknown")

// ErrInvalid says that something cannot be kept; the error it wraps can be shown.
var ErrInvalid = fault.Code("playlist.invalid")

// Entry is one line of a playlist: a heading, or a recording.
type Entry struct {
	ID          uuid.UUID
	Heading     *string
	RecordingID *uuid.UUID
	EditionID   *uuid.UUID // that is published, if any
	LectureID   *uuid.UUID
	Title       string
	Topic       string
	StartsAt    *time.Time
	Ahead       bool   // its lecture is for a whole week
	From        string // the code of the course of its lecture, when that is another
	LengthMs    int64  // of what is published; 0 when nothing is
	Lit         bool
}

const entriesSQL = `select e.id, e.heading, e.recording_id, r.edition_id, l.id as lecture_id,
	coalesce(r.title, '') as title,
	coalesce(l.topic, '') as topic, l.starts_at, coalesce(l.ahead, false) as ahead,
	case when l.course_id <> p.course_id then k.code else '' end as "from",
	coalesce(ed.length_ms, 0) as length_ms,
	coalesce(s.lit, false) as lit
	from playlist p join playlist_entry e on e.playlist_id = p.id
	left join recorded r on r.id = e.recording_id left join lecture l on l.id = r.lecture_id
	left join course k on k.id = l.course_id left join edition ed on ed.id = r.edition_id
	left join released s on s.recording_id = r.id and s.course_id = p.course_id
	where p.course_id = $1 and (r.id is null or r.deleted_at is null) order by e.position`

// Entries lists the playlist of a course in its order.
func (s *Service) Entries(ctx context.Context, course uuid.UUID) ([]Entry, error) {
	out, err := postgres.All[Entry](ctx, s.DB, entriesSQL, course)
	if err != nil {
		return nil, fmt.Errorf("list a playlist: %w", err)
	}
	return out, nil
}

// hold gives the playlist of a course, made if need be, and keeps others from changing it.
func (s *Service) hold(ctx context.Context, tx pgx.Tx, course uuid.UUID) (uuid.UUID, []uuid.UUID, error) {
	const ensure = `insert into playlist (id, course_id) values ($1, $2) on conflict (course_id)
		do update set course_id = excluded.course_id returning id`
	list, err := postgres.Value[uuid.UUID](ctx, tx, ensure, uuid.Must(uuid.NewV7()), course)
	if err != nil {
		return list, nil, fmt.Errorf("hold a playlist: %w", err)
	}
	order, err := postgres.Values[uuid.UUID](ctx, tx,
		`select id from playlist_entry where playlist_id = $1 order by position`, list)
	if err != nil {
		return list, nil, fmt.Errorf("read the order of a playlist: %w", err)
	}
	return list, order, nil
}

func (s *Service) edit(ctx context.Context, course uuid.UUID,
	do func(tx pgx.Tx, list uuid.UUID, order []uuid.UUID) error) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error { return s.editIn(ctx, tx, course, do) })
}

func (s *Service) editIn(ctx context.Context, tx pgx.Tx, course uuid.UUID,
	do func(tx pgx.Tx, list uuid.UUID, order []uuid.UUID) error) error {
	list, order, err := s.hold(ctx, tx, course)
	if err != nil {
		return err
	}
	if err := do(tx, list, order); err != nil {
		return err
	}
	return postgres.Notify(ctx, tx, postgres.Event{About: event.Playlist, Course: course})
}

// last is the position after all others of the playlist $2.
const last = `(select coalesce(max(position) + 1, 0) from playlist_entry where playlist_id = $2)`

// AddHeading puts a topic heading at the end of a playlist.
func (s *Service) AddHeading(ctx context.Context, course uuid.UUID, text string) (uuid.UUID, error) {
	id := uuid.Must(uuid.NewV7())
	text, err := heading(text)
	if err != nil {
		return id, err
	}
	return id, s.edit(ctx, course, func(tx pgx.Tx, list uuid.UUID, _ []uuid.UUID) error {
		_, err := tx.Exec(ctx,
			`insert into playlist_entry (id, playlist_id, position, heading) values ($1, $2, `+last+`, $3)`, id, list,
			text)
		return err
	})
}

func heading(text string) (string, error) {
	text = strings.Join(strings.Fields(text), " ")
	if n := len([]rune(text)); n == 0 || n > 120 {
		return "", fmt.Errorf("%w: %w", ErrInvalid, fault.Code("playlist.heading"))
	}
	return text, nil
}

// Rename changes the text of a heading.
func (s *Service) Rename(ctx context.Context, course, entry uuid.UUID, text string) error {
	text, err := heading(text)
	if err != nil {
		return err
	}
	return s.edit(ctx, course, func(tx pgx.Tx, list uuid.UUID, _ []uuid.UUID) error {
		tag, err := tx.Exec(ctx,
			`update playlist_entry set heading = $3 where id = $1 and playlist_id = $2 and heading is not null`, entry,
			list, text)
		if err == nil && tag.RowsAffected() == 0 {
			err = ErrUnknown
		}
		return err
	})
}

// Add puts a recording that the course has into its playlist, after the last recording of an
// earlier lecture. It does nothing when the recording is there already.
func (s *Service) Add(ctx context.Context, course, recording uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		_, err := s.Put(ctx, tx, course, recording)
		return err
	})
}

// Put is Add as a part of tx. It gives the entry that was made; uuid.Nil for a recording that was in the playlist.
func (s *Service) Put(ctx context.Context, tx pgx.Tx, course, recording uuid.UUID) (entry uuid.UUID, err error) {
	err = s.editIn(ctx, tx, course, func(tx pgx.Tx, list uuid.UUID, order []uuid.UUID) (err error) {
		entry, err = s.add(ctx, tx, course, list, recording, order)
		return err
	})
	return entry, err
}

func (s *Service) add(ctx context.Context, tx pgx.Tx, course, list, recording uuid.UUID,
	order []uuid.UUID) (entry uuid.UUID, err error) {
	const known = `select exists (select 1 from release e join recording r on r.id = e.recording_id
		where e.recording_id = $1 and e.course_id = $2 and r.deleted_at is null)`
	if ok, err := postgres.Value[bool](ctx, tx, known, recording, course); err != nil || !ok {
		return uuid.Nil, errors.Join(err, ErrUnknown)
	}
	id := uuid.Must(uuid.NewV7())
	const insert = `insert into playlist_entry (id, playlist_id, position, recording_id) values ($1, $2, ` + last +
		`, $3) on conflict (playlist_id, recording_id) do nothing`
	tag, err := tx.Exec(ctx, insert, id, list, recording)
	if err != nil {
		return uuid.Nil, fmt.Errorf("add to a playlist: %w", err)
	}
	if tag.RowsAffected() == 0 {
		return uuid.Nil, nil
	}
	const later = `select e.id from playlist_entry e join recording r on r.id = e.recording_id
		join lecture l on l.id = r.lecture_id
		where e.playlist_id = $1
		and l.starts_at > (select l.starts_at from recording r join lecture l on l.id = r.lecture_id where r.id = $2)
		order by e.position limit 1`
	before, err := postgres.Value[uuid.UUID](ctx, tx, later, list, recording)
	if errors.Is(err, pgx.ErrNoRows) {
		return id, nil
	}
	if err != nil {
		return uuid.Nil, fmt.Errorf("find the place in a playlist: %w", err)
	}
	return id, s.arrange(ctx, tx, append(order, id), id, before)
}

// Move puts an entry before another, or at the end when before is the zero value.
func (s *Service) Move(ctx context.Context, course, entry, before uuid.UUID) error {
	return s.edit(ctx, course, func(tx pgx.Tx, _ uuid.UUID, order []uuid.UUID) error {
		return s.arrange(ctx, tx, order, entry, before)
	})
}

func (s *Service) arrange(ctx context.Context, tx pgx.Tx, order []uuid.UUID, entry, before uuid.UUID) error {
	order, err := playlist.Move(order, entry, before)
	if err != nil {
		return fmt.Errorf("%w: %w", ErrUnknown, err)
	}
	const update = `update playlist_entry e set position = o.n from unnest($1::uuid[]) with ordinality o(id, n)
		where e.id = o.id`
	if _, err := tx.Exec(ctx, update, order); err != nil {
		return fmt.Errorf("arrange a playlist: %w", err)
	}
	return nil
}

// Remove takes an entry out of a playlist. A recording that is lit stays lit.
func (s *Service) Remove(ctx context.Context, course, entry uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error { return s.TakeOut(ctx, tx, course, entry) })
}

// TakeOut is Remove as a part of tx.
func (s *Service) TakeOut(ctx context.Context, tx pgx.Tx, course, entry uuid.UUID) error {
	return s.editIn(ctx, tx, course, func(tx pgx.Tx, list uuid.UUID, _ []uuid.UUID) error {
		tag, err := tx.Exec(ctx, `delete from playlist_entry where id = $1 and playlist_id = $2`, entry, list)
		if err == nil && tag.RowsAffected() == 0 {
			err = ErrUnknown
		}
		return err
	})
}
