// Package captioning adds the routes of captions, chapters and the words of a course.
package captioning

import (
	"latelantern/internal/api/edge"
	"latelantern/internal/publication"
	"latelantern/internal/recordings"
	"latelantern/internal/schedule"
	"latelantern/internal/words"
)

// API is what its routes serve.
type API struct {
	*edge.Edge
	Schedule    *schedule.Service
	Recordings  *recordings.Reader
	Publication *publication.Service
	Words       *words.Service
}

// Routes adds them to the edge.
func (a *API) Routes() {
	a.captionRoutes()
	a.chapterRoutes()
}

// Problems says with which status they answer.
var Problems = edge.Join(captionProblems)
