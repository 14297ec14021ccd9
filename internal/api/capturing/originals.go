package capturing

import (
	"net/http"

	"github.com/gin-gonic/gin"

	"latelantern/internal/api/edge"
	"latelantern/internal/capture"
)

func (a *API) originalRoutes() {
	a.Plain(edge.Staff, http.MethodGet, "/api/recordings/:recording/original", a.original)
}

// original sends a file as it came to those who teach its course.
func (a *API) original(c *gin.Context) {
	ctx := c.Request.Context()
	id := edge.RecordingOf(c)
	o, err := a.Capture.Original(ctx, id)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	f, err := o.Open()
	if err != nil {
		a.Refuse(c, capture.ErrUnknown)
		return
	}
	defer f.Close()
	// Someone's bytes are never shown as a page of ours.
	c.Header("Content-Type", "application/octet-stream")
	edge.AsFile(c, o.FileName)
	http.ServeContent(c.Writer, c.Request, "", o.Came, f)
}
