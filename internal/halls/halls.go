// Package halls knows the recorders that stand in halls: what each is to capture, how it is,
// and what someone told it to do by hand.
package halls

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/watchdog"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
)

// Service keeps the recorders of halls and what they are told. All its fields are needed. It may be used by many at
// once. A call whose context ends gives its error and has changed nothing.
type Service struct {
	DB    *pgxpool.Pool
	Blobs blobs.Keeper
	Clock clock.Clock
}

// ErrUnknown says that there is no such hall or recorder, or that a token does not hold.
var ErrUnknown = fault.Code("recorder.unknown")

// ErrTwice says that a hall has a recorder already.
var ErrTwice = fault.Code("recorder.twice")

// Device is a recorder, as it is known by its token.
type Device struct {
	ID     uuid.UUID
	HallID uuid.UUID
	Hall   string
	Name   string
}

// digest is what is kept of a token.
func digest(token string) []byte {
	d := sha256.Sum256([]byte("recorder " + token))
	return d[:]
}

// Holder is the recorder that holds a token. Its error is ErrUnknown when the token is wrong
// or was taken back.
func (s *Service) Holder(ctx context.Context, token string) (Device, error) {
	const query = `select d.id, d.hall_id, h.name as hall, d.name from device d join hall h on h.id = d.hall_id
		where d.token_hash = $1 and d.taken_back_at is null and d.removed_at is null`
	d, err := postgres.One[Device](ctx, s.DB, query, digest(token))
	if errors.Is(err, pgx.ErrNoRows) {
		return d, ErrUnknown
	}
	if err != nil {
		return d, fmt.Errorf("look who holds a token: %w", err)
	}
	return d, nil
}

// Add puts a recorder into a hall and gives its token, which is shown this once. Its error is
// of type fault.Faults when the name is wrong, ErrTwice when the hall has a recorder, and
// ErrUnknown when there is no such hall.
func (s *Service) Add(ctx context.Context, hall, by uuid.UUID, name string) (token string, err error) {
	name = strings.Join(strings.Fields(name), " ")
	var f fault.Faults
	f.When(name == "" || len([]rune(name)) > 100, "name", "recorder.name")
	if err := f.Err(); err != nil {
		return "", err
	}
	token = rand.Text()
	const keep = `insert into device (id, hall_id, name, token_hash, made_by, made_at) select $1, h.id, $3, $4, $5, $6
		from hall h where h.id = $2 on conflict do nothing`
	tag, err := s.DB.Exec(ctx, keep, uuid.Must(uuid.NewV7()), hall, name, digest(token), postgres.OrNil(by),
		s.Clock.Now())
	if err != nil {
		return "", fmt.Errorf("add a recorder: %w", err)
	}
	if tag.RowsAffected() == 0 {
		known, err := postgres.Value[bool](ctx, s.DB, `select exists (select 1 from hall where id = $1)`, hall)
		switch {
		case err != nil:
			return "", fmt.Errorf("look for a hall: %w", err)
		case !known:
			return "", ErrUnknown
		}
		return "", ErrTwice
	}
	return token, nil
}

// Renew gives a recorder another token, which is shown this once. The old one holds no more.
func (s *Service) Renew(ctx context.Context, device uuid.UUID) (token string, err error) {
	token = rand.Text()
	err = s.change(ctx, "renew the token of a recorder",
		`update device set token_hash = $2, taken_back_at = null where id = $1 and removed_at is null`, device,
		digest(token))
	return token, err
}

// TakeBack ends what the token of a recorder allows, or with back allows it again.
func (s *Service) TakeBack(ctx context.Context, device uuid.UUID, back bool) error {
	now := s.Clock.Now()
	at := &now
	if back {
		at = nil
	}
	return s.change(ctx, "take back the token of a recorder",
		`update device set taken_back_at = $2 where id = $1 and removed_at is null`, device, at)
}

// Remove takes a recorder out of its hall, or with back puts it there again. What it captured stays.
func (s *Service) Remove(ctx context.Context, device uuid.UUID, back bool) error {
	now := s.Clock.Now()
	at := &now
	if back {
		at = nil
	}
	return s.change(ctx, "remove a recorder", `update device set removed_at = $2 where id = $1`, device, at)
}

func (s *Service) change(ctx context.Context, what, sql string, args ...any) error {
	tag, err := s.DB.Exec(ctx, sql, args...)
	if postgres.Taken(err) {
		return ErrTwice
	}
	if err != nil {
		return fmt.Errorf("%s: %w", what, err)
	}
	if tag.RowsAffected() == 0 {
		return ErrUnknown
	}
	return nil
}

// Kind is what a recorder is told to do by hand.
type Kind string

// The orders.
const (
	Start Kind = "start"
	Stop  Kind = "stop"
)

// Order is what someone told a recorder to do. It is followed once.
type Order struct {
	ID        uuid.UUID
	Kind      Kind
	LectureID *uuid.UUID // for Start
	UntilAt   *time.Time // for Start: when it stops by itself, if it is not told before
}

// stale is how long after it was given an order still holds.
const stale = 10 * time.Minute

