// Package capture takes in what is captured: it begins a capture, appends its bytes to a
// durable log, and packages the log into segments that can be watched while it grows.
package capture

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/timetable"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/postgres"
)

// Source is where a capture comes from.
type Source string

const (
	Desk Source = "desk" // a person's own computer, as it happens
	Hall Source = "hall" // a recorder that stands in a hall, as it happens
	File Source = "file" // a recording made elsewhere
)

// Live reports whether the bytes come as it happens.
func (s Source) Live() bool { return s == Desk || s == Hall }

// Recordings is what capture needs of the library.
type Recordings interface {
	// Open gives the recording that a capture belongs to.
	Open(ctx context.Context, tx pgx.Tx, lecture, capture uuid.UUID, began time.Time, live bool) (uuid.UUID, error)
	// Packed tells that everything of the capture can be watched.
	Packed(ctx context.Context, tx pgx.Tx, capture uuid.UUID) error
	// Move takes a recording to another lecture. Its error is a refusal that can be shown while it is shown to anyone.
	Move(ctx context.Context, tx pgx.Tx, recording, lecture uuid.UUID) error
	// Leave takes a capture that never became complete out of its recording, and reports whether it had one.
	Leave(ctx context.Context, tx pgx.Tx, capture uuid.UUID) (bool, error)
	// ClearBin removes recordings that were taken away long ago, and has the captures forgotten that only they held.
	ClearBin(ctx context.Context, forget func(ctx context.Context, tx pgx.Tx, captures []uuid.UUID) error) (int, error)
}

// Editions is what capture needs of what is published.
type Editions interface {
	// Smaller tells that there is a small copy of the capture.
	Smaller(ctx context.Context, tx pgx.Tx, capture uuid.UUID) error
}

// Timetable is what capture needs of the schedule.
type Timetable interface {
	// Matches lists the lectures that a recording may be of, the likeliest first: among those of
	// a course, or when it is uuid.Nil of all courses that a person may capture for.
	Matches(ctx context.Context, person, course uuid.UUID, e timetable.Evidence) ([]timetable.Match, error)
}

// Service takes what is captured and sent, and makes it watchable. All its exported fields but Small are needed. It
// may be used by many at once. A call whose context ends gives its error and has changed nothing, but that bytes
// which arrived are kept.
type Service struct {
	DB         *pgxpool.Pool
	Blobs      blobs.Keeper
	Queue      *jobs.Queue
	Events     *postgres.Events
	Clock      clock.Clock
	Recordings Recordings
	Editions   Editions
	Timetable  Timetable
	Small      bool // small copies are made

	told tellings
}

// The ways in which bytes can be refused.
var (
	ErrUnknown  = fault.Code("capture.unknown")
	ErrOffset   = fault.Code("capture.offset")
	ErrLength   = fault.Code("capture.length")
	ErrComplete = fault.Code("complete")
	ErrLecture  = fault.Code("lecture.unknown")
	ErrTooLarge = fault.Code("capture.too_large")
	ErrBeside   = fault.Code("capture.beside")
	ErrTaken    = fault.Code("capture.taken")
	ErrHere     = fault.Code("here")
)

// MaxLength is the most bytes that one track may have: about 40 hours of a usual capture.
const MaxLength = 48 << 30

// Start is what is known when a capture begins.
type Start struct {
	Lecture   uuid.UUID // or uuid.Nil for a File of which it is not known yet
	By        uuid.UUID // or uuid.Nil for a Device
	Device    uuid.UUID // the recorder of the hall, for a Hall
	Source    Source
	FileName  string        // for a File, as its owner calls it
	MediaType string        // as the sender calls it; never trusted
	Length    *int64        // nil when it is not known before the end
	Track     uuid.UUID     // chosen by the sender, so that to ask again begins nothing twice; or uuid.Nil
	Alone     bool          // nobody can follow it while it runs
	Age       time.Duration // how long ago it began, by the clock of the sender
	Beside    uuid.UUID     // the first track of the capture whose second picture this is; or uuid.Nil
	Lag       time.Duration // how much later than the first track it began

	// Of a File:
	Course   uuid.UUID // among whose lectures its own is looked for; or uuid.Nil
	Words    string    // the folders it lies in, and what else it is called
	Modified time.Time // when it was last written; zero when not known
	Print    []byte    // by which it is known again, as its sender computed it; see core/fingerprint
	Again    bool      // it is sent though it is here
}

