// Package assemble puts the parts of the product together: the use-cases over their
// adapters, and the HTTP edge over both. It decides nothing.
package assemble

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/riverqueue/river"

	"latelantern/internal/api"
	"latelantern/internal/api/edge"
	"latelantern/internal/audience"
	"latelantern/internal/capture"
	"latelantern/internal/carry"
	"latelantern/internal/catchup"
	"latelantern/internal/chat"
	"latelantern/internal/cuts"
	"latelantern/internal/door"
	"latelantern/internal/feeds"
	"latelantern/internal/find"
	"latelantern/internal/frames"
	"latelantern/internal/halls"
	"latelantern/internal/library"
	"latelantern/internal/measure"
	"latelantern/internal/news"
	"latelantern/internal/notes"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/platform/recall"
	"latelantern/internal/playlists"
	"latelantern/internal/presence"
	"latelantern/internal/publication"
	"latelantern/internal/recordings"
	"latelantern/internal/release"
	"latelantern/internal/remind"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
	"latelantern/internal/signin"
	"latelantern/internal/sweep"
	"latelantern/internal/toall"
	"latelantern/internal/words"
)

// House is all use-cases over one database and one folder of media.
type House struct {
	DB          *pgxpool.Pool
	Clock       clock.Clock
	Blobs       blobs.Keeper
	Queue       *jobs.Queue
	Events      *postgres.Events
	Line        *recall.Line
	often       *pgxpool.Pool
	Roster      *roster.Service
	SignIn      *signin.Service
	Schedule    *schedule.Service
	Capture     *capture.Service
	Recordings  *recordings.Reader
	Library     *library.Service
	Cuts        *cuts.Service
	Measure     *measure.Service
	Publication *publication.Service
	Sweep       *sweep.Service
	Audience    *audience.Service
	Releases    *release.Service
	Carry       *carry.Service
	Playlists   *playlists.Service
	CatchUp     *catchup.Service
	Presence    *presence.Service
	Chat        *chat.Service
	ToAll       *toall.Service
	Notes       *notes.Service
	Door        *door.Service
	Remind      *remind.Service
	Halls       *halls.Service
	Words       *words.Service
	Find        *find.Service
	News        *news.Service
	Feeds       *feeds.Service
	Frames      *frames.Service

	settings Settings
	secret   []byte // signs addresses
}

// Open connects to what the settings name, migrates the database, and builds the house.
// Close must be called.
func Open(ctx context.Context, s Settings) (*House, error) { return open(ctx, s, postgres.Migrate) }

// Beside is Open that leaves the database as it is, which must be of some version already.
func Beside(ctx context.Context, s Settings) (*House, error) {
	return open(ctx, s, func(context.Context, *pgxpool.Pool) error { return nil })
}

func open(ctx context.Context, s Settings, migrate func(context.Context, *pgxpool.Pool) error) (*House, error) {
	var c clock.Clock
	if !s.Clock.IsZero() {
		c = clock.Starting(s.Clock)
	}
	pool, err := postgres.Open(ctx, s.Database)
	if err != nil {
		return nil, err
	}
	if err := migrate(ctx, pool); err != nil {
		pool.Close()
		return nil, err
	}
	store := s.Store
	if store == nil {
		if store, err = blobs.Open(s.Media); err != nil {
			pool.Close()
			return nil, err
		}
	}
	queue, err := jobs.NewQueue(pool)
	if err != nil {
		pool.Close()
		return nil, err
	}
	secret, err := secretOf(ctx, pool)
	if err != nil {
		pool.Close()
		return nil, err
	}
	often, err := postgres.Often(ctx, pool)
	if err != nil {
		pool.Close()
		return nil, err
	}
	h := &House{DB: pool, Blobs: store, Queue: queue, Events: postgres.Listen(ctx, pool),
		Line: recall.Listen(ctx, pool), often: often, settings: s, secret: secret}
	return h.At(c), nil
}

