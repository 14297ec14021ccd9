// Package api is the edge that speaks HTTP: groups of routes by use-case, each with the services it serves, on one edge
// that knows who calls. Nothing outside it knows HTTP.
package api

import (
	"context"
	"io/fs"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/api/accounts"
	"latelantern/internal/api/captioning"
	"latelantern/internal/api/capturing"
	"latelantern/internal/api/edge"
	"latelantern/internal/api/listening"
	"latelantern/internal/api/live"
	"latelantern/internal/api/planning"
	"latelantern/internal/api/seen"
	"latelantern/internal/api/sharing"
	"latelantern/internal/api/telling"
	"latelantern/internal/api/trimming"
	"latelantern/internal/api/watching"
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
	"latelantern/internal/platform/clock"
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
	"latelantern/internal/toall"
	"latelantern/internal/words"
)

// Services is what the edge serves. All are needed but Web.
type Services struct {
	DB          *pgxpool.Pool
	Clock       clock.Clock
	Events      *postgres.Events
	Line        *recall.Line // nil: nothing is remembered
	Roster      *roster.Service
	SignIn      *signin.Service
	Schedule    *schedule.Service
	Capture     *capture.Service
	Recordings  *recordings.Reader
	Library     *library.Service
	Cuts        *cuts.Service
	Measure     *measure.Service
	Publication *publication.Service
	Audience    *audience.Service
	Releases    *release.Service
	Playlists   *playlists.Service
	CatchUp     *catchup.Service
	Presence    *presence.Service
	Chat        *chat.Service
	ToAll       *toall.Service
	Notes       *notes.Service
	Door        *door.Service
	Remind      *remind.Service
	Halls       *halls.Service
	Find        *find.Service
	Words       *words.Service
	News        *news.Service
	Feeds       *feeds.Service
	Carry       *carry.Service
	Frames      *frames.Service
	Secret      []byte   // signs media addresses; at least 32 bytes
	Web         fs.FS    // the built front end; nil for none
	Secure      bool     // cookies over HTTPS alone
	Public      string   // address under which people reach the application, without a slash at its end
	Proxies     []string // whose word about who calls is believed
}

// New is the edge with all routes.
func New(p Services) *edge.Edge {
	e := edge.New(edge.Services{
		DB: p.DB, Line: p.Line, Roster: p.Roster, Door: p.Door, Links: p.Audience, Frames: p.Frames,
		Halls:   p.Halls,
		Courses: p.courses(), Secret: p.Secret, Web: p.Web, Public: p.Public,
		Secure: p.Secure, Proxies: p.Proxies,
		Problems: edge.Join(accounts.Problems, planning.Problems, capturing.Problems, trimming.Problems,
			captioning.Problems, watching.Problems, sharing.Problems, telling.Problems, live.Problems),
	})
	shown := &seen.Seen{Edge: e, Roster: p.Roster, Schedule: p.Schedule, Audience: p.Audience, Door: p.Door,
		Presence: p.Presence, Clock: p.Clock}
	groups := []interface{ Routes() }{
		&accounts.API{Edge: e, Seen: shown, Schedule: p.Schedule, Clock: p.Clock, Roster: p.Roster, SignIn: p.SignIn,
			Door: p.Door, Public: p.Public},
		&planning.API{Edge: e, Seen: shown, Schedule: p.Schedule, Clock: p.Clock, Roster: p.Roster, Door: p.Door,
			Audience: p.Audience, Capture: p.Capture, Halls: p.Halls, Cuts: p.Cuts, Remind: p.Remind, Find: p.Find,
			Carry: p.Carry, Public: p.Public},
		&capturing.API{Edge: e, Schedule: p.Schedule, Clock: p.Clock, Capture: p.Capture, Halls: p.Halls},
		&trimming.API{Edge: e, Schedule: p.Schedule, Clock: p.Clock, Roster: p.Roster, Audience: p.Audience,
			Capture: p.Capture, Cuts: p.Cuts, Recordings: p.Recordings, Library: p.Library, Measure: p.Measure,
			Releases: p.Releases, Words: p.Words, Public: p.Public},
		&captioning.API{Edge: e, Schedule: p.Schedule, Recordings: p.Recordings, Publication: p.Publication,
			Words: p.Words},
		&watching.API{Edge: e, Seen: shown, Schedule: p.Schedule, Clock: p.Clock, Roster: p.Roster, Door: p.Door,
			Audience: p.Audience, Recordings: p.Recordings, Publication: p.Publication, Words: p.Words,
			CatchUp: p.CatchUp, Chat: p.Chat, ToAll: p.ToAll, Notes: p.Notes, Playlists: p.Playlists,
			Presence: p.Presence, News: p.News,
			Feeds: p.Feeds, Find: p.Find, Remind: p.Remind, Public: p.Public},
		&sharing.API{Edge: e, Schedule: p.Schedule, Clock: p.Clock, Roster: p.Roster, Audience: p.Audience,
			Playlists: p.Playlists, Releases: p.Releases, Recordings: p.Recordings, Frames: p.Frames,
			Public: p.Public},
		&telling.API{Edge: e, Schedule: p.Schedule, Clock: p.Clock, Audience: p.Audience, News: p.News,
			Chat: p.Chat, Words: p.Words, Presence: p.Presence},
		&listening.API{Edge: e, Chat: p.Chat, Schedule: p.Schedule, Clock: p.Clock, Roster: p.Roster, Door: p.Door,
			Audience: p.Audience, Releases: p.Releases, Events: p.Events, Line: p.Line},
		&live.API{Edge: e, Seen: shown, Schedule: p.Schedule, Clock: p.Clock, Door: p.Door, Audience: p.Audience,
			Recordings: p.Recordings, Presence: p.Presence, Chat: p.Chat, ToAll: p.ToAll,
			Remind: p.Remind},
	}
	for _, g := range groups {
		g.Routes()
	}
	return e
}

// courses says to which course something belongs.
func (p Services) courses() edge.Courses {
	return edge.Courses{
		Course: func(ctx context.Context, id uuid.UUID) (uuid.UUID, error) {
			c, err := p.Schedule.Course(ctx, id)
			return c.ID, err
		},
		Lecture: func(ctx context.Context, id uuid.UUID) (uuid.UUID, error) {
			rows, err := p.Schedule.Lecture(ctx, id)
			if err != nil {
				return uuid.Nil, err
			}
			return rows[0].CourseID, nil
		},
		Recording: func(ctx context.Context, id uuid.UUID) (uuid.UUID, error) {
			r, err := p.Recordings.Recording(ctx, id)
			return r.CourseID, err
		},
		Track: func(ctx context.Context, id uuid.UUID) (uuid.UUID, error) {
			t, err := p.Capture.Stored(ctx, id)
			return t.Course, err
		},
	}
}
