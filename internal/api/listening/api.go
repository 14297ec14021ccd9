// Package listening adds the routes of the stream of events.
package listening

import (
	"net/http"
	"reflect"

	"latelantern/internal/api/edge"
	"latelantern/internal/audience"
	"latelantern/internal/chat"
	"latelantern/internal/door"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/release"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// API is what its routes serve.
type API struct {
	*edge.Edge
	Schedule *schedule.Service
	Clock    clock.Clock
	Roster   *roster.Service
	Door     *door.Service
	Chat     *chat.Service
	Audience *audience.Service
	Releases *release.Service
	Events   *postgres.Events

	tellings *tellings
	streams  *edge.Places
}

// Routes adds them to the edge.
func (a *API) Routes() {
	a.tellings, a.streams = newTellings(), edge.NewPlaces(0, mostStreams)
	a.Describe(reflect.TypeFor[Event](), "Event") // no operation answers with it
	a.Plain(edge.Inside, http.MethodGet, "/api/events", a.events)
}