// Started names what has begun.
type Started struct {
	Capture, Track uuid.UUID
	Recording      uuid.UUID // uuid.Nil while it is not known of which lecture it is
}

// The oldest capture that may still begin, and the most that a second picture may lag.
const (
	maxAge = 7 * 24 * time.Hour
	maxLag = time.Hour
)

// Begin makes a capture with one track, and the recording it belongs to; or the second track
// of a capture. To begin the same track again changes nothing. Of files with one print only
// one is begun, unless its sender says Again: the error is ErrHere.
func (s *Service) Begin(ctx context.Context, in Start) (Started, error) {
	if in.Length != nil && (*in.Length < 0 || *in.Length > MaxLength) { // also what no disk has
		return Started{}, fmt.Errorf("begin a capture: %w", ErrTooLarge)
	}
	if in.Track == uuid.Nil {
		in.Track = uuid.Must(uuid.NewV7())
	}
	out := Started{Track: in.Track}
	err := postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		course, err := courseOf(ctx, tx, in)
		if err != nil {
			return err
		}
		known, err := s.begun(ctx, tx, in.Track)
		if err == nil {
			if known.Lecture != in.Lecture {
				return ErrTaken
			}
			out = known.Started
			return nil
		}
		if !errors.Is(err, pgx.ErrNoRows) {
			return err
		}
		if in.Beside != uuid.Nil {
			err = s.beginBeside(ctx, tx, in, &out)
		} else {
			err = s.beginFirst(ctx, tx, in, &out)
		}
		if err != nil {
			return err
		}
		if in.Source.Live() {
			if err := s.Queue.Add(ctx, tx, packLive{Track: out.Track}); err != nil {
				return err
			}
		}
		if in.Length != nil && *in.Length == 0 {
			if err := s.complete(ctx, tx, out.Track); err != nil {
				return err
			}
		}
		if in.Lecture == uuid.Nil {
			return postgres.Notify(ctx, tx, postgres.Event{About: event.File, Person: in.By, Track: out.Track})
		}
		return postgres.Notify(ctx, tx,
			postgres.Event{About: event.Capture, Course: course, Lecture: in.Lecture, Recording: out.Recording,
				Track: out.Track})
	})
	if err != nil {
		return Started{}, fmt.Errorf("begin a capture: %w", err)
	}
	return out, nil
}

// courseOf is the course of what begins, uuid.Nil for a file without a lecture.
func courseOf(ctx context.Context, tx pgx.Tx, in Start) (uuid.UUID, error) {
	if in.Lecture == uuid.Nil && in.Source == File {
		return uuid.Nil, nil
	}
	course, err := postgres.Value[uuid.UUID](ctx, tx, `select course_id from lecture where id = $1`, in.Lecture)
	if errors.Is(err, pgx.ErrNoRows) {
		return course, ErrLecture
	}
	return course, err
}

type begun struct {
	Started
	Lecture uuid.UUID
}

// begun is what a track belongs to; its error is pgx.ErrNoRows when there is none.
func (s *Service) begun(ctx context.Context, tx pgx.Tx, track uuid.UUID) (begun, error) {
	const query = `select c.id as capture, t.id as track, coalesce(rc.recording_id, $2) as recording,
		coalesce(c.lecture_id, $2) as lecture
		from track t join capture c on c.id = t.capture_id left
		join recording_capture rc on rc.capture_id = c.id and rc.from_ms is null where t.id = $1`
	return postgres.One[begun](ctx, tx, query, track, uuid.Nil)
}

