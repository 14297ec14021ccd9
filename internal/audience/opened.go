package audience

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// openedRow is an opening that is for someone.
type openedRow struct {
	OpeningID uuid.UUID
	Uses      []string
	ShutUntil *time.Time // of them, by the course of the lecture
	own
	windowRow
}

func (x openedRow) way() (viewing.Way, error) {
	release, err := x.release()
	opening := openingOf(x.Uses, x.windowRow)
	w := viewing.Way{Opening: &opening, Release: release}
	if x.ShutUntil != nil {
		w.ShutUntil = *x.ShutUntil
	}
	return w, err
}

// at is the release by which an opening lets someone in, without a rule.
func (x openedRow) at() releaseRow {
	return releaseRow{RecordingID: x.RecordingID, CourseID: x.CourseID, Code: x.Code, EditionID: x.EditionID, Own: true,
		LectureEnd: x.LectureEnd, LastDay: x.LastDay, Zone: x.Zone}
}

// openedSQL are the openings for the person $1, of the recordings $2, or of all when that is null. Guests come by links
// alone.
const openedSQL = `
with mine as materialized (
	select o.id as opening_id, o.recording_id
	from opening_person c join opening o on o.id = c.opening_id and o.turn = c.turn
	where c.person_id = $1 and o.ended_at is null and o.recording_id is not null
		and ($2::uuid[] is null or o.recording_id = any($2))
	union
	select w.opening_id, w.recording_id from opening_person c join opening o on o.id = c.opening_id and o.turn = c.turn
	join listed_opening w on w.opening_id = o.id
	where c.person_id = $1 and o.ended_at is null and o.playlist_id is not null
		and ($2::uuid[] is null or w.recording_id = any($2))
	union
	select o.id, o.recording_id from opening o join person p on p.id = $1 and not p.guest
	where o.kind = 'everyone' and o.ended_at is null and ($2::uuid[] is null or o.recording_id = any($2))
)
select o.id as opening_id, o.uses,
	(select max(coalesce(z.until_at, '9999-01-01Z')) from shut_out z where z.person_id = $1 and z.ended_at is null
		and z.course_id = l.course_id and (z.recording_id is null or z.recording_id = w.recording_id)) as shut_until,
	` + ownColumns + `, ` + windowColumns + ` from mine w join opening o on o.id = w.opening_id` + ownJoined + `
where r.deleted_at is null order by o.made_at desc, o.id`

// openedTo are the openings for a person, of some recordings; of any when that is nil.
func (s *Service) openedTo(ctx context.Context, person uuid.UUID, recordings []uuid.UUID) ([]openedRow, error) {
	rows, err := postgres.All[openedRow](ctx, s.often(), openedSQL, person, recordings)
	if err != nil {
		return nil, fmt.Errorf("read what is open to someone: %w", err)
	}
	return rows, nil
}

// Opened are the recordings that are open to someone beside any course now, the one opened last first.
func (s *Service) Opened(ctx context.Context, person uuid.UUID) ([]uuid.UUID, error) {
	rows, err := s.openNow(ctx, person)
	out, seen := []uuid.UUID{}, map[uuid.UUID]bool{}
	for _, x := range rows {
		if !seen[x.RecordingID] {
			seen[x.RecordingID] = true
			out = append(out, x.RecordingID)
		}
	}
	return out, err
}

// openNow are the openings by which something is open to someone now, the one made last first.
func (s *Service) openNow(ctx context.Context, person uuid.UUID) ([]openedRow, error) {
	rows, err := s.openedTo(ctx, person, nil)
	if err != nil {
		return nil, err
	}
	var out []openedRow
	for _, x := range rows {
		w, err := x.way()
		if err != nil {
			return nil, err
		}
		if w.Decide(s.Clock.Now()).Watch() {
			out = append(out, x)
		}
	}
	return out, nil
}

// Holds is where the links lead by which someone came, the one made last before others: to a recording, or by an
// opening to a playlist. Both are uuid.Nil for who has none that holds.
func (s *Service) Holds(ctx context.Context, person uuid.UUID) (recording, opening uuid.UUID, err error) {
	rows, err := s.openNow(ctx, person)
	if err != nil || len(rows) == 0 {
		return recording, opening, err
	}
	if rows[0].List {
		return recording, rows[0].OpeningID, nil
	}
	return rows[0].RecordingID, opening, nil
}

