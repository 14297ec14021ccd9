// Package sharing adds the routes of playlists and viewing rules.
package sharing

import (
	"latelantern/internal/api/edge"
	"latelantern/internal/audience"
	"latelantern/internal/frames"
	"latelantern/internal/platform/clock"
	"latelantern/internal/playlists"
	"latelantern/internal/recordings"
	"latelantern/internal/release"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// API is what its routes serve.
type API struct {
	*edge.Edge
	Schedule   *schedule.Service
	Clock      clock.Clock
	Roster     *roster.Service
	Audience   *audience.Service
	Playlists  *playlists.Service
	Releases   *release.Service
	Recordings *recordings.Reader
	Frames     *frames.Service
	Public     string // address under which people reach the application, without a slash at its end
}

// Routes adds them to the edge.
func (a *API) Routes() {
	a.playlistRoutes()
	a.ruleRoutes()
	a.historyRoutes()
	a.lightingRoutes()
	a.shutRoutes()
	a.offRoutes()
	a.openingRoutes()
	a.linkRoutes()
	a.embedRoutes()
}

// Problems says with which status they answer.
var Problems = edge.Join(playlistProblems, ruleProblems, lightingProblems)
