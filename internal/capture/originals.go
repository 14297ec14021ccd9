package capture

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/postgres"
)

// MaxOriginalDays is the longest that a rule about originals may say.
const MaxOriginalDays = 3650

// OriginalDays is for how many days after its own copy is made the original of a foreign file is
// kept in a course; 0 for as long as its recording.
func (s *Service) OriginalDays(ctx context.Context, course uuid.UUID) (int, error) {
	n, err := postgres.Value[int](ctx, s.DB,
		`select coalesce(original_days, 0) from course_setting where course_id = $1`, course)
	if err != nil {
		return 0, fmt.Errorf("read for how long originals are kept: %w", err)
	}
	return n, nil
}

// SetOriginalDays changes that. Its error is of type fault.Faults for a number that cannot be.
func (s *Service) SetOriginalDays(ctx context.Context, course uuid.UUID, days int) error {
	if days < 0 || days > MaxOriginalDays {
		return fault.One("days", "originals.days", "most", MaxOriginalDays)
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const forget = `delete from course_originals where course_id = $1`
		if _, err := tx.Exec(ctx, forget, course); err != nil {
			return fmt.Errorf("keep for how long originals are kept: %w", err)
		}
		const keep = `insert into course_originals (course_id, days) select $1, $2 where $2 > 0`
		if _, err := tx.Exec(ctx, keep, course, days); err != nil {
			return fmt.Errorf("keep for how long originals are kept: %w", err)
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Timetable, Course: course})
	})
}

// ClearOriginals removes the originals whose time is over by the rules of their courses, and says
// how many. What is used as it came has no original beside it, and is never removed.
func (s *Service) ClearOriginals(ctx context.Context) (int, error) {
	const query = `select t.id from track t join capture c on c.id = t.capture_id join lecture l on l.id = c.lecture_id
		join course_setting k on k.course_id = l.course_id
		where t.encoded and t.state = 'ready' and t.original_gone_at is null
		and t.packed_at + make_interval(days => k.original_days) <= $1 order by t.packed_at limit 100`
	rows, err := s.DB.Query(ctx, query, s.Clock.Now())
	if err != nil {
		return 0, fmt.Errorf("list originals whose time is over: %w", err)
	}
	over, err := pgx.CollectRows(rows, pgx.RowTo[uuid.UUID])
	if err != nil {
		return 0, fmt.Errorf("list originals whose time is over: %w", err)
	}
	for n, track := range over {
		if err := s.Blobs.Delete(logKey(track)); err != nil {
			return n, fmt.Errorf("remove an original: %w", err)
		}
		if _, err := s.DB.Exec(ctx, `update track set original_gone_at = $2 where id = $1`, track,
			s.Clock.Now()); err != nil {
			return n, fmt.Errorf("keep that an original is gone: %w", err)
		}
	}
	return len(over), nil
}

// Original is a file as it came.
type Original struct {
	FileName string
	Came     time.Time
	Open     func() (blobs.Blob, error)
}

// Original gives the file that a recording came as. Its error is ErrUnknown when the recording
// did not come as one file, has not come whole, or its original is no longer kept.
func (s *Service) Original(ctx context.Context, recording uuid.UUID) (Original, error) {
	type row struct {
		Track    uuid.UUID
		FileName string
		Came     time.Time
	}
	const query = `select t.id as track, c.file_name, c.stopped_at as came from recording_capture rc
		join capture c on c.id = rc.capture_id join track t on t.capture_id = c.id
		where rc.recording_id = $1 and rc.from_ms is null and rc.until_ms is null and c.source = 'file'
		and c.stopped_at is not null and t.original_gone_at is null
		and not exists (select 1 from recording_capture o
		where o.recording_id = rc.recording_id and o.capture_id <> rc.capture_id)`
	r, err := postgres.One[row](ctx, s.DB, query, recording)
	if errors.Is(err, pgx.ErrNoRows) {
		return Original{}, ErrUnknown
	}
	if err != nil {
		return Original{}, fmt.Errorf("find the original of a recording: %w", err)
	}
	open := func() (blobs.Blob, error) { return s.Blobs.Open(logKey(r.Track)) }
	return Original{FileName: r.FileName, Came: r.Came, Open: open}, nil
}

// CarryCourse has a course keep originals for as long as another does, as a part of tx, unless it says already how
// long.
func (s *Service) CarryCourse(ctx context.Context, tx pgx.Tx, from, to uuid.UUID) error {
	const carry = `insert into course_originals (course_id, days) select $2, days from course_originals
		where course_id = $1 on conflict do nothing`
	if _, err := tx.Exec(ctx, carry, from, to); err != nil {
		return fmt.Errorf("carry for how long originals are kept: %w", err)
	}
	return nil
}
