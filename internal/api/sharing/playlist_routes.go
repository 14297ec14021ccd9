package sharing

import (
	"context"
	"net/http"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/core/playlist"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/playlists"
	"latelantern/internal/roster"
)

// Addable are recordings that could be put into a playlist.
type Addable struct {
	Recordings []WaitingLine `json:"recordings" nullable:"false"`
}

// Offered are playlists of other courses that a course could show.
type Offered struct {
	Lists []ListLine `json:"lists" nullable:"false"`
}

// Asked is a playlist of a course as an operation names it.
type Asked struct {
	edge.OfCourse
	List uuid.UUID `query:"list" format:"uuid" doc:"a playlist that the course shows; its main one when there is none"`
}

func (a Asked) of() playlists.Of { return playlists.Of{Course: a.Course, List: a.List} }

// Named is a playlist of a course by its address.
type Named struct {
	edge.OfCourse
	List uuid.UUID `path:"list" format:"uuid"`
}

func (n Named) of() playlists.Of { return playlists.Of{Course: n.Course, List: n.List} }

// EntryText is what a heading says, a page elsewhere, or a file.
type EntryText struct {
	Title   string `json:"title"`
	About   string `json:"about,omitempty" doc:"of a heading: a sentence below it"`
	Address string `json:"address,omitempty" doc:"of a page"`
}

func (t EntryText) text() playlists.Text {
	return playlists.Text{Title: t.Title, About: t.About, Address: t.Address}
}

// ListText is what a playlist is called, and what it is in order by.
type ListText struct {
	Title    string `json:"title"`
	About    string `json:"about"`
	Arranged string `json:"arranged" enum:"hand,date,week"`
}

func (t ListText) kept() playlists.Kept {
	return playlists.Kept{Title: t.Title, About: t.About, Arranged: playlist.Arranged(t.Arranged)}
}

type addableInput struct {
	Asked
	From uuid.UUID `query:"from" required:"true" format:"uuid" doc:"the course whose recordings are asked for"`
}

type textInput struct {
	Asked
	Body EntryText
}

type wordInput struct {
	Asked
	Entry uuid.UUID `path:"entry" format:"uuid"`
	Body  EntryText
}

type entriesInput struct {
	Asked
	Body struct {
		Entries []uuid.UUID `json:"entries" minItems:"1" maxItems:"2000"`
	}
}

type moveInput struct {
	Asked
	Body struct {
		Entries []uuid.UUID `json:"entries" minItems:"1" maxItems:"2000" doc:"they keep their order"`
		Before  *uuid.UUID  `json:"before,omitempty" format:"uuid" doc:"the entry they come before; none for the end"`
	}
}

type addInput struct {
	Asked
	Body struct {
		Recordings []uuid.UUID `json:"recordings" minItems:"1" maxItems:"500"`
	}
}

type newListInput struct {
	edge.OfCourse
	Body ListText
}

type listInput struct {
	Named
	Body ListText
}

type showInput struct {
	Named
	Body struct {
		Shown bool `json:"shown"`
	}
}

type playlistDone = edge.Body[PlaylistPage]

// changed answers a change of a playlist with how it is now.
func (a *API) changed(ctx context.Context, p roster.Person, of playlists.Of, err error) (*playlistDone, error) {
	if err != nil {
		return nil, err
	}
	out, err := a.playlist(ctx, p, of)
	if err != nil {
		return nil, err
	}
	return edge.Answer(out), nil
}

