package playlists

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/playlist"
	"latelantern/internal/platform/postgres"
)

// Entry is one line of a playlist: a heading, a recording, a page elsewhere, or a file.
type Entry struct {
	ID          uuid.UUID
	PlaylistID  uuid.UUID
	Heading     *string
	About       string // a sentence below a heading
	Address     *string
	FileID      *uuid.UUID
	FileName    string
	FileBytes   int64
	RecordingID *uuid.UUID
	EditionID   *uuid.UUID // that is published, if any
	LectureID   *uuid.UUID
	Title       string
	Topic       string
	StartsAt    *time.Time
	MadeAt      *time.Time // the recording
	Ahead       bool       // its lecture is for a whole week
	From        string     // the code of the course of its lecture, when that is another
	Own         *uuid.UUID // the course of its lecture
	Had         bool       // the course that shows it has the recording
	LengthMs    int64      // of what is published; 0 when nothing is
	Lit         bool       // for the course that shows it
	Filled      bool       // the sentence of its playlist brought it

	Number playlist.Part `db:"-"` // among the parts of its lecture that stand here
}

// Shown is a playlist with its entries, in their order, as a course shows it.
type Shown struct {
	Course uuid.UUID
	List
	Entries []Entry `db:"-"`
}

const entriesSQL = `select e.id, e.playlist_id, e.heading, e.about, e.address, e.file_id,
	coalesce(f.name, '') as file_name, coalesce(f.bytes, 0) as file_bytes, e.filled, e.recording_id,
	r.edition_id,
	l.id as lecture_id, case when e.recording_id is null then e.title else coalesce(r.title, '') end as title,
	coalesce(l.topic, '') as topic, l.starts_at, r.created_at as made_at, coalesce(l.ahead, false) as ahead,
	case when l.course_id <> x.course_id then k.code else '' end as "from",
	coalesce(ed.length_ms, 0) as length_ms,
	coalesce(s.lit, false) as lit, l.course_id as own, s.recording_id is not null as had, x.course_id as shown_in
	from %s x join playlist_entry e on e.playlist_id = x.playlist_id
	left join recorded r on r.id = e.recording_id left join lecture l on l.id = r.lecture_id
	left join course k on k.id = l.course_id left join edition ed on ed.id = r.edition_id
	left join released s on s.recording_id = r.id and s.course_id = x.course_id
	left join playlist_file f on f.id = e.file_id
	where %s and (r.id is null or r.deleted_at is null) order by e.position, e.id`

// entry is an Entry as a course shows it.
type entry struct {
	Entry
	ShownIn uuid.UUID
}

// Entries lists a playlist in its order, as its course sees it; nothing for a main one that was never filled.
func (s *Service) Entries(ctx context.Context, of Of) ([]Entry, error) {
	list, err := s.find(ctx, s.DB, of)
	if err != nil || list.ID == uuid.Nil {
		return nil, err
	}
	rows, err := postgres.All[entry](ctx, s.DB, fmt.Sprintf(entriesSQL,
		`(select $1::uuid as playlist_id, $2::uuid as course_id)`, `true`), list.ID, of.Course)
	if err != nil {
		return nil, fmt.Errorf("list a playlist: %w", err)
	}
	return arranged(rows, list.Arranged), nil
}

// Shelves lists all that courses show, course by course, each in the order of its Lists.
func (s *Service) Shelves(ctx context.Context, courses []uuid.UUID) ([]Shown, error) {
	const lists = `select x.course_id as course, ` + listColumns + `
		from shown_playlist x join playlist p on p.id = x.playlist_id join course k on k.id = p.course_id
		where x.course_id = any($1) order by array_position($1, x.course_id), x.position, p.id`
	out, err := postgres.All[Shown](ctx, s.DB, lists, courses)
	if err != nil {
		return nil, fmt.Errorf("list the playlists of courses: %w", err)
	}
	rows, err := postgres.All[entry](ctx, s.DB,
		fmt.Sprintf(entriesSQL, `shown_playlist`, `x.course_id = any($1)`), courses)
	if err != nil {
		return nil, fmt.Errorf("list what is in the playlists of courses: %w", err)
	}
	type place struct{ course, list uuid.UUID }
	of := map[place][]entry{}
	for _, e := range rows {
		at := place{e.ShownIn, e.PlaylistID}
		of[at] = append(of[at], e)
	}
	for i, x := range out {
		out[i].Entries = arranged(of[place{x.Course, x.ID}], x.Arranged)
	}
	return out, nil
}

// EntryBasis is SQL for all that Shelves says of a course, a text for each row, where the course is given as SQL.
func (s *Service) EntryBasis(course string) string {
	return `select l::text from (select x.position, ` + listColumns + ` from shown_playlist x
		join playlist p on p.id = x.playlist_id join course k on k.id = p.course_id
		where x.course_id = ` + course + `) l
		union all select q::text from (select e.position, s.* from (` +
		fmt.Sprintf(entriesSQL, `shown_playlist`, `x.course_id = `+course) + `) s join playlist_entry e on e.id = s.id) q`
}

// item is what core needs of an entry.
func (e Entry) item() playlist.Item[uuid.UUID] {
	out := playlist.Item[uuid.UUID]{ID: e.ID, Heading: e.Heading != nil, Lecture: postgres.OrZero(e.LectureID)}
	if e.StartsAt != nil {
		out.At, out.Made = *e.StartsAt, *e.MadeAt
	}
	return out
}

// arranged are rows in the order in which they are shown, with their parts numbered.
func arranged(rows []entry, by playlist.Arranged) []Entry {
	items := make([]playlist.Item[uuid.UUID], 0, len(rows))
	known := make(map[uuid.UUID]Entry, len(rows))
	for _, r := range rows {
		items = append(items, r.item())
		known[r.ID] = r.Entry
	}
	items = playlist.Arrange(items, by)
	out := make([]Entry, 0, len(items))
	for at, part := range playlist.Parts(items) {
		e := known[items[at].ID]
		e.Number = part
		out = append(out, e)
	}
	return out
}
