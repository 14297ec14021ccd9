// Package seen says who learns what of lectures and recordings: what people may not see is not there for them.
package seen

import (
	"latelantern/internal/api/edge"
	"latelantern/internal/audience"
	"latelantern/internal/door"
	"latelantern/internal/platform/clock"
	"latelantern/internal/presence"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// Seen is the rules of what is shown to whom, for all routes that show lectures.
type Seen struct {
	*edge.Edge
	Roster   *roster.Service
	Schedule *schedule.Service
	Audience *audience.Service
	Door     *door.Service
	Presence *presence.Service
	Clock    clock.Clock
}
