package capture

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/core/timetable"
	"latelantern/internal/platform/postgres"
)

// arrive keeps what is known of a file as it is begun.
func (s *Service) arrive(ctx context.Context, tx pgx.Tx, in Start, track uuid.UUID) error {
	var modified *time.Time
	if !in.Modified.IsZero() {
		modified = &in.Modified
	}
	placed := ""
	if in.Lecture != uuid.Nil {
		placed = "person"
	}
	const insert = `with a as (insert into arrival (track_id, course_id, words, modified_at, placed_by)
		values ($1, $2, $3, $4, $5))
		update track set fingerprint = $6 where id = $1`
	if _, err := tx.Exec(ctx, insert, track, postgres.OrNil(in.Course), in.Words, modified, placed,
		in.Print); err != nil {
		return fmt.Errorf("keep what is known of a file: %w", err)
	}
	return nil
}

// Arrival is a file that was made elsewhere, from its first byte on.
type Arrival struct {
	Track       uuid.UUID
	FileName    string
	By          *uuid.UUID // who sent it
	ByName      string
	CourseID    *uuid.UUID // among whose lectures its own is looked for
	Words       string
	Stored      int64
	Size        *int64
	BegunAt     time.Time
	CameAt      *time.Time // when the last byte came
	ArrivedAt   time.Time  // when any byte last came
	ModifiedAt  *time.Time
	MadeAt      *time.Time // its own time
	LengthMs    int64      // 0 when not known
	Sorted      bool       // it was looked into
	Fault       Fault
	PutAway     bool
	PlacedBy    string // "", person, itself
	Reading     timetable.Reading
	LectureID   *uuid.UUID // of which it is
	RecordingID *uuid.UUID
	State       string // of its packaging: waiting, running, ready, failed
	PackedMs    int64
	ExpectedMs  int64
	PackBeganAt *time.Time
	Shown       bool // the recording gives light, or stands in a playlist: it stays at its lecture
	Twice       bool // the same file is here elsewhere
}

// Evidence is what it says of when and where it was made.
func (a Arrival) Evidence() timetable.Evidence {
	e := timetable.Evidence{Words: a.FileName + " " + a.Words, Length: time.Duration(a.LengthMs) * time.Millisecond}
	if a.MadeAt != nil {
		e.Inside = *a.MadeAt
	}
	if a.ModifiedAt != nil {
		e.Modified = *a.ModifiedAt
	}
	return e
}

const arrivalSQL = `select a.track_id as track, c.file_name, c.started_by as by, coalesce(p.name, '') as by_name,
	a.course_id, a.words, t.stored, t.length as size,
		c.started_at as begun_at, c.stopped_at as came_at, t.arrived_at, a.modified_at, a.made_at, a.length_ms,
		a.sorted_at is not null as sorted,
		coalesce(nullif(a.fault, ''), t.fault) as fault, a.put_away_at is not null as put_away, a.placed_by, a.reading,
		c.lecture_id, rc.recording_id,
		t.state, t.packed_ms, t.expected_ms, t.pack_began_at,
		exists (select 1 from shown_recording x where x.recording_id = r.id)
		or exists (select 1 from listed_recording x where x.recording_id = r.id) as shown,
		exists (select 1 from track o left join arrival oa on oa.track_id = o.id left
		join recording_capture oc on oc.capture_id = o.capture_id and oc.from_ms is null left
		join recording orec on orec.id = oc.recording_id
			where o.fingerprint = t.fingerprint and o.id <> t.id and oa.put_away_at is null
			and orec.deleted_at is null) as twice
	from arrival a join track t on t.id = a.track_id join capture c on c.id = t.capture_id left
	join person p on p.id = c.started_by
	left join recording_capture rc on rc.capture_id = c.id and rc.from_ms is null left
	join recording r on r.id = rc.recording_id
	where `

// Arrivals lists the files that a person sent, or with uuid.Nil that anyone did: all that wait
// for their lecture, and what came since a time. The latest is first; of very many the earliest
// are left out.
func (s *Service) Arrivals(ctx context.Context, by uuid.UUID, since time.Time) ([]Arrival, error) {
	const which = `($1::uuid is null or c.started_by = $1) and a.put_away_at is null and r.deleted_at is null
		and (c.lecture_id is null or c.started_at >= $2)
		order by c.started_at desc, a.track_id desc limit 500`
	out, err := postgres.All[Arrival](ctx, s.DB, arrivalSQL+which, postgres.OrNil(by), since)
	if err != nil {
		return nil, fmt.Errorf("list the files that came: %w", err)
	}
	return out, nil
}

