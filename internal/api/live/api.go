// Package live adds the routes of a lecture as it happens: its page, its doorway, who follows it.
package live

import (
	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/seen"
	"latelantern/internal/audience"
	"latelantern/internal/chat"
	"latelantern/internal/door"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/together"
	"latelantern/internal/presence"
	"latelantern/internal/recordings"
	"latelantern/internal/remind"
	"latelantern/internal/schedule"
	"latelantern/internal/toall"
)

// API is what its routes serve.
type API struct {
	*edge.Edge
	Seen       *seen.Seen
	Schedule   *schedule.Service
	Clock      clock.Clock
	Door       *door.Service
	Audience   *audience.Service
	Recordings *recordings.Reader
	Presence   *presence.Service
	Chat       *chat.Service
	ToAll      *toall.Service
	Remind     *remind.Service

	insiders *together.Question[uuid.UUID, []door.Inside]
}

// Routes adds them to the edge.
func (a *API) Routes() {
	a.insiders = together.New(a.inside)
	a.collegeRoutes()
	a.doorRoutes()
	a.whoElseRoutes()
	a.lectureRoutes()
	a.chatRoutes()
	a.registerRoutes()
	a.toAllRoutes()
	a.preparedRoutes()
}

// Problems says with which status they answer.
var Problems = edge.Join(doorProblems, chatProblems, registerProblems, toAllProblems)
