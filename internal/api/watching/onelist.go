package watching

import (
	"context"
	"net/http"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/playlists"
	"latelantern/internal/roster"
)

// OneList is a playlist that a course shows, by itself, as one person sees it.
type OneList struct {
	Zone   string          `json:"zone"`
	Course page.CourseName `json:"course"`
	List   CatchUpList     `json:"list"`
}

type oneListInput struct {
	Course uuid.UUID `path:"course" format:"uuid"`
	List   uuid.UUID `query:"list" format:"uuid" doc:"its main one when there is none"`
}

func (a *API) oneListRoutes() {
	edge.On(a.Edge, edge.Inside, http.MethodGet, "/api/courses/{course}/shown", "one-list",
		"A playlist of a course, by itself", a.oneList)
}

// oneList is for the people of the course. Guests have none.
func (a *API) oneList(ctx context.Context, p roster.Person, in *oneListInput) (*edge.Body[OneList], error) {
	v, err := a.Roster.Viewer(ctx, p.ID, in.Course)
	if err != nil {
		return nil, err
	}
	if p.Guest || !v.Coordinator && v.Role == "" {
		return nil, edge.ErrNotYours
	}
	course, err := a.Schedule.Course(ctx, in.Course)
	if err != nil {
		return nil, err
	}
	term, err := a.Schedule.TermOf(ctx, in.Course)
	if err != nil {
		return nil, err
	}
	shelves, err := a.shelves(ctx, p.ID, in.Course)
	if err != nil {
		return nil, err
	}
	open, err := a.opening(ctx, p, []uuid.UUID{in.Course}, shelves)
	if err != nil {
		return nil, err
	}
	out := OneList{Zone: term.Zone.String(), List: CatchUpList{Entries: []CatchUpLine{}},
		Course: page.CourseName{ID: course.ID, Code: course.Code, Title: course.Title}}
	for _, x := range shelves {
		if x.ID == in.List || x.Main && in.List == uuid.Nil {
			out.List = CatchUpList{headOf(x), a.catchUpLines(term, x.Entries, open)}
			return edge.Answer(out), nil
		}
	}
	if in.List != uuid.Nil {
		return nil, playlists.ErrUnknown
	}
	return edge.Answer(out), nil // nothing was ever put into its main one
}
