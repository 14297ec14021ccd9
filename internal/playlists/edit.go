package playlists

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/playlist"
	"latelantern/internal/platform/postgres"
)

const (
	mostEntries = 2000 // in one playlist
	mostTitle   = 120  // letters of a heading, of a title
	mostAbout   = 500  // letters of a sentence
	mostAddress = 2000 // letters of an address
)

// held is a playlist that nobody else changes meanwhile, with its entries as people put them.
type held struct {
	List
	items []playlist.Item[uuid.UUID]
}

// find is a playlist that a course shows; the zero value for a main one that was never filled. Its error is ErrUnknown.
func (s *Service) find(ctx context.Context, q postgres.Querier, of Of) (List, error) {
	const query = listSQL + `where case when $2::uuid is null then p.main and p.course_id = $1
		else p.id = $2 and exists (select 1 from shown_playlist x where x.playlist_id = p.id and x.course_id = $1) end`
	out, err := postgres.One[List](ctx, q, query, of.Course, postgres.OrNil(of.List))
	switch {
	case err == nil || errors.Is(err, pgx.ErrNoRows) && of.List == uuid.Nil:
		return out, nil
	case errors.Is(err, pgx.ErrNoRows):
		return out, ErrUnknown
	}
	return out, fmt.Errorf("find a playlist: %w", err)
}

// hold keeps others from changing a playlist of a course, its main one made if need be. That of another course is
// ErrUnknown.
func (s *Service) hold(ctx context.Context, tx pgx.Tx, of Of) (held, error) {
	if of.List == uuid.Nil {
		const ensure = `insert into playlist (id, course_id, main) values ($1, $2, true)
			on conflict (course_id) where main do update set course_id = excluded.course_id returning id`
		var err error
		if of.List, err = postgres.Value[uuid.UUID](ctx, tx, ensure, uuid.Must(uuid.NewV7()), of.Course); err != nil {
			return held{}, fmt.Errorf("hold a playlist: %w", err)
		}
	}
	out := held{}
	var err error
	out.List, err = postgres.One[List](ctx, tx,
		listSQL+`where p.id = $1 and p.course_id = $2 and p.deleted_at is null for update of p`, of.List, of.Course)
	if errors.Is(err, pgx.ErrNoRows) {
		return out, ErrUnknown
	}
	if err != nil {
		return out, fmt.Errorf("hold a playlist: %w", err)
	}
	const order = `select e.id, e.heading, r.lecture_id, l.starts_at, r.created_at as made_at
		from playlist_entry e left join recording r on r.id = e.recording_id left join lecture l on l.id = r.lecture_id
		where e.playlist_id = $1 order by e.position, e.id`
	type row struct {
		ID        uuid.UUID
		Heading   *string
		LectureID *uuid.UUID
		StartsAt  *time.Time
		MadeAt    *time.Time
	}
	rows, err := postgres.All[row](ctx, tx, order, of.List)
	if err != nil {
		return out, fmt.Errorf("read the order of a playlist: %w", err)
	}
	for _, r := range rows {
		e := Entry{ID: r.ID, Heading: r.Heading, LectureID: r.LectureID, StartsAt: r.StartsAt, MadeAt: r.MadeAt}
		out.items = append(out.items, e.item())
	}
	return out, nil
}

// shown are the entries of a held playlist in the order of which people can say before what something is put: as they
// are shown, but with the headings that weeks stand for.
func (h held) shown() []playlist.Item[uuid.UUID] {
	if h.Arranged == playlist.Date {
		return playlist.Arrange(h.items, playlist.Date)
	}
	return playlist.Arrange(h.items, playlist.Hand)
}

// edit changes a playlist of a course in a transaction in which it is held.
func (s *Service) edit(ctx context.Context, of Of, do func(tx pgx.Tx, h held) error) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error { return s.editIn(ctx, tx, of, do) })
}

func (s *Service) editIn(ctx context.Context, tx pgx.Tx, of Of, do func(tx pgx.Tx, h held) error) error {
	h, err := s.hold(ctx, tx, of)
	if err != nil {
		return err
	}
	if err := do(tx, h); err != nil {
		return err
	}
	return said(ctx, tx, h.ID)
}

// room says that there is none for another entry.
func (h held) room() error {
	if len(h.items) < mostEntries {
		return nil
	}
	return fmt.Errorf("%w: %w", ErrInvalid, fault.Say("playlist.full", "most", mostEntries))
}

// insert puts a new entry at the end of a held playlist.
func (s *Service) insert(ctx context.Context, tx pgx.Tx, h held, e Entry) (uuid.UUID, error) {
	if err := h.room(); err != nil {
		return uuid.Nil, err
	}
	const query = `insert into playlist_entry (id, playlist_id, position, heading, about, title, address, recording_id,
			file_id, filled)
		values ($1, $2, (select coalesce(max(position) + 1, 0) from playlist_entry where playlist_id = $2),
			$3, $4, $5, $6, $7, $8, $9) on conflict (playlist_id, recording_id) do nothing`
	id := uuid.Must(uuid.NewV7())
	tag, err := tx.Exec(ctx, query, id, h.ID, e.Heading, e.About, e.Title, e.Address, e.RecordingID, e.FileID,
		e.Filled)
	if err != nil {
		return uuid.Nil, fmt.Errorf("add to a playlist: %w", err)
	}
	if tag.RowsAffected() == 0 {
		id = uuid.Nil
	}
	return id, nil
}

