// Package watching adds the routes of catching up, watching and what media are made of.
package watching

import (
	lru "github.com/hashicorp/golang-lru/v2"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/seen"
	"latelantern/internal/audience"
	"latelantern/internal/catchup"
	"latelantern/internal/chat"
	"latelantern/internal/door"
	"latelantern/internal/feeds"
	"latelantern/internal/find"
	"latelantern/internal/news"
	"latelantern/internal/notes"
	"latelantern/internal/platform/clock"
	"latelantern/internal/playlists"
	"latelantern/internal/presence"
	"latelantern/internal/publication"
	"latelantern/internal/recordings"
	"latelantern/internal/remind"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
	"latelantern/internal/toall"
	"latelantern/internal/words"
)

// API is what its routes serve.
type API struct {
	*edge.Edge
	Seen        *seen.Seen
	Schedule    *schedule.Service
	Clock       clock.Clock
	Roster      *roster.Service
	Door        *door.Service
	Audience    *audience.Service
	Recordings  *recordings.Reader
	Publication *publication.Service
	Words       *words.Service
	Remind      *remind.Service
	CatchUp     *catchup.Service
	Chat        *chat.Service
	ToAll       *toall.Service
	Notes       *notes.Service
	Playlists   *playlists.Service
	Presence    *presence.Service
	News        *news.Service
	Feeds       *feeds.Service
	Find        *find.Service
	Public      string // address under which people reach the application, without a slash at its end

	played played
	fed    *lru.Cache[string, fedAt]
}

// Routes adds them to the edge.
func (a *API) Routes() {
	a.mediaRoutes()
	a.watchRoutes()
	a.feedRoutes()
	a.oneListRoutes()
	a.linkedRoutes()
	a.proposedRoutes()
	a.searchRoutes()
	a.chatRoutes()
	a.toAllRoutes()
	a.noteRoutes()
}

// Problems says with which status they answer.
var Problems = edge.Join(watchProblems, noteProblems)
