package live

import (
	"context"
	"net/http"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/door"
	"latelantern/internal/roster"
)

// WhoElse is who follows a lecture, as one who follows it sees it.
type WhoElse struct {
	Seen  bool     `json:"seen" doc:"names are seen in this course, by those who belong to it"`
	Names []string `json:"names" nullable:"false" doc:"of those who follow it now or sit in its hall, without those who teach; in order"`
}

func (a *API) whoElseRoutes() {
	edge.On(a.Edge, edge.Inside, http.MethodGet, "/api/lectures/{lecture}/who-else", "who-else",
		"Who else follows a lecture, where its course lets names be seen", a.whoElse)
}

// whoElse is who follows a lecture: for those of its course, where that lets names be seen.
func (a *API) whoElse(ctx context.Context, p roster.Person, in *edge.OfLecture) (*edge.Body[WhoElse], error) {
	at, err := a.Seen.Enters(ctx, p, in.Lecture)
	if err != nil {
		return nil, err
	}
	out := WhoElse{Names: []string{}}
	if out.Seen, err = a.Door.NamesSeen(ctx, at.Course); err != nil || !out.Seen || p.Guest {
		out.Seen = false
		return edge.Answer(out), err
	}
	inside, err := a.insiders.Ask(ctx, in.Lecture)
	for _, x := range inside {
		out.Names = append(out.Names, x.Name)
	}
	return edge.Answer(out), err
}

// inside is who follows lectures, asked for at once by many who do.
func (a *API) inside(ctx context.Context, lectures []uuid.UUID) (map[uuid.UUID][]door.Inside, error) {
	out := map[uuid.UUID][]door.Inside{}
	for _, l := range lectures {
		var err error
		if out[l], err = a.Door.Insiders(ctx, l); err != nil {
			return nil, err
		}
	}
	return out, nil
}
