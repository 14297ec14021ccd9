// Package trimming adds the routes of the trim bench and what changes recordings.
package trimming

import (
	"latelantern/internal/api/edge"
	"latelantern/internal/audience"
	"latelantern/internal/capture"
	"latelantern/internal/cuts"
	"latelantern/internal/library"
	"latelantern/internal/measure"
	"latelantern/internal/platform/clock"
	"latelantern/internal/recordings"
	"latelantern/internal/release"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
	"latelantern/internal/words"
)

// API is what its routes serve.
type API struct {
	*edge.Edge
	Schedule   *schedule.Service
	Clock      clock.Clock
	Roster     *roster.Service
	Audience   *audience.Service
	Capture    *capture.Service
	Cuts       *cuts.Service
	Recordings *recordings.Reader
	Library    *library.Service
	Measure    *measure.Service
	Releases   *release.Service
	Words      *words.Service
	Public     string // address under which people reach the application, without a slash at its end
}

// Routes adds them to the edge.
func (a *API) Routes() {
	a.allRoutes()
	a.arrangeRoutes()
	a.recordingRoutes()
	a.timelineRoutes()
	a.titleRoutes()
	a.twinRoutes()
	a.versionRoutes()
}

// Problems says with which status they answer.
var Problems = edge.Join(arrangeProblems, recordingProblems, timelineProblems, cutProblems)