func (a *API) playlistRoutes() {
	const path = "/api/courses/{course}/playlist"
	edge.On(a.Edge, edge.Staff, http.MethodGet, path, "playlist", "A playlist of a course",
		func(ctx context.Context, p roster.Person, in *Asked) (*playlistDone, error) {
			return a.changed(ctx, p, in.of(), nil)
		})
	edge.On(a.Edge, edge.Staff, http.MethodGet, path+"/addable", "addable-to-playlist",
		"Recordings of a course that one teaches which could be put into a playlist", a.addable)
	edge.On(a.Edge, edge.Staff, http.MethodPost, path+"/recordings", "add-to-playlist",
		"Put recordings into a playlist",
		func(ctx context.Context, p roster.Person, in *addInput) (*playlistDone, error) {
			taught, err := a.taught(ctx, p, in.Body.Recordings)
			if err == nil {
				err = a.Playlists.Add(ctx, in.of(), taught, in.Body.Recordings...)
			}
			return a.changed(ctx, p, in.of(), err)
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, path+"/headings", "add-heading", "Add a topic heading",
		func(ctx context.Context, p roster.Person, in *textInput) (*playlistDone, error) {
			_, err := a.Playlists.AddHeading(ctx, in.of(), in.Body.text())
			return a.changed(ctx, p, in.of(), err)
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, path+"/pages", "add-page", "Add a page elsewhere",
		func(ctx context.Context, p roster.Person, in *textInput) (*playlistDone, error) {
			_, err := a.Playlists.AddPage(ctx, in.of(), in.Body.text())
			return a.changed(ctx, p, in.of(), err)
		})
	edge.On(a.Edge, edge.Staff, http.MethodPut, path+"/entries/{entry}", "word-entry",
		"Change what a heading, a page or a file says",
		func(ctx context.Context, p roster.Person, in *wordInput) (*playlistDone, error) {
			return a.changed(ctx, p, in.of(), a.Playlists.Word(ctx, in.of(), in.Entry, in.Body.text()))
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, path+"/moves", "move-entries", "Move entries",
		func(ctx context.Context, p roster.Person, in *moveInput) (*playlistDone, error) {
			err := a.Playlists.Move(ctx, in.of(), in.Body.Entries, postgres.OrZero(in.Body.Before))
			return a.changed(ctx, p, in.of(), err)
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, path+"/removals", "remove-entries",
		"Take entries out of a playlist",
		func(ctx context.Context, p roster.Person, in *entriesInput) (*playlistDone, error) {
			return a.changed(ctx, p, in.of(), a.Playlists.Remove(ctx, in.of(), in.Body.Entries...))
		})
	a.listRoutes()
	a.playlistFileRoutes()
	a.handoutRoutes()
}

func (a *API) listRoutes() {
	const path = "/api/courses/{course}/playlists"
	edge.On(a.Edge, edge.Staff, http.MethodPost, path, "add-playlist", "Make another playlist of a course",
		func(ctx context.Context, p roster.Person, in *newListInput) (*playlistDone, error) {
			id, err := a.Playlists.AddList(ctx, in.Course, p.ID, in.Body.kept())
			return a.changed(ctx, p, playlists.Of{Course: in.Course, List: id}, err)
		})
	edge.On(a.Edge, edge.Staff, http.MethodGet, path+"/offered", "offered-playlists",
		"Playlists of other courses that one teaches which a course could show", a.offered)
	edge.On(a.Edge, edge.Staff, http.MethodPut, path+"/{list}", "change-playlist",
		"Change what a playlist is called and what it is in order by",
		func(ctx context.Context, p roster.Person, in *listInput) (*playlistDone, error) {
			return a.changed(ctx, p, in.of(), a.Playlists.ChangeList(ctx, in.of(), in.Body.kept()))
		})
	edge.On(a.Edge, edge.Staff, http.MethodDelete, path+"/{list}", "remove-playlist",
		"Take a playlist away; it can be brought back",
		func(ctx context.Context, p roster.Person, in *Named) (*playlistDone, error) {
			err := a.Playlists.SetDeleted(ctx, in.of(), true)
			return a.changed(ctx, p, playlists.Of{Course: in.Course}, err)
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, path+"/{list}/back", "restore-playlist", "Bring a playlist back",
		func(ctx context.Context, p roster.Person, in *Named) (*playlistDone, error) {
			return a.changed(ctx, p, in.of(), a.Playlists.SetDeleted(ctx, in.of(), false))
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, path+"/{list}/filling/preview", "preview-filling",
		"What a sentence would bring into a playlist", a.fillPreview)
	edge.On(a.Edge, edge.Staff, http.MethodPut, path+"/{list}/filling", "set-filling",
		"Have a playlist keep itself filled by a sentence", a.setFilling)
	edge.On(a.Edge, edge.Staff, http.MethodPut, path+"/{list}/shown", "show-playlist",
		"Have a course show a playlist of another, or show it no more", a.show)
}

var playlistProblems = edge.Problems{
	playlists.ErrUnknown: http.StatusNotFound,
	playlists.ErrInvalid: http.StatusUnprocessableEntity,
}
