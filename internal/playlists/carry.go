package playlists

import (
	"context"
	"fmt"
	"slices"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/core/playlist"
	"latelantern/internal/platform/postgres"
)

// Carry makes the playlists of a course for another, as a part of tx: their titles, order, headings and pages
// elsewhere, and, where again is set, the recordings that people put there; of other courses only with
// foreign. One that fills itself from all of its course fills itself from all of the other; one that does so by words,
// by these words. Playlists that the course shows of others stay behind.
func (s *Service) Carry(ctx context.Context, tx pgx.Tx, from, to, by uuid.UUID,
	again, foreign bool) (playlist.Carried[uuid.UUID], error) {
	var out playlist.Carried[uuid.UUID]
	const query = listSQL + `join shown_playlist x on x.playlist_id = p.id
		where x.course_id = $1 order by x.position, p.id`
	lists, err := postgres.All[List](ctx, tx, query, from)
	if err != nil {
		return out, fmt.Errorf("list the playlists of a course: %w", err)
	}
	for _, l := range lists {
		if l.CourseID != from || l.FillCourse != nil && *l.FillCourse != from {
			out.Left = append(out.Left, l.Title)
			continue
		}
		if err := s.carryList(ctx, tx, l, to, by, again, foreign, &out); err != nil {
			return out, err
		}
	}
	return out, nil
}

// carryList carries one of them.
func (s *Service) carryList(ctx context.Context, tx pgx.Tx, l List, to, by uuid.UUID, again, foreign bool,
	out *playlist.Carried[uuid.UUID]) error {
	of := Of{Course: to}
	if !l.Main {
		var err error
		dress := Kept{Title: l.Title, About: l.About, Arranged: l.Arranged}
		if of.List, err = s.addList(ctx, tx, to, by, dress); err != nil {
			return err
		}
		out.Lists = append(out.Lists, of.List)
	}
	h, err := s.hold(ctx, tx, of)
	if err != nil {
		return err
	}
	const dress = `update playlist set about = $2, arranged = $3, fill_words = $4, filled_by = $5,
		fill_course = case when $6 then course_id end where id = $1`
	filler := postgres.OrNil(uuid.Nil)
	if l.Filled() {
		filler = &by
	}
	if _, err := tx.Exec(ctx, dress, h.ID, l.About, l.Arranged, l.FillWords, filler, l.FillCourse != nil); err != nil {
		return fmt.Errorf("carry what a playlist is: %w", err)
	}
	if err := s.carryEntries(ctx, tx, l, h.ID, again, foreign, out); err != nil {
		return err
	}
	return said(ctx, tx, h.ID)
}

// carryEntries copies what people put into a playlist to the end of another.
func (s *Service) carryEntries(ctx context.Context, tx pgx.Tx, from List, to uuid.UUID,
	again, foreign bool, out *playlist.Carried[uuid.UUID]) error {
	const read = `select e.heading, e.about, e.title, e.address, e.recording_id, e.file_id from playlist_entry e
		left join recording r on r.id = e.recording_id left join lecture l on l.id = r.lecture_id
		where e.playlist_id = $1 and not e.filled and (e.recording_id is null
			or $2 and r.deleted_at is null and (l.course_id = $3 or $4))
		order by e.position, e.id`
	entries, err := postgres.All[struct {
		Heading     *string
		About       string
		Title       string
		Address     *string
		RecordingID *uuid.UUID
		FileID      *uuid.UUID
	}](ctx, tx, read, from.ID, again, from.CourseID, foreign)
	if err != nil {
		return fmt.Errorf("read the entries of a playlist: %w", err)
	}
	batch := &pgx.Batch{}
	for n, e := range entries {
		id := uuid.Must(uuid.NewV7())
		if from.Main {
			out.Entries = append(out.Entries, id)
		}
		file, err := carryFile(ctx, tx, e.FileID, to)
		if err != nil {
			return err
		}
		batch.Queue(`insert into playlist_entry (id, playlist_id, position, heading, about, title, address,
			recording_id, file_id) values ($1, $2, $3, $4, $5, $6, $7, $8, $9)`, id, to, n, e.Heading, e.About, e.Title,
			e.Address, e.RecordingID, file)
		switch {
		case e.Heading != nil:
			out.Headings++
		case e.Address != nil:
			out.Pages++
		case e.FileID != nil:
			out.Files++
		case !slices.Contains(out.Recordings, *e.RecordingID):
			out.Recordings = append(out.Recordings, *e.RecordingID)
		}
	}
	if err := tx.SendBatch(ctx, batch).Close(); err != nil {
		return fmt.Errorf("carry the entries of a playlist: %w", err)
	}
	return nil
}

// Bare says whether a course has nothing in a playlist of its own, and shows none of others.
func (s *Service) Bare(ctx context.Context, tx pgx.Tx, course uuid.UUID) (bool, error) {
	const query = `select not exists (select 1 from playlist p where p.course_id = $1 and p.deleted_at is null
			and (not p.main or exists (select 1 from playlist_entry e where e.playlist_id = p.id)))
		and not exists (select 1 from playlist_place x where x.course_id = $1)`
	bare, err := postgres.Value[bool](ctx, tx, query, course)
	if err != nil {
		return false, fmt.Errorf("look which playlists a course has: %w", err)
	}
	return bare, nil
}

// Uncarry removes playlists, and entries of others, as if they had never been, as a part of tx.
func (s *Service) Uncarry(ctx context.Context, tx pgx.Tx, course uuid.UUID, lists, entries []uuid.UUID) error {
	for sql, ids := range map[string][]uuid.UUID{
		`delete from playlist where course_id = $1 and id = any($2)`: lists,
		`delete from playlist_entry e using playlist p
			where p.id = e.playlist_id and p.course_id = $1 and e.id = any($2)`: entries,
	} {
		if _, err := tx.Exec(ctx, sql, course, ids); err != nil {
			return fmt.Errorf("remove the playlists that were carried to a course: %w", err)
		}
	}
	return postgres.Notify(ctx, tx, postgres.Event{About: event.Playlist, Course: course})
}