// ListOf is the playlist whose link someone came by, and its course. Its error is ErrLink for who did not, or where
// nothing of it is open to them now.
func (s *Service) ListOf(ctx context.Context, person, opening uuid.UUID) (course, list uuid.UUID, err error) {
	rows, err := s.openNow(ctx, person)
	if err != nil {
		return course, list, err
	}
	if !slices.ContainsFunc(rows, func(x openedRow) bool { return x.List && x.OpeningID == opening }) {
		return course, list, ErrLink
	}
	const of = `select p.course_id, p.id from opening o join playlist p on p.id = o.playlist_id where o.id = $1`
	if err := s.DB.QueryRow(ctx, of, opening).Scan(&course, &list); err != nil {
		return course, list, fmt.Errorf("read whose link someone came by: %w", err)
	}
	return course, list, nil
}

// LinkedList is the playlist of a course that an opening is a link to; uuid.Nil for any other.
func (s *Service) LinkedList(ctx context.Context, course, opening uuid.UUID) (uuid.UUID, error) {
	const of = `select p.id from opening o join playlist p on p.id = o.playlist_id where o.id = $1 and p.course_id = $2`
	list, err := postgres.Value[uuid.UUID](ctx, s.DB, of, opening, course)
	if err != nil && !errors.Is(err, pgx.ErrNoRows) {
		return list, fmt.Errorf("look what a link opens: %w", err)
	}
	return list, nil
}

// openedTo is an opening with all for whom it is.
type openedTo struct {
	Kind Kind
	openedRow
	way    viewing.Way
	people map[uuid.UUID]bool // none of ForEveryone
	former map[uuid.UUID]bool // those, and who came by an earlier address
	ended  bool
}

func (o openedTo) isFor(person uuid.UUID, guest bool) bool {
	return o.people[person] || o.Kind == ForEveryone && !guest
}

// openedToAny are the openings of a recording, also those that were taken back.
func (s *Service) openedToAny(ctx context.Context, recording uuid.UUID) ([]openedTo, error) {
	const query = `select o.id as opening_id, o.kind, o.uses, null::timestamptz as shut_until, ` + ownColumns + `, ` +
		windowColumns + `, o.ended_at is not null as ended,
		array(select c.person_id from opening_person c where c.opening_id = o.id and c.turn = o.turn) as people,
		array(select c.person_id from opening_person c where c.opening_id = o.id) as former` + ownFrom + `
		where w.recording_id = $1 and r.deleted_at is null`
	rows, err := postgres.All[struct {
		Kind           Kind
		Ended          bool
		People, Former []uuid.UUID
		openedRow
	}](ctx, s.DB, query, recording)
	if err != nil {
		return nil, fmt.Errorf("read to whom a recording is open: %w", err)
	}
	var out []openedTo
	for _, x := range rows {
		w, err := x.openedRow.way()
		if err != nil {
			return nil, err
		}
		o := openedTo{Kind: x.Kind, openedRow: x.openedRow, way: w, people: map[uuid.UUID]bool{},
			former: map[uuid.UUID]bool{}, ended: x.Ended}
		for _, id := range x.People {
			o.people[id] = true
		}
		for _, id := range x.Former {
			o.former[id] = true
		}
		out = append(out, o)
	}
	return out, nil
}

// known is how the courses that have a recording know people, and coordinators.
func (s *Service) known(ctx context.Context, of Released) (map[shutSeat]viewing.Viewer, error) {
	var courses []uuid.UUID
	for _, x := range of.rows {
		courses = append(courses, x.CourseID)
	}
	const query = `select p.id as person_id, k as course_id, p.coordinator, coalesce(m.role, '') as role,
			coalesce(m.group_name, '') as "group"
		from unnest($1::uuid[]) k join person p on p.coordinator or exists (select 1 from membership
			where course_id = k and person_id = p.id)
		left join membership m on m.course_id = k and m.person_id = p.id`
	rows, err := postgres.All[struct {
		PersonID, CourseID uuid.UUID
		Coordinator        bool
		Role, Group        string
	}](ctx, s.DB, query, courses)
	if err != nil {
		return nil, fmt.Errorf("read who knows a recording: %w", err)
	}
	out := make(map[shutSeat]viewing.Viewer, len(rows))
	for _, x := range rows {
		out[shutSeat{x.PersonID, x.CourseID}] = viewing.Viewer{Coordinator: x.Coordinator, Role: viewing.Role(x.Role),
			Group: x.Group}
	}
	return out, nil
}