// Unmatched is how many files that a person sent, or with uuid.Nil anyone, came and wait for
// their lecture.
func (s *Service) Unmatched(ctx context.Context, by uuid.UUID) (int, error) {
	const query = `select count(*)::int from arrival a join track t on t.id = a.track_id
		join capture c on c.id = t.capture_id
		where c.lecture_id is null and c.stopped_at is not null and a.put_away_at is null and a.fault = ''
		and ($1::uuid is null or c.started_by = $1)`
	n, err := postgres.Value[int](ctx, s.DB, query, postgres.OrNil(by))
	if err != nil {
		return 0, fmt.Errorf("count the files without a lecture: %w", err)
	}
	return n, nil
}

// Arrival is one file, put away or not. Its error is ErrUnknown for none.
func (s *Service) Arrival(ctx context.Context, track uuid.UUID) (Arrival, error) {
	a, err := postgres.One[Arrival](ctx, s.DB, arrivalSQL+"a.track_id = $1", track)
	if errors.Is(err, pgx.ErrNoRows) {
		return a, ErrUnknown
	}
	if err != nil {
		return a, fmt.Errorf("read what is known of a file: %w", err)
	}
	return a, nil
}

// Place says of which lecture a file is, and may be said again: then its recording goes to the
// other lecture, as long as nobody is shown it. It can be said before all of the file has come.
func (s *Service) Place(ctx context.Context, track, lecture uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error { return s.place(ctx, tx, track, lecture, "person", "") })
}

func (s *Service) place(ctx context.Context, tx pgx.Tx, track, lecture uuid.UUID, by string,
	reading timetable.Reading) error {
	c, err := postgres.One[struct {
		ID       uuid.UUID
		Lecture  *uuid.UUID
		Began    time.Time
		Complete bool
	}](ctx, tx, `select c.id, c.lecture_id as lecture, c.started_at as began, c.stopped_at is not null as complete
		from track t join capture c on c.id = t.capture_id
		join arrival a on a.track_id = t.id where t.id = $1 for no key update of c`, track)
	if errors.Is(err, pgx.ErrNoRows) {
		return ErrUnknown
	}
	if err != nil {
		return fmt.Errorf("read a file: %w", err)
	}
	if by == "itself" && c.Lecture != nil { // a person was faster
		return nil
	}
	known, err := postgres.Value[bool](ctx, tx, `select exists (select 1 from lecture where id = $1)`, lecture)
	if err != nil {
		return fmt.Errorf("look for a lecture: %w", err)
	}
	if !known {
		return ErrLecture
	}
	const keep = `with c as (update capture set lecture_id = $2 where id = $3)
		update arrival set placed_by = $4, reading = $5, put_away_at = null where track_id = $1`
	if _, err := tx.Exec(ctx, keep, track, lecture, c.ID, by, string(reading)); err != nil {
		return fmt.Errorf("keep of which lecture a file is: %w", err)
	}
	switch {
	case c.Lecture == nil:
		if _, err := s.Recordings.Open(ctx, tx, lecture, c.ID, c.Began, false); err != nil {
			return err
		}
		if c.Complete {
			if err := s.Queue.Add(ctx, tx, packFile{Track: track}); err != nil {
				return err
			}
		}
	case *c.Lecture != lecture:
		if err := s.notify(ctx, tx, event.Capture, track); err != nil {
			return err
		}
		recording, err := postgres.Value[uuid.UUID](ctx, tx,
			`select recording_id from recording_capture where capture_id = $1 and from_ms is null`, c.ID)
		if err != nil {
			return fmt.Errorf("find the recording of a file: %w", err)
		}
		if err := s.Recordings.Move(ctx, tx, recording, lecture); err != nil {
			return err
		}
	}
	return s.notify(ctx, tx, event.Capture, track)
}

// PutAway puts a file that belongs to no lecture away, or brings it back.
func (s *Service) PutAway(ctx context.Context, track uuid.UUID, away bool) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const query = `update arrival a set put_away_at = case when $2 then $3::timestamptz end from track t
			join capture c on c.id = t.capture_id
			where t.id = $1 and a.track_id = t.id and c.lecture_id is null returning coalesce(c.started_by, $4)`
		by, err := postgres.Value[uuid.UUID](ctx, tx, query, track, away, s.Clock.Now(), uuid.Nil)
		if errors.Is(err, pgx.ErrNoRows) {
			return nil
		}
		if err != nil {
			return fmt.Errorf("put a file away: %w", err)
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.File, Person: by, Track: track})
	})
}