// At is the same house by another clock. It must not be closed apart.
func (h House) At(c clock.Clock) *House {
	h.Clock = c
	h.Schedule = &schedule.Service{DB: h.DB, Clock: c, Secret: h.secret}
	h.Roster = &roster.Service{DB: h.DB, Courses: h.Schedule, Clock: c}
	h.SignIn = &signin.Service{DB: h.DB, People: h.Roster, Queue: h.Queue, Post: h.settings.Mail,
		Public: h.settings.Public, Language: h.settings.Language}
	h.Remind = &remind.Service{DB: h.DB, Clock: c, Queue: h.Queue, Lectures: h.Schedule, Post: h.settings.Mail,
		Public: h.settings.Public, Language: h.settings.Language}
	h.Halls = &halls.Service{DB: h.DB, Blobs: h.Blobs, Clock: c}
	h.Door = &door.Service{DB: h.DB, People: h.Roster, Halls: h.Halls, Queue: h.Queue, Clock: c,
		Secret: h.secret, Public: h.settings.Public}
	h.CatchUp = &catchup.Service{DB: h.DB, Often: h.often, Clock: c}
	h.Recordings = recordings.New(h.DB, h.Blobs)
	h.Cuts = &cuts.Service{DB: h.DB, Clock: c, Recordings: h.Recordings}
	h.Measure = &measure.Service{DB: h.DB, Blobs: h.Blobs, Queue: h.Queue, Clock: c, Recordings: h.Recordings,
		Cuts: h.Cuts}
	h.Publication = publication.New(h.DB, h.Queue, c, h.Recordings)
	h.Sweep = &sweep.Service{DB: h.DB, Blobs: h.Blobs, Clock: c, Editions: h.Publication}
	h.Playlists = &playlists.Service{DB: h.DB, Blobs: h.Blobs, Clock: c}
	h.Audience = &audience.Service{DB: h.DB, Often: h.often, Clock: c, Decided: audience.NewMemory(h.Line, c),
		Editions: h.Publication, People: h.Roster, Secret: h.secret, Public: h.settings.Public}
	h.Roster.Watch = h.Audience
	h.News = &news.Service{DB: h.DB, Clock: c, Queue: h.Queue, Post: h.settings.Mail, Audience: h.Audience,
		Secret: h.secret, Public: h.settings.Public, Language: h.settings.Language}
	h.Remind.Standing, h.Remind.Stops = standing{h.Audience, h.Publication, h.CatchUp}, h.News
	h.Releases = &release.Service{DB: h.DB, Clock: c, Editions: h.Publication, Playlists: h.Playlists,
		Rules: h.Audience, News: h.News}
	h.Presence = &presence.Service{DB: h.DB, Clock: c, Secret: h.secret}
	h.Chat = &chat.Service{DB: h.DB, Clock: c, Recordings: h.Recordings, Secret: h.secret}
	h.ToAll = toall.New(h.DB, c, h.Recordings)
	h.Notes = &notes.Service{DB: h.DB, Clock: c, Recordings: h.Recordings}
	h.Library = &library.Service{
		DB: h.DB, Clock: c, Recordings: h.Recordings, Releases: h.Releases, Cuts: h.Cuts, Editions: h.Publication,
		Measures: h.Measure, Positions: h.CatchUp,
	}
	h.Capture = &capture.Service{DB: h.DB, Blobs: h.Blobs, Queue: h.Queue, Events: h.Events, Clock: c,
		Recordings: h.Library, Editions: h.Publication, Timetable: h.Schedule, Small: h.settings.Small}
	h.Words = &words.Service{DB: h.DB, Queue: h.Queue, Clock: c, Recordings: h.Recordings, Tracks: h.Measure,
		Captioner: h.settings.Captioner, Reads: h.settings.ReadSlides}
	h.Carry = &carry.Service{DB: h.DB, Clock: c, Timetable: h.Schedule, People: h.Roster, Rules: h.Audience,
		Playlists: h.Playlists, Releases: h.Releases,
		Settings: []carry.Setting{h.Cuts, h.Capture, h.Words, h.News, h.ToAll, h.Door, h.Remind}}
	h.Frames = &frames.Service{DB: h.DB, Clock: c}
	h.Feeds = &feeds.Service{DB: h.DB, Often: h.often, Decisions: h.Audience, Playlists: h.Playlists, Secret: h.secret}
	h.Find = &find.Service{DB: h.DB, Clock: c}
	return &h
}

