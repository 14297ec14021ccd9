// Package accounts adds the routes of how people come in: sign-in, accounts, people and rosters.
package accounts

import (
	"latelantern/internal/api/edge"
	"latelantern/internal/api/seen"
	"latelantern/internal/door"
	"latelantern/internal/platform/clock"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
	"latelantern/internal/signin"
)

// API is what its routes serve.
type API struct {
	*edge.Edge
	Seen     *seen.Seen
	Schedule *schedule.Service
	Clock    clock.Clock
	Roster   *roster.Service
	SignIn   *signin.Service
	Door     *door.Service
	Public   string // address under which people reach the application, without a slash at its end
}

// Routes adds them to the edge.
func (a *API) Routes() {
	a.accountRoutes()
	a.peopleRoutes()
	a.rosterRoutes()
	a.signInRoutes()
	a.frameRoutes()
}

// Problems says with which status they answer.
var Problems = edge.Join(accountProblems, peopleProblems, rosterProblems, signInProblems, frameProblems)