func (s *Service) beginFirst(ctx context.Context, tx pgx.Tx, in Start, out *Started) (err error) {
	if in.Source == File {
		if err := s.refuseTwice(ctx, tx, in); err != nil {
			return err
		}
	}
	now := s.Clock.Now()
	began := now.Add(-min(max(0, in.Age), maxAge)).Truncate(time.Millisecond)
	out.Capture = uuid.Must(uuid.NewV7())
	const insert = `with c as (
			insert into capture (id, lecture_id, source, file_name, started_by, started_at, alone, device_id)
			values ($1, $2, $3, $4, $5, $6, $11, $12))
		insert into track (id, capture_id, media_type, length, arrived_at) values ($7, $1, $8, $9, $10)`
	if _, err := tx.Exec(ctx, insert, out.Capture, postgres.OrNil(in.Lecture), in.Source, in.FileName,
		postgres.OrNil(in.By), began, out.Track, in.MediaType, in.Length, now, in.Alone,
		postgres.OrNil(in.Device)); err != nil {
		return err
	}
	if in.Source == File {
		if err := s.arrive(ctx, tx, in, out.Track); err != nil {
			return err
		}
	}
	if in.Lecture == uuid.Nil {
		return nil
	}
	out.Recording, err = s.Recordings.Open(ctx, tx, in.Lecture, out.Capture, began, in.Source.Live())
	return err
}

func (s *Service) beginBeside(ctx context.Context, tx pgx.Tx, in Start, out *Started) error {
	first, err := s.begun(ctx, tx, in.Beside)
	if errors.Is(err, pgx.ErrNoRows) {
		return ErrBeside
	}
	if err != nil {
		return err
	}
	// Whoever captures the first picture captures the second.
	const own = `select exists (select 1 from capture where id = $1 and source = $4
		and started_by is not distinct from $2 and device_id is not distinct from $3)`
	mine, err := postgres.Value[bool](ctx, tx, own, first.Capture, postgres.OrNil(in.By), postgres.OrNil(in.Device),
		in.Source)
	if err != nil {
		return fmt.Errorf("look whose capture this is: %w", err)
	}
	if !mine {
		return ErrBeside
	}
	if first.Lecture != in.Lecture {
		return ErrTaken
	}
	out.Capture, out.Recording = first.Capture, first.Recording
	const insert = `insert into track (id, capture_id, role, lag_ms, media_type, length, arrived_at)
		values ($1, $2, 'second', $3, $4, $5, $6) on conflict (capture_id, role) do nothing`
	tag, err := tx.Exec(ctx, insert, out.Track, out.Capture, min(max(0, in.Lag), maxLag).Milliseconds(), in.MediaType,
		in.Length, s.Clock.Now())
	if err == nil && tag.RowsAffected() == 0 {
		return ErrTaken
	}
	if err != nil {
		return err
	}
	// The first may have been stopped or given up before the second was heard of.
	_, err = tx.Exec(ctx, `update capture set stopped_at = null where id = $1`, out.Capture)
	return err
}

// Progress is how much of a track is stored.
type Progress struct {
	Stored  int64
	Length  *int64     // nil until it is known
	Lecture uuid.UUID  // uuid.Nil for a file of which it is not known yet
	Course  uuid.UUID  // of the lecture
	By      *uuid.UUID // who started it
	Device  *uuid.UUID // the recorder that captures it
	Started time.Time
	GivenUp bool // it was ended since nothing came any more; what comes all the same is taken
}

// Complete reports whether every byte is stored.
func (p Progress) Complete() bool { return p.Length != nil && *p.Length == p.Stored }