// Close ends the house.
func (h *House) Close() {
	h.Events.Close()
	h.Line.Close()
	h.often.Close()
	h.DB.Close()
}

// Work begins to do jobs as the worker of this name.
func (h *House) Work(ctx context.Context, name string) (*jobs.Workers, error) {
	kinds := river.NewWorkers()
	h.Capture.Register(kinds)
	h.Measure.Register(kinds)
	h.Publication.Register(kinds)
	h.Sweep.Register(kinds)
	h.Words.Register(kinds)
	h.SignIn.Register(kinds)
	h.Remind.Register(kinds)
	h.Playlists.Register(kinds)
	h.News.Register(kinds)
	h.Releases.Register(kinds)
	h.Door.Register(kinds)
	return jobs.Work(ctx, h.DB, name, kinds, capture.Look{}, measure.MeasureMore{}, words.LookForWords{},
		playlists.FillLists{}, news.LookForNews{}, release.LookPlan{},
		remind.LookJob{}, sweep.Sweep{})
}

// Edge is the HTTP edge of the house.
func (h *House) Edge(web fs.FS) *edge.Edge {
	return api.New(api.Services{
		DB: h.DB, Clock: h.Clock, Events: h.Events, Line: h.Line, Roster: h.Roster, SignIn: h.SignIn,
		Schedule: h.Schedule, Capture: h.Capture, Find: h.Find, Recordings: h.Recordings, Library: h.Library,
		Cuts:    h.Cuts,
		Measure: h.Measure, Publication: h.Publication,
		Audience: h.Audience, Releases: h.Releases, Playlists: h.Playlists, CatchUp: h.CatchUp, Door: h.Door,
		Presence: h.Presence, Chat: h.Chat, ToAll: h.ToAll, Notes: h.Notes,
		Remind: h.Remind, Halls: h.Halls, Words: h.Words,
		News:   h.News,
		Feeds:  h.Feeds,
		Frames: h.Frames,
		Carry:  h.Carry,
		Secret: h.secret, Web: web,
		Secure: h.settings.Secure, Public: h.settings.Public, Proxies: h.settings.Proxies,
	})
}

// secretOf is what addresses are signed with: made at the first start, the same for every
// process that shares the database.
func secretOf(ctx context.Context, pool *pgxpool.Pool) ([]byte, error) {
	const keep = `with new as (insert into secret (name, value) values ('media', $1) on conflict (name) do nothing
		returning value)
		select value from new union all select value from secret where name = 'media' limit 1`
	b, err := postgres.Value[[]byte](ctx, pool, keep, fresh())
	if err != nil {
		return nil, fmt.Errorf("read the secret of addresses: %w", err)
	}
	return b, nil
}

func fresh() []byte {
	b := make([]byte, 32)
	_, _ = rand.Read(b) // never fails
	return b
}

// NewServer is a server of the edge, with a limit to whatever a caller can hold. Appends, events and media set limits
// of their own.
func NewServer(edge http.Handler) *http.Server {
	return &http.Server{Handler: edge, MaxHeaderBytes: 64 << 10,
		ReadHeaderTimeout: 10 * time.Second, ReadTimeout: time.Minute, WriteTimeout: 2 * time.Minute,
		IdleTimeout: 2 * time.Minute}
}

// Serve serves the edge on listener until ctx ends, then lets requests finish for a while.
func Serve(ctx context.Context, listener net.Listener, edge http.Handler) error {
	server := NewServer(edge)
	server.BaseContext = func(net.Listener) context.Context { return ctx }
	ended := make(chan error, 1)
	go func() { ended <- server.Serve(listener) }()
	select {
	case err := <-ended:
		return fmt.Errorf("serve: %w", err)
	case <-ctx.Done():
	}
	last, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	if err := server.Shutdown(last); err != nil {
		slog.Info("requests were cut off", "error", err)
		_ = server.Close()
	}
	if err := <-ended; !errors.Is(err, http.ErrServerClosed) {
		return fmt.Errorf("serve: %w", err)
	}
	return nil
}
