// Package playlists keeps recordings in order, under topic headings, in any number of playlists. Each belongs to a
// course, whose teachers change it; any number of courses show it.
package playlists

import (
	"context"
	"errors"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/playlist"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
)

// Service keeps playlists. All its fields are needed. It may be used by many at once. A call whose context ends gives
// its error and has changed nothing.
type Service struct {
	DB    *pgxpool.Pool
	Blobs blobs.Store
	Clock clock.Clock
}

// ErrUnknown says that there is no such playlist, entry, recording or course.
var ErrUnknown = fault.Code("playlist.unknown")

// ErrInvalid says that something cannot be kept; the error it wraps can be shown.
var ErrInvalid = fault.Code("playlist.invalid")

// List is a playlist as a course shows it.
type List struct {
	ID       uuid.UUID
	CourseID uuid.UUID // whose it is
	Code     string    // of that course
	Main     bool      // what is lit for its course goes into it; it has no title
	Title    string
	About    string // a sentence or two
	Arranged playlist.Arranged

	FillCourse *uuid.UUID // it keeps itself filled with all of that course
	FillWords  string     // or with what holds these words; "" with neither for what is put there alone
}

// Filled says whether a playlist keeps itself filled.
func (l List) Filled() bool { return l.FillCourse != nil || l.FillWords != "" }

// Of is a playlist of a course: its main one where List is the zero value.
type Of struct{ Course, List uuid.UUID }

const listColumns = `p.id, p.course_id, k.code, p.main, p.title, p.about, p.arranged, p.fill_course, p.fill_words`

const listSQL = `select ` + listColumns + `
	from playlist p join course k on k.id = p.course_id `

// Lists lists the playlists that a course shows, its main one first, which is there once something was put into it.
func (s *Service) Lists(ctx context.Context, course uuid.UUID) ([]List, error) {
	const query = listSQL + `join shown_playlist x on x.playlist_id = p.id
		where x.course_id = $1 order by x.position, p.id`
	out, err := postgres.All[List](ctx, s.DB, query, course)
	if err != nil {
		return nil, fmt.Errorf("list playlists: %w", err)
	}
	return out, nil
}

// List is a playlist of whichever course, also one that was taken away. Its error is ErrUnknown.
func (s *Service) List(ctx context.Context, id uuid.UUID) (List, error) {
	out, err := postgres.One[List](ctx, s.DB, listSQL+`where p.id = $1`, id)
	if errors.Is(err, pgx.ErrNoRows) {
		return out, ErrUnknown
	}
	if err != nil {
		return out, fmt.Errorf("read a playlist: %w", err)
	}
	return out, nil
}

// Offered are playlists of some courses, or with nil of any, that a course does not show; of very many the first.
func (s *Service) Offered(ctx context.Context, course uuid.UUID, courses []uuid.UUID) ([]List, error) {
	const query = listSQL + `where ($2::uuid[] is null or p.course_id = any($2)) and not p.main
		and p.deleted_at is null and not exists (select 1 from playlist_place x
			where x.playlist_id = p.id and x.course_id = $1) order by k.code, p.title, p.id limit 500`
	out, err := postgres.All[List](ctx, s.DB, query, course, courses)
	if err != nil {
		return nil, fmt.Errorf("list playlists of other courses: %w", err)
	}
	return out, nil
}

// Courses are those that show a playlist: that whose it is first, the others by their codes.
func (s *Service) Courses(ctx context.Context, list uuid.UUID) ([]uuid.UUID, error) {
	const query = `select x.course_id from shown_playlist x join playlist p on p.id = x.playlist_id
		join course k on k.id = x.course_id where x.playlist_id = $1 order by x.course_id <> p.course_id, k.code`
	out, err := postgres.Values[uuid.UUID](ctx, s.DB, query, list)
	if err != nil {
		return nil, fmt.Errorf("list the courses that show a playlist: %w", err)
	}
	return out, nil
}

// said notes for all who look at them that a playlist changed: in its own course and wherever it is shown.
func said(ctx context.Context, tx pgx.Tx, list uuid.UUID) error {
	const query = `select course_id from playlist where id = $1
		union select course_id from playlist_place where playlist_id = $1`
	courses, err := postgres.Values[uuid.UUID](ctx, tx, query, list)
	if err != nil {
		return fmt.Errorf("find where a playlist is shown: %w", err)
	}
	for _, c := range courses {
		if err := postgres.Notify(ctx, tx, postgres.Event{About: event.Playlist, Course: c}); err != nil {
			return err
		}
	}
	return nil
}