// Stored tells how much of a track is stored. Its error is ErrUnknown for none.
func (s *Service) Stored(ctx context.Context, track uuid.UUID) (Progress, error) {
	const query = `select t.stored, t.length, coalesce(l.id, $2) as lecture, coalesce(l.course_id, $2) as course,
		c.started_by as by, c.device_id as device, c.started_at as started, t.given_up
		from track t join capture c on c.id = t.capture_id left join lecture l on l.id = c.lecture_id where t.id = $1`
	p, err := postgres.One[Progress](ctx, s.DB, query, track, uuid.Nil)
	if errors.Is(err, pgx.ErrNoRows) {
		return p, ErrUnknown
	}
	if err != nil {
		return p, fmt.Errorf("read how much is stored: %w", err)
	}
	return p, nil
}

// End ends all that is captured for a recording where it stands, as when the computer that
// sent it is gone. It does nothing to what has ended.
func (s *Service) End(ctx context.Context, recording uuid.UUID) error {
	rows, err := s.DB.Query(ctx,
		`select t.id from track t join recording_capture rc on rc.capture_id = t.capture_id
			where rc.recording_id = $1 and t.length is null`, recording)
	if err != nil {
		return fmt.Errorf("list what is captured: %w", err)
	}
	tracks, err := pgx.CollectRows(rows, pgx.RowTo[uuid.UUID])
	if err != nil {
		return fmt.Errorf("list what is captured: %w", err)
	}
	for _, t := range tracks {
		if err := s.endTrack(ctx, t); err != nil {
			return err
		}
	}
	return nil
}

func (s *Service) endTrack(ctx context.Context, track uuid.UUID) error {
	for {
		p, err := s.Stored(ctx, track)
		if err != nil || p.Complete() {
			return err
		}
		length := p.Stored
		if p.Length != nil {
			return fmt.Errorf("end a capture: %w", ErrLength)
		}
		_, err = s.Append(ctx, track, p.Stored, &length, bytes.NewReader(nil))
		if !errors.Is(err, ErrOffset) && !errors.Is(err, ErrLength) { // more has come meanwhile
			return err
		}
	}
}

// Discard takes back a capture that never became complete: the recording, or of a recording
// of several parts this part alone. A file that belongs to no lecture is put away.
func (s *Service) Discard(ctx context.Context, track uuid.UUID) error {
	left := false
	err := postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const half = `select capture_id from track where id = $1 and (length is null or stored < length) for no key update`
		capture, err := postgres.Value[uuid.UUID](ctx, tx, half, track)
		if errors.Is(err, pgx.ErrNoRows) {
			return nil
		}
		if err == nil {
			left, err = s.Recordings.Leave(ctx, tx, capture)
		}
		return err
	})
	if err != nil {
		return fmt.Errorf("take back a capture: %w", err)
	}
	if !left {
		return s.PutAway(ctx, track, true)
	}
	return nil
}

// UnderWay is a capture that has not been stopped.
type UnderWay struct {
	LectureID uuid.UUID
	Recording uuid.UUID
	By        string        // name of who started it, or of the recorder
	Stored    time.Duration // how much of it is on the server and can be played
}

// Running lists the captures under way in courses, by lecture.
func (s *Service) Running(ctx context.Context, courses []uuid.UUID) (map[uuid.UUID]UnderWay, error) {
	const query = `select c.lecture_id, coalesce(p.name, d.name, '') as by, t.packed_ms * 1000000 as stored,
			coalesce((select rc.recording_id from recording_capture rc
			where rc.capture_id = c.id and rc.from_ms is null), $2) as recording
		from capture c join lecture l on l.id = c.lecture_id join track t on t.capture_id = c.id and t.role = 'main'
		left join person p on p.id = c.started_by left join device d on d.id = c.device_id
		where c.source <> 'file' and c.stopped_at is null and l.course_id = any($1) order by c.started_at`
	all, err := postgres.All[UnderWay](ctx, s.DB, query, courses, uuid.Nil)
	if err != nil {
		return nil, fmt.Errorf("list captures under way: %w", err)
	}
	out := map[uuid.UUID]UnderWay{}
	for _, u := range all {
		out[u.LectureID] = u
	}
	return out, nil
}
