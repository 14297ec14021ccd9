// Package listening adds the routes of the stream of events.
package listening

import (
	"net/http"
	"reflect"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/audience"
	"latelantern/internal/chat"
	"latelantern/internal/door"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/platform/recall"
	"latelantern/internal/platform/together"
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
	Line     *recall.Line // nil: nothing is remembered

	tellings *tellings
	streams  *edge.Places
	doors    *together.Question[place, door.At]
	known    *recall.Memory[uuid.UUID, known]
}

// Routes adds them to the edge.
func (a *API) Routes() {
	a.tellings, a.streams = newTellings(), edge.NewPlaces(0, mostStreams)
	a.doors, a.known = together.New(a.stand), recall.NewMemory[uuid.UUID, known](a.Line, mostKnown, a.Clock.Now)
	a.Describe(reflect.TypeFor[Event](), "Event") // no operation answers with it
	a.Plain(edge.Inside, http.MethodGet, "/api/events", a.events)
}
