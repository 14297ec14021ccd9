package audience

import (
	"context"
	"errors"
	"fmt"
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
	select o.id from opening_person c join opening o on o.id = c.opening_id and o.turn = c.turn
	where c.person_id = $1 and o.ended_at is null and ($2::uuid[] is null or o.recording_id = any($2))
	union
	select o.id from opening o join person p on p.id = $1 and not p.guest
	where o.kind = 'everyone' and o.ended_at is null and ($2::uuid[] is null or o.recording_id = any($2))
)
select o.id as opening_id, o.uses,
	(select max(coalesce(z.until_at, '9999-01-01Z')) from shut_out z where z.person_id = $1 and z.ended_at is null
		and z.course_id = l.course_id and (z.recording_id is null or z.recording_id = o.recording_id)) as shut_until,
	` + ownColumns + `, ` + windowColumns + ` from mine join opening o on o.id = mine.id` + ownJoined + `
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
	rows, err := s.openedTo(ctx, person, nil)
	if err != nil {
		return nil, err
	}
	out, seen := []uuid.UUID{}, map[uuid.UUID]bool{}
	for _, x := range rows {
		w, err := x.way()
		if err != nil {
			return nil, err
		}
		if !seen[x.RecordingID] && w.Decide(s.Clock.Now()).Watch() {
			seen[x.RecordingID] = true
			out = append(out, x.RecordingID)
		}
	}
	return out, nil
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
		where o.recording_id = $1 and r.deleted_at is null`
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

// OpeningChange is what an opening would change.
type OpeningChange struct {
	Gain  int    // people who can watch then, and cannot now
	Of    int    // people for whom it is; of a link nobody knows
	Names []Name // of those who gain, where people are named
}

// PreviewOpening says what opening a recording would change, if it opened at once. Its errors are those of Open.
func (s *Service) PreviewOpening(ctx context.Context, recording uuid.UUID, f OpeningForm) (OpeningChange, error) {
	const of = `select l.course_id, t.last_day, t.zone from recording r join lecture l on l.id = r.lecture_id
		join course k on k.id = l.course_id join term t on t.id = k.term_id where r.id = $1 and r.deleted_at is null`
	about, err := postgres.One[openedCourse](ctx, s.DB, of, recording)
	if errors.Is(err, pgx.ErrNoRows) {
		return OpeningChange{}, ErrUnknown
	}
	if err != nil {
		return OpeningChange{}, fmt.Errorf("look what would be opened: %w", err)
	}
	end, err := termEnd(about.LastDay, about.Zone)
	if err != nil {
		return OpeningChange{}, err
	}
	if err := f.check(s.Clock.Now(), end); err != nil {
		return OpeningChange{}, err
	}
	const named = `select id as person_id, name from person_account where not guest and not closed
		and ($1 or id = any($2)) order by name, id`
	people, err := postgres.All[Name](ctx, s.DB, named, f.Kind == ForEveryone, f.People)
	if err != nil {
		return OpeningChange{}, fmt.Errorf("list for whom an opening would be: %w", err)
	}
	released, err := s.Released(ctx, recording)
	if err != nil {
		return OpeningChange{}, err
	}
	known, err := s.known(ctx, released)
	if err != nil {
		return OpeningChange{}, err
	}
	out := OpeningChange{Of: len(people)}
	for _, p := range people {
		as := func(course uuid.UUID) viewing.Viewer { return known[shutSeat{p.PersonID, course}] }
		shut := s.Clock.Now().Before(released.shut[shutSeat{p.PersonID, about.CourseID}])
		if shut || released.Door(p.PersonID, false, as, s.Clock.Now()).Watch() {
			continue
		}
		if out.Gain++; f.Kind == ForPeople {
			out.Names = append(out.Names, p)
		}
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