// Text is what a heading, a page elsewhere or a file says.
type Text struct {
	Title   string
	About   string // of a heading: a sentence below it, or ""
	Address string // of a page
}

// clean is what of a text is kept. page says whether it is that of a page.
func (t Text) clean(page bool) (Text, error) {
	var err error
	if t.Title, err = line(t.Title, 1, mostTitle, "playlist.heading"); err != nil {
		return t, err
	}
	if t.About, err = line(t.About, 0, mostAbout, "playlist.about"); err != nil {
		return t, err
	}
	t.Address = strings.TrimSpace(t.Address)
	if !page {
		return t, nil
	}
	at, err := url.Parse(t.Address)
	if err != nil || at.Scheme != "https" && at.Scheme != "http" || at.Host == "" || len(t.Address) > mostAddress {
		return t, fmt.Errorf("%w: %w", ErrInvalid, fault.Code("playlist.address"))
	}
	return t, nil
}

// line is a text as one line, of so many letters, or the error that it is not.
func line(text string, least, most int, otherwise fault.Code) (string, error) {
	text = strings.Join(strings.Fields(text), " ")
	if n := len([]rune(text)); n < least || n > most {
		return "", fmt.Errorf("%w: %w", ErrInvalid, otherwise)
	}
	return text, nil
}

// AddHeading puts a topic heading at the end of a playlist.
func (s *Service) AddHeading(ctx context.Context, of Of, t Text) (id uuid.UUID, err error) {
	if t, err = t.clean(false); err != nil {
		return id, err
	}
	err = s.edit(ctx, of, func(tx pgx.Tx, h held) (err error) {
		id, err = s.insert(ctx, tx, h, Entry{Heading: &t.Title, About: t.About})
		return err
	})
	return id, err
}

// AddPage puts a page elsewhere at the end of a playlist.
func (s *Service) AddPage(ctx context.Context, of Of, t Text) (id uuid.UUID, err error) {
	if t, err = t.clean(true); err != nil {
		return id, err
	}
	err = s.edit(ctx, of, func(tx pgx.Tx, h held) (err error) {
		id, err = s.insert(ctx, tx, h, Entry{Title: t.Title, Address: &t.Address})
		return err
	})
	return id, err
}

// Word changes what a heading, a page or a file says.
func (s *Service) Word(ctx context.Context, of Of, entry uuid.UUID, t Text) error {
	t, err := t.clean(t.Address != "")
	if err != nil {
		return err
	}
	return s.edit(ctx, of, func(tx pgx.Tx, h held) error {
		const update = `update playlist_entry set heading = case when heading is not null then $3 end, about = $4,
			title = case when heading is null then $3 else '' end, address = nullif($5, '')
			where id = $1 and playlist_id = $2 and recording_id is null and (address is null) = ($5 = '')`
		tag, err := tx.Exec(ctx, update, entry, h.ID, t.Title, t.About, t.Address)
		if err == nil && tag.RowsAffected() == 0 {
			err = ErrUnknown
		}
		return err
	})
}

// Add puts recordings into a playlist, each after the last recording of an earlier lecture; one that is there stays
// where it is. The course has them, or they are of one of those that are taught by who adds them.
func (s *Service) Add(ctx context.Context, of Of, taught []uuid.UUID, recordings ...uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		for _, r := range recordings {
			if _, err := s.put(ctx, tx, of, r, taught); err != nil {
				return err
			}
		}
		return nil
	})
}

// Put puts a recording that a course has into its main playlist, unless it stands in any that the course shows, as a
// part of tx. It gives the entry that was made; uuid.Nil for none.
func (s *Service) Put(ctx context.Context, tx pgx.Tx, course, recording uuid.UUID) (entry uuid.UUID, err error) {
	const query = `select exists (select 1 from playlist_entry e join shown_playlist x on x.playlist_id = e.playlist_id
		where x.course_id = $1 and e.recording_id = $2)`
	there, err := postgres.Value[bool](ctx, tx, query, course, recording)
	if err != nil {
		return uuid.Nil, fmt.Errorf("look whether a course shows a recording: %w", err)
	}
	if there {
		return uuid.Nil, nil
	}
	return s.put(ctx, tx, Of{Course: course}, recording, nil)
}

