// Package telling adds the routes of what students are told, by their course and by mail.
package telling

import (
	"latelantern/internal/api/edge"
	"latelantern/internal/audience"
	"latelantern/internal/chat"
	"latelantern/internal/news"
	"latelantern/internal/platform/clock"
	"latelantern/internal/presence"
	"latelantern/internal/schedule"
	"latelantern/internal/words"
)

// API is what its routes serve.
type API struct {
	*edge.Edge
	Schedule *schedule.Service
	Clock    clock.Clock
	Audience *audience.Service
	News     *news.Service
	Chat     *chat.Service
	Words    *words.Service
	Presence *presence.Service
}

// Routes adds them to the edge.
func (a *API) Routes() {
	a.courseRoutes()
	a.noticeRoutes()
	a.readerRoutes()
	a.addressRoutes()
}

// Problems says with which status they answer.
var Problems = edge.Problems{
	news.ErrUnknown: 404,
	news.ErrKey:     404,
	news.ErrNobody:  409,
}
