package sharing

import (
	"context"
	"net/http"
	"slices"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/playlists"
	"latelantern/internal/roster"
)

// handoutPath is where the files of the playlists of a course are sent to, and fetched from.
const handoutPath = "/api/courses/:course/playlist/files"

// handoutLasts is how long the rest of a file may take to be fetched.
const handoutLasts = 10 * time.Minute

type againInput struct {
	Asked
	File uuid.UUID `path:"file" format:"uuid"`
	Body struct {
		Title string `json:"title" maxLength:"1000"`
	}
}

func (a *API) handoutRoutes() {
	a.Plain(edge.Staff, http.MethodPost, handoutPath, a.sendHandout)
	for _, method := range []string{http.MethodGet, http.MethodHead} {
		a.Plain(edge.Members, method, handoutPath+"/:file", a.handout)
	}
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/courses/{course}/playlist/files/{file}/back", "restore-file",
		"Put a file that was taken out of a playlist back at its end",
		func(ctx context.Context, p roster.Person, in *againInput) (*playlistDone, error) {
			return a.changed(ctx, p, in.of(), a.Playlists.AddFileAgain(ctx, in.of(), in.File, in.Body.Title))
		})
}

// sendHandout takes a file as it is, the body of the request, at the end of a playlist: its name and the playlist are
// in the query.
func (a *API) sendHandout(c *gin.Context) {
	ctx := c.Request.Context()
	of := playlists.Of{}
	var err error
	if of.Course, err = uuid.Parse(c.Param("course")); err == nil && c.Query("list") != "" {
		of.List, err = uuid.Parse(c.Query("list"))
	}
	if err != nil {
		a.Refuse(c, playlists.ErrUnknown)
		return
	}
	p, _ := edge.Caller(ctx)
	_, err = a.Playlists.AddFile(ctx, of, p.ID, c.Query("name"), c.Request.ContentLength,
		edge.Streamed(c, playlists.MostFile))
	out, err := a.changed(ctx, p, of, err)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	c.JSON(http.StatusOK, out.Body)
}

// handout sends a file that stands in a playlist which a course shows, to those of the course who are not shut out.
func (a *API) handout(c *gin.Context) {
	ctx := c.Request.Context()
	course, _ := uuid.Parse(c.Param("course"))
	id, err := uuid.Parse(c.Param("file"))
	if err != nil {
		a.Refuse(c, playlists.ErrUnknown)
		return
	}
	p, _ := edge.Caller(ctx)
	if err := a.mayFetch(ctx, p, course); err != nil {
		a.Refuse(c, err)
		return
	}
	f, b, err := a.Playlists.File(ctx, course, id)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	defer b.Close()
	edge.Lasting(c, handoutLasts)
	// Someone's bytes are never shown as a page of ours.
	c.Header("Content-Type", "application/octet-stream")
	edge.AsFile(c, f.Name)
	c.Header("Cache-Control", "private, no-cache")
	c.Header("ETag", `"`+f.Blob.String()+`"`)
	http.ServeContent(c.Writer, c.Request, "", time.Time{}, b)
}

// mayFetch says why a member of a course gets no file of its playlists: they are shut out of it, so it is not there.
func (a *API) mayFetch(ctx context.Context, p roster.Person, course uuid.UUID) error {
	if a.MayStaff(ctx, p, course) == nil {
		return nil
	}
	shut, err := a.Audience.ShutFrom(ctx, p.ID)
	if err == nil && slices.Contains(shut, course) {
		err = playlists.ErrUnknown
	}
	return err
}
