// Package capturing adds the routes of what comes from captures, files and recorders.
package capturing

import (
	"latelantern/internal/api/edge"
	"latelantern/internal/capture"
	"latelantern/internal/halls"
	"latelantern/internal/platform/clock"
	"latelantern/internal/schedule"
)

// API is what its routes serve.
type API struct {
	*edge.Edge
	Schedule *schedule.Service
	Clock    clock.Clock
	Capture  *capture.Service
	Halls    *halls.Service
}

// Routes adds them to the edge.
func (a *API) Routes() {
	a.appendRoutes()
	a.arrivalRoutes()
	a.fileRoutes()
	a.originalRoutes()
	a.recorderRoutes()
}

// Problems says with which status they answer.
var Problems = edge.Join(appendProblems)