// put puts a recording into a playlist by hand, unless it is there.
func (s *Service) put(ctx context.Context, tx pgx.Tx, of Of, recording uuid.UUID,
	taught []uuid.UUID) (entry uuid.UUID, err error) {
	err = s.editIn(ctx, tx, of, func(tx pgx.Tx, h held) error {
		at, err := recordingFor(ctx, tx, of.Course, recording, taught)
		if err != nil {
			return err
		}
		if err := byHand(ctx, tx, h.ID, recording); err != nil {
			return err
		}
		entry, err = s.insert(ctx, tx, h, Entry{RecordingID: &recording})
		if err != nil || entry == uuid.Nil {
			return err
		}
		shown := h.shown()
		if before := playlist.Place(shown, at); before != uuid.Nil {
			return s.arrange(ctx, tx, append(shown, playlist.Item[uuid.UUID]{ID: entry}), []uuid.UUID{entry}, before)
		}
		return nil
	})
	return entry, err
}

// recordingFor is when the lecture of a recording begins that can be put into a playlist of a course: one that the
// course has, or of one of those that are taught. Its error is ErrUnknown.
func recordingFor(ctx context.Context, tx pgx.Tx, course, recording uuid.UUID, taught []uuid.UUID) (time.Time, error) {
	const known = `select l.starts_at from recording r join lecture l on l.id = r.lecture_id
		where r.id = $1 and r.deleted_at is null and exists (select 1 from release e
		where e.recording_id = r.id and (e.course_id = $2 or e.own and e.course_id = any($3)))`
	at, err := postgres.Value[time.Time](ctx, tx, known, recording, course, taught)
	if errors.Is(err, pgx.ErrNoRows) {
		return at, ErrUnknown
	}
	if err != nil {
		return at, fmt.Errorf("find a recording for a playlist: %w", err)
	}
	return at, nil
}

// byHand notes that somebody put a recording into a playlist: it is not held out any more, and stays whatever its
// sentence asks for.
func byHand(ctx context.Context, tx pgx.Tx, list, recording uuid.UUID) error {
	if _, err := tx.Exec(ctx, `delete from playlist_held_out where playlist_id = $1 and recording_id = $2`, list,
		recording); err != nil {
		return fmt.Errorf("hold out of a playlist no more: %w", err)
	}
	if _, err := tx.Exec(ctx, `update playlist_entry set filled = false where playlist_id = $1 and recording_id = $2`,
		list, recording); err != nil {
		return fmt.Errorf("note what is in a playlist by hand: %w", err)
	}
	return nil
}

// Move puts entries before another one, in the order in which they stand, or at the end when before is the zero value.
// In a playlist by weeks nothing is moved.
func (s *Service) Move(ctx context.Context, of Of, entries []uuid.UUID, before uuid.UUID) error {
	return s.edit(ctx, of, func(tx pgx.Tx, h held) error {
		if h.Arranged == playlist.Week {
			return fmt.Errorf("%w: %w", ErrInvalid, fault.Code("playlist.by_week"))
		}
		return s.arrange(ctx, tx, h.shown(), entries, before)
	})
}

func (s *Service) arrange(ctx context.Context, tx pgx.Tx, items []playlist.Item[uuid.UUID], entries []uuid.UUID,
	before uuid.UUID) error {
	order, err := playlist.Move(items, entries, before)
	if err != nil {
		return fmt.Errorf("%w: %w", ErrUnknown, err)
	}
	return keepOrder(ctx, tx, order)
}

// keepOrder gives entries of one playlist their places.
func keepOrder(ctx context.Context, tx pgx.Tx, order []uuid.UUID) error {
	const update = `update playlist_entry e set position = o.n from unnest($1::uuid[]) with ordinality o(id, n)
		where e.id = o.id and e.position is distinct from o.n`
	if _, err := tx.Exec(ctx, update, order); err != nil {
		return fmt.Errorf("arrange a playlist: %w", err)
	}
	return nil
}

// Remove takes entries out of a playlist. A recording that is lit stays lit.
func (s *Service) Remove(ctx context.Context, of Of, entries ...uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error { return s.remove(ctx, tx, of, entries) })
}

// TakeOut takes an entry that Put made out again, as a part of tx.
func (s *Service) TakeOut(ctx context.Context, tx pgx.Tx, course, entry uuid.UUID) error {
	return s.remove(ctx, tx, Of{Course: course}, []uuid.UUID{entry})
}

func (s *Service) remove(ctx context.Context, tx pgx.Tx, of Of, entries []uuid.UUID) error {
	entries = slices.Compact(slices.SortedFunc(slices.Values(entries),
		func(a, b uuid.UUID) int { return strings.Compare(a.String(), b.String()) }))
	return s.editIn(ctx, tx, of, func(tx pgx.Tx, h held) error {
		if h.Filled() { // what its sentence brought does not come again
			const out = `insert into playlist_held_out (playlist_id, recording_id)
				select playlist_id, recording_id from playlist_entry
				where id = any($1) and playlist_id = $2 and recording_id is not null on conflict do nothing`
			if _, err := tx.Exec(ctx, out, entries, h.ID); err != nil {
				return fmt.Errorf("hold out of a playlist: %w", err)
			}
		}
		tag, err := tx.Exec(ctx, `delete from playlist_entry where id = any($1) and playlist_id = $2`, entries, h.ID)
		if err == nil && int(tag.RowsAffected()) != len(entries) {
			err = ErrUnknown
		}
		return err
	})
}
