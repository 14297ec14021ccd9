// Package planning adds the routes of terms, halls, courses, lecture plans, timetables, the board and the run sheet.
package planning

import (
	"net/http"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/seen"
	"latelantern/internal/audience"
	"latelantern/internal/capture"
	"latelantern/internal/carry"
	"latelantern/internal/cuts"
	"latelantern/internal/door"
	"latelantern/internal/find"
	"latelantern/internal/halls"
	"latelantern/internal/platform/clock"
	"latelantern/internal/remind"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// API is what its routes serve.
type API struct {
	*edge.Edge
	Seen     *seen.Seen
	Schedule *schedule.Service
	Clock    clock.Clock
	Roster   *roster.Service
	Door     *door.Service
	Audience *audience.Service
	Capture  *capture.Service
	Halls    *halls.Service
	Cuts     *cuts.Service
	Remind   *remind.Service
	Find     *find.Service
	Carry    *carry.Service
	Public   string // address under which people reach the application, without a slash at its end
}

// Routes adds them to the edge.
func (a *API) Routes() {
	a.boardRoutes()
	a.carryRoutes()
	a.chosenRoutes()
	a.courseRoutes()
	a.courseSettingRoutes()
	a.findRoutes()
	a.hallRoutes()
	a.recorderRoutes()
	a.planRoutes()
	a.runSheetRoutes()
	a.termRoutes()
	a.timetableRoutes()
	a.Plain(edge.Holders, http.MethodGet, "/feeds/:key", a.feed)
}

// Problems says with which status they answer.
var Problems = edge.Join(hallProblems, termProblems, carryProblems)