// Tell gives a recorder an order in place of any before. Its error is ErrUnknown when there
// is no such recorder, or the lecture to start is not held in its hall.
func (s *Service) Tell(ctx context.Context, device, by uuid.UUID, kind Kind, lecture uuid.UUID) error {
	const keep = `insert into device_order (device_id, id, kind, lecture_id, made_by, made_at)
		select d.id, $2, $3, $4, $5, $6 from device d
		where d.id = $1 and d.removed_at is null
		and ($3 = 'stop' or exists (select 1 from lecture l where l.id = $4 and l.hall_id = d.hall_id))
		on conflict (device_id)
		do update set id = excluded.id, kind = excluded.kind, lecture_id = excluded.lecture_id,
		made_by = excluded.made_by, made_at = excluded.made_at`
	var of *uuid.UUID
	if kind == Start {
		of = &lecture
	}
	return s.change(ctx, "tell a recorder what to do", keep, device, uuid.Must(uuid.NewV7()), kind, of, by,
		s.Clock.Now())
}

// StopIn tells the recorder that captures a lecture, if one does, to stop.
func (s *Service) StopIn(ctx context.Context, lecture, by uuid.UUID) error {
	devices, err := postgres.Values[uuid.UUID](ctx, s.DB,
		`select distinct device_id from live_capture where lecture_id = $1 and device_id is not null`, lecture)
	if err != nil {
		return fmt.Errorf("find the recorder of a lecture: %w", err)
	}
	for _, d := range devices {
		if err := s.Tell(ctx, d, by, Stop, uuid.Nil); err != nil && !errors.Is(err, ErrUnknown) {
			return err
		}
	}
	return nil
}

// ordered is the order that a recorder should follow now; nil for none.
func (s *Service) ordered(ctx context.Context, device uuid.UUID) (*Order, error) {
	o, err := postgres.One[Order](ctx, s.DB,
		`select o.id, o.kind, o.lecture_id,
			greatest(l.ends_at + l.tail_min * interval '1 minute', o.made_at + interval '1 hour') as until_at
		from device_order o left join lecture l on l.id = o.lecture_id where o.device_id = $1 and o.made_at > $2`,
		device, s.Clock.Now().Add(-stale))
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("read what a recorder is told: %w", err)
	}
	return &o, nil
}

// State is a recorder with what it said last.
type State struct {
	Device
	TakenBack  bool
	MadeAt     time.Time
	HeardAt    *time.Time // nil: never
	ClockMs    int64
	Doing      string // idle or capturing; "" when it was never heard of
	LectureID  *uuid.UUID
	LevelDB    *float64 // loudest of the last seconds, below full scale; nil for no sound
	SilentFrom *time.Time
	Picture    string // none, good or black
	BlackFrom  *time.Time
	FreeBytes  int64
	Unsent     int64
	Version    string
	PicturedAt *time.Time
	Ordered    *string // an order that it has not followed yet
}

// Troubles says what is wrong with it now, the worst first; what was never heard of has none.
func (x State) Troubles(now time.Time) []watchdog.Trouble {
	if x.HeardAt == nil {
		return nil
	}
	return watchdog.Recorder{HeardAt: *x.HeardAt, Clock: time.Duration(x.ClockMs) * time.Millisecond,
		Capturing:   x.Doing == "capturing",
		SilentSince: x.SilentFrom, BlackSince: x.BlackFrom, Free: x.FreeBytes, Unsent: x.Unsent}.Troubles(now)
}

// States lists the recorders, by hall.
func (s *Service) States(ctx context.Context) (map[uuid.UUID]State, error) {
	const query = `select d.id, d.hall_id, h.name as hall, d.name, d.taken_back_at is not null as taken_back, d.made_at,
		b.heard_at, coalesce(b.clock_ms, 0) as clock_ms, coalesce(b.doing, '') as doing, b.lecture_id,
			b.level_db, b.silent_since as silent_from, coalesce(b.picture, 'none') as picture,
			b.black_since as black_from, coalesce(b.free_bytes, 0) as free_bytes, coalesce(b.unsent_bytes, 0) as unsent,
			coalesce(b.version, '') as version,
			b.pictured_at, (select o.kind from device_order o
			where o.device_id = d.id and o.made_at > $1
			and (o.kind = 'start') <> (coalesce(b.doing, 'idle') = 'capturing')) as ordered
		from device d join hall h on h.id = d.hall_id left join device_state b on b.device_id = d.id
		where d.removed_at is null`
	list, err := postgres.All[State](ctx, s.DB, query, s.Clock.Now().Add(-stale))
	if err != nil {
		return nil, fmt.Errorf("list the recorders: %w", err)
	}
	out := map[uuid.UUID]State{}
	for _, x := range list {
		out[x.HallID] = x
	}
	return out, nil
}

func pictureKey(device uuid.UUID) string { return "recorder/" + device.String() + ".jpg" }

// Picture is the last picture that a recorder sent. Its error is ErrUnknown for none.
func (s *Service) Picture(device uuid.UUID) ([]byte, error) {
	key := pictureKey(device)
	size := s.Blobs.Size(key)
	if size <= 0 {
		return nil, ErrUnknown
	}
	b, err := s.Blobs.Range(key, 0, size)
	if err != nil {
		return nil, fmt.Errorf("read the picture of a hall: %w", err)
	}
	return b, nil
}
