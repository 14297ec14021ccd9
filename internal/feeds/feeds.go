// Package feeds gives people feeds of recordings: addresses of their own at which an app finds, without signing in,
// what they may take away. An address opens nothing that its person could not have.
package feeds

import (
	"context"
	"encoding/binary"
	"errors"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/fault"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/platform/seal"
)

// Basis is SQL for all that something rests on, one text a row, in expressions of SQL: as long as no row is another it
// is the same.
type Basis interface {
	// DecisionBasis is that of what a person may do with recordings, but for what the clock makes of it.
	DecisionBasis(person, recordings string) string
}

// Shelves is SQL for what is in playlists.
type Shelves interface {
	// EntryBasis is that of the entries of all playlists that a course shows.
	EntryBasis(course string) string
}

// Service gives and reads the addresses of feeds. All its fields are needed. It may be used by many at once. A call
// whose context ends gives its error and has changed nothing.
type Service struct {
	DB        *pgxpool.Pool
	Often     *pgxpool.Pool // plans a statement once, for what is asked again and again
	Decisions Basis
	Playlists Shelves
	Secret    []byte // signs the addresses
}

// ErrUnknown says that there is no such feed: nobody has one of a course that they are not in, or of a playlist that
// the course does not show.
var ErrUnknown = fault.Code("feed.unknown")

// Of is whose feed it is and of what: of a playlist as a course shows it, or, where List is the zero value, of all that
// the course shows.
type Of struct{ Person, Course, List uuid.UUID }

func (of Of) list() *uuid.UUID {
	if of.List == uuid.Nil {
		return nil
	}
	return &of.List
}

func (of Of) bytes() []byte {
	return append(append(append(make([]byte, 0, 48), of.Person[:]...), of.Course[:]...), of.List[:]...)
}

// turnSQL gives how often the feed of person $1, course $2, playlist $3 was renewed; no row where there is none.
const turnSQL = `from person_account p join course k on k.id = $2
	left join recording_feed f on f.person_id = p.id and f.course_id = k.id
		and f.playlist_id is not distinct from $3::uuid
	where p.id = $1 and not p.guest and not p.closed
	and (p.coordinator or exists (select 1 from membership m where m.person_id = p.id and m.course_id = k.id))
	and ($3::uuid is null or exists (select 1 from shown_playlist x where x.course_id = k.id and x.playlist_id = $3))`

// Key is the secret part of the address of a feed. Its error is ErrUnknown.
func (s *Service) Key(ctx context.Context, of Of) (string, error) {
	turn, err := postgres.Value[int](ctx, s.DB, `select coalesce(f.turn, 0) `+turnSQL, of.Person, of.Course, of.list())
	if errors.Is(err, pgx.ErrNoRows) {
		return "", ErrUnknown
	}
	if err != nil {
		return "", fmt.Errorf("look for a feed: %w", err)
	}
	return s.key(of, turn), nil
}

func (s *Service) key(of Of, turn int) string {
	return seal.Key(s.Secret, sealed, binary.BigEndian.AppendUint32(of.bytes(), uint32(turn)))
}

// sealed is what the seals of feeds are for.
const sealed = "recordings"

// Renew makes a new address for a feed; the one before is worth nothing from now on. Its error is ErrUnknown.
func (s *Service) Renew(ctx context.Context, of Of) (string, error) {
	const renew = `insert into recording_feed as r (person_id, course_id, playlist_id, turn)
		select p.id, k.id, $3, 1 ` + turnSQL + `
		on conflict (person_id, course_id, playlist_id) do update set turn = r.turn + 1 returning turn`
	turn, err := postgres.Value[int](ctx, s.DB, renew, of.Person, of.Course, of.list())
	if errors.Is(err, pgx.ErrNoRows) {
		return "", ErrUnknown
	}
	if err != nil {
		return "", fmt.Errorf("renew a feed: %w", err)
	}
	return s.key(of, turn), nil
}

// shownSQL are the recordings of a feed.
const shownSQL = `select e.recording_id from shown_playlist x join playlist_entry e on e.playlist_id = x.playlist_id
	where x.course_id = $2 and ($3::uuid is null or x.playlist_id = $3) and e.recording_id is not null`

// Recording is whose feed and of what is behind a key, in which a recording stands. It says nothing of whether its
// person may have that now. Its error is ErrUnknown.
func (s *Service) Recording(ctx context.Context, key string, recording uuid.UUID) (Of, error) {
	of, stands, err := behind[bool](ctx, s, key,
		`exists (select 1 from (`+shownSQL+`) s where s.recording_id = $4)`, recording)
	if err == nil && !stands {
		err = ErrUnknown
	}
	return of, err
}

// State is whose feed and of what is behind a key, and all that it is made of now as one short text: as long as that is
// the same, and the clock has come to no edge, so is the feed. It is one query. Its error is ErrUnknown.
func (s *Service) State(ctx context.Context, key string) (of Of, state string, err error) {
	const scope = `array(` + shownSQL + `)`
	return behind[string](ctx, s, key, `md5(concat_ws(' ', k.code, k.title,
		(select s.language from course_setting s where s.course_id = k.id),
		(select string_agg(x, ' ' order by x) from (`+s.Decisions.DecisionBasis(`$1`, scope)+
		` union all `+s.Playlists.EntryBasis(`$2`)+
		` union all select y::text from (`+fmt.Sprintf(filesSQL, scope)+`) y) z(x))))`)
}

// behind reads the feed of a key, and with it one more column. A key that nobody gave asks the database for nothing.
func behind[T any](ctx context.Context, s *Service, key, column string, args ...any) (of Of, more T, err error) {
	b, ok := seal.About(key, 48+4)
	if !ok || !seal.Opens(key, s.Secret, sealed, b) {
		return of, more, ErrUnknown
	}
	of = Of{uuid.UUID(b[:16]), uuid.UUID(b[16:32]), uuid.UUID(b[32:48])}
	row, err := postgres.One[struct {
		Turn int
		More T
	}](ctx, s.Often, `select coalesce(f.turn, 0) as turn, `+column+` as more `+turnSQL,
		append([]any{of.Person, of.Course, of.list()}, args...)...)
	if errors.Is(err, pgx.ErrNoRows) {
		return of, more, ErrUnknown
	}
	if err != nil {
		return of, more, fmt.Errorf("read a feed: %w", err)
	}
	if row.Turn != int(binary.BigEndian.Uint32(b[48:])) { // it was renewed
		return of, more, ErrUnknown
	}
	return of, row.More, nil
}
