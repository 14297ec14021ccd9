package halls

import (
	"bytes"
	"context"
	"fmt"
	"image/jpeg"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/watchdog"
	"latelantern/internal/format/ical"
	"latelantern/internal/platform/postgres"
)

// planAhead is how far ahead a recorder knows its plan, so that it can do without a line.
const planAhead = 14 * 24 * time.Hour

// Address is the UID of a lecture in the plan of a recorder.
func Address(lecture uuid.UUID) string { return lecture.String() + "@late-lantern" }

// Plan is what a recorder is to capture by itself: an event for each lecture in its hall, from
// when to when the capture runs, its lead and its tail included.
func (s *Service) Plan(ctx context.Context, d Device) ([]ical.Event, error) {
	type row struct {
		ID        uuid.UUID
		Code      string
		Topic     string
		FromAt    time.Time
		UntilAt   time.Time
		Sequence  int
		ChangedAt *time.Time
	}
	const query = `select l.id, k.code, l.topic, l.starts_at - l.lead_min * interval '1 minute' as from_at,
		l.ends_at + l.tail_min * interval '1 minute' as until_at, l.sequence, l.changed_at
		from lecture l join course k on k.id = l.course_id
		where l.hall_id = $1 and l.capture_auto and l.called_off_at is null
		and l.ends_at + l.tail_min * interval '1 minute' > $2 and l.starts_at < $3 order by l.starts_at, l.id`
	now := s.Clock.Now()
	rows, err := postgres.All[row](ctx, s.DB, query, d.HallID, now, now.Add(planAhead))
	if err != nil {
		return nil, fmt.Errorf("list what a recorder is to capture: %w", err)
	}
	out := make([]ical.Event, len(rows))
	for i, r := range rows {
		out[i] = ical.Event{UID: Address(r.ID), Start: r.FromAt, End: r.UntilAt, Sequence: r.Sequence, Title: r.Code,
			Hall: d.Hall, Changed: r.FromAt}
		if r.Topic != "" {
			out[i].Title += ": " + r.Topic
		}
		if r.ChangedAt != nil {
			out[i].Changed = *r.ChangedAt
		}
	}
	return out, nil
}

// Beat is what a recorder says of itself every few seconds.
type Beat struct {
	Now       time.Time  // by its own clock
	Capturing *uuid.UUID // the lecture; nil while it is idle
	LevelDB   *float64   // loudest of the last seconds, below full scale; nil for no sound
	Picture   string     // none, good or black
	Free      int64      // bytes on its own disk
	Unsent    int64      // bytes that are still only there
	Version   string
}

// Told is what a recorder is answered.
type Told struct {
	Now   time.Time // by the clock of the college
	Order *Order    // nil for none
}

// Hear takes what a recorder says of itself. Its error is of type fault.Faults when that
// cannot be.
func (s *Service) Hear(ctx context.Context, device uuid.UUID, b Beat) (Told, error) {
	now := s.Clock.Now()
	var f fault.Faults
	f.When(b.Now.IsZero(), "now", "recorder.now")
	f.When(b.LevelDB != nil && (*b.LevelDB > 20 || *b.LevelDB < -200), "level_db", "recorder.level")
	f.When(b.Picture != "none" && b.Picture != "good" && b.Picture != "black", "picture", "recorder.picture")
	f.When(b.Free < 0, "free_bytes", "recorder.free")
	f.When(b.Unsent < 0, "unsent_bytes", "recorder.unsent")
	f.When(len(b.Version) > 100, "version", "recorder.version")
	if err := f.Err(); err != nil {
		return Told{}, err
	}
	doing := "idle"
	if b.Capturing != nil {
		doing = "capturing"
	}
	silent, black := b.LevelDB == nil || *b.LevelDB < watchdog.Mute, b.Picture == "black"
	const keep = `insert into device_state as b (device_id, heard_at, clock_ms, doing, lecture_id, level_db,
		silent_since, picture, black_since, free_bytes, unsent_bytes, version)
		values ($1, $2, $3, $4, (select id from lecture where id = $5), $6, case
		when $7 then $2::timestamptz end, $8, case when $9 then $2::timestamptz end, $10, $11, $12)
		on conflict (device_id)
		do update set heard_at = excluded.heard_at, clock_ms = excluded.clock_ms, doing = excluded.doing,
		lecture_id = excluded.lecture_id, level_db = excluded.level_db,
			silent_since = case
			when $7 then coalesce(b.silent_since, $2) end, picture = excluded.picture, black_since = case
			when $9 then coalesce(b.black_since, $2) end,
			free_bytes = excluded.free_bytes, unsent_bytes = excluded.unsent_bytes, version = excluded.version`
	if _, err := s.DB.Exec(ctx, keep, device, now, b.Now.Sub(now).Milliseconds(), doing, b.Capturing, b.LevelDB, silent,
		b.Picture, black, b.Free, b.Unsent, b.Version); err != nil {
		return Told{}, fmt.Errorf("keep what a recorder says: %w", err)
	}
	order, err := s.ordered(ctx, device)
	return Told{now, order}, err
}

// MaxPicture is the most bytes that the picture of a hall may have.
const MaxPicture = 256 << 10

// ErrPicture says that a picture is none that can be shown.
var ErrPicture = fault.Code("recorder.picture_file")

// Show keeps the picture that a recorder sees. Its error is ErrPicture for what is no such thing.
func (s *Service) Show(ctx context.Context, device uuid.UUID, picture []byte) error {
	c, err := jpeg.DecodeConfig(bytes.NewReader(picture))
	if err != nil || len(picture) > MaxPicture || c.Width > 1920 || c.Height > 1920 {
		return ErrPicture
	}
	if err := s.Blobs.Put(pictureKey(device), bytes.NewReader(picture)); err != nil {
		return fmt.Errorf("keep the picture of a hall: %w", err)
	}
	if _, err := s.DB.Exec(ctx, `update device_state set pictured_at = $2 where device_id = $1`, device,
		s.Clock.Now()); err != nil {
		return fmt.Errorf("keep the picture of a hall: %w", err)
	}
	return nil
}

// about is how far from now a lecture may lie that a recorder captures: from the day before to the day after, so that
// what it kept while it had no line still comes.
const about = 24 * time.Hour

// May reports whether a recorder may capture a lecture: it must be held in its hall, about now.
func (s *Service) May(ctx context.Context, d Device, lecture uuid.UUID) (bool, error) {
	may, err := postgres.Value[bool](ctx, s.DB, `select exists (select 1 from lecture where id = $1 and hall_id = $2
		and starts_at < $3::timestamptz + $4::interval and ends_at > $3::timestamptz - $4::interval)`, lecture,
		d.HallID, s.Clock.Now(), about)
	if err != nil {
		return false, fmt.Errorf("look where a lecture is held: %w", err)
	}
	return may, nil
}
