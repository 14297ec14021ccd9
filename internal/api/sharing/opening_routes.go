package sharing

import (
	"context"
	"net/http"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/audience"
	"latelantern/internal/playlists"
	"latelantern/internal/roster"
)

// What the operations on openings are about: those of a recording, and the links to a playlist.
type (
	// OfOpened is a recording that is opened.
	OfOpened struct{ edge.OfRecording }
	// OfOpening is an opening of it.
	OfOpening struct {
		OfOpened
		Opening uuid.UUID `path:"opening" format:"uuid"`
	}
	// OfListLink is a link to a playlist.
	OfListLink struct {
		Named
		Opening uuid.UUID `path:"opening" format:"uuid"`
	}
	openingInput struct {
		OfOpened
		Body OpeningForm
	}
	openingChange struct {
		OfOpening
		Body OpeningForm
	}
	listLinkInput struct {
		Named
		Body OpeningForm
	}
	listLinkChange struct {
		OfListLink
		Body OpeningForm
	}
)

type (
	opener  interface{ opens() audience.Opens }
	entered interface {
		opener
		form() audience.OpeningForm
	}
	chosen interface {
		opener
		opening() uuid.UUID
	}
	changed interface {
		entered
		chosen
	}
)

func (o OfOpened) opens() audience.Opens { return audience.Opens{Recording: o.Recording} }
func (n Named) opens() audience.Opens    { return audience.Opens{Course: n.Course, Playlist: n.List} }

func (o OfOpening) opening() uuid.UUID  { return o.Opening }
func (o OfListLink) opening() uuid.UUID { return o.Opening }

func (in openingInput) form() audience.OpeningForm   { return in.Body.form() }
func (in openingChange) form() audience.OpeningForm  { return in.Body.form() }
func (in listLinkInput) form() audience.OpeningForm  { return in.Body.form() }
func (in listLinkChange) form() audience.OpeningForm { return in.Body.form() }

func (a *API) openingRoutes() {
	const recording, list = "/api/recordings/{recording}", "/api/courses/{course}/playlists/{list}"
	openingsOn[OfOpened, openingInput, openingChange](a, recording, "")
	openingEnds[OfOpening](a, recording, "")
	openingsOn[Named, listLinkInput, listLinkChange](a, list, "list-")
	openingEnds[OfListLink](a, list, "list-")
	type findInput struct {
		edge.OfRecording
		Words string `query:"words" maxLength:"100"`
	}
	edge.On(a.Edge, edge.Staff, http.MethodGet, recording+"/people", "people-to-name",
		"People with an account whom an opening can name",
		func(ctx context.Context, _ roster.Person, in *findInput) (*edge.Body[[]PersonName], error) {
			found, err := a.Roster.Named(ctx, in.Words)
			if err != nil {
				return nil, err
			}
			out := []PersonName{}
			for _, p := range found {
				out = append(out, PersonName{p.ID, p.Name, p.Email})
			}
			return edge.Answer(out), nil
		})
}

// openingsOn adds the routes that list, make and change the openings of what stands at a path; their IDs begin alike.
func openingsOn[W opener, F entered, C changed](a *API, path, id string) {
	path += "/openings"
	edge.On(a.Edge, edge.Staff, http.MethodGet, path, id+"openings", "To whom it is open beside any course",
		func(ctx context.Context, _ roster.Person, in *W) (*edge.Body[OpeningList], error) {
			return a.openings(ctx, (*in).opens(), nil)
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, path, id+"open", "Open it beside any course",
		func(ctx context.Context, p roster.Person, in *F) (*edge.Body[OpeningList], error) {
			made, err := a.Audience.Open(ctx, (*in).opens(), p.ID, (*in).form())
			if err != nil {
				return nil, err
			}
			return a.openings(ctx, (*in).opens(), &made)
		}, edge.Changes("opening"))
	edge.On(a.Edge, edge.Staff, http.MethodPost, path+"/preview", id+"preview-opening", "What an opening would change",
		func(ctx context.Context, p roster.Person, in *F) (*edge.Body[OpeningChange], error) {
			x, err := a.Audience.PreviewOpening(ctx, (*in).opens(), p.ID, (*in).form())
			if err != nil {
				return nil, err
			}
			return edge.Answer(OpeningChange{x.Gain, x.Of, namesOf(x.Names), (*ListOpened)(x.List)}), nil
		})
	edge.On(a.Edge, edge.Staff, http.MethodPut, path+"/{opening}", id+"change-opening", "Change an opening",
		func(ctx context.Context, p roster.Person, in *C) (*edge.Body[OpeningList], error) {
			err := a.Audience.ChangeOpening(ctx, (*in).opens(), (*in).opening(), p.ID, (*in).form())
			if err != nil {
				return nil, err
			}
			return a.openings(ctx, (*in).opens(), nil)
		}, edge.Changes("opening"))
}

// openingEnds adds the routes that take openings back, and renew links.
func openingEnds[O chosen](a *API, path, id string) {
	path += "/openings/{opening}"
	on := func(method, path, id, summary string, do func(context.Context, roster.Person, O) error) {
		edge.On(a.Edge, edge.Staff, method, path, id, summary,
			func(ctx context.Context, p roster.Person, in *O) (*edge.Body[OpeningList], error) {
				if err := do(ctx, p, *in); err != nil {
					return nil, err
				}
				return a.openings(ctx, (*in).opens(), nil)
			}, edge.Changes("opening"))
	}
	on(http.MethodDelete, path, id+"take-opening-back", "Take an opening back",
		func(ctx context.Context, p roster.Person, in O) error {
			return a.Audience.TakeBack(ctx, in.opens(), in.opening(), p.ID, false)
		})
	on(http.MethodPost, path+"/bring-back", id+"open-again", "Let an opening hold again as before",
		func(ctx context.Context, p roster.Person, in O) error {
			return a.Audience.TakeBack(ctx, in.opens(), in.opening(), p.ID, true)
		})
	on(http.MethodPost, path+"/renew", id+"renew-link", "Give a link a new address",
		func(ctx context.Context, p roster.Person, in O) error {
			return a.Audience.Renew(ctx, in.opens(), in.opening(), p.ID)
		})
}

// openings lists the openings of something; made is that which was just made.
func (a *API) openings(ctx context.Context, of audience.Opens, made *uuid.UUID) (*edge.Body[OpeningList], error) {
	title, course, err := a.openedTitle(ctx, of)
	if err != nil {
		return nil, err
	}
	list, err := a.Audience.Openings(ctx, of)
	if err != nil {
		return nil, err
	}
	term, err := a.Schedule.TermOf(ctx, course)
	if err != nil {
		return nil, err
	}
	out := OpeningList{Title: title, Zone: term.Zone.String(), Openings: []OpeningLine{}, Made: made}
	for _, o := range list {
		out.Openings = append(out.Openings, openingLine(o, a.Clock.Now()))
	}
	return edge.Answer(out), nil
}

// openedTitle is what something that is opened is called, and the course by which it is given.
func (a *API) openedTitle(ctx context.Context, of audience.Opens) (title string, course uuid.UUID, err error) {
	if of.Playlist != uuid.Nil {
		list, err := a.Playlists.List(ctx, of.Playlist)
		if err == nil && list.CourseID != of.Course {
			err = playlists.ErrUnknown
		}
		return list.Title, of.Course, err
	}
	course, err = edge.OfRecording{Recording: of.Recording}.Belongs(ctx, a.Edge)
	if err != nil {
		return "", course, err
	}
	title, err = a.Audience.Title(ctx, audience.Scope{Course: course, Recording: of.Recording})
	return title, course, err
}
