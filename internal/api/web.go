package api

import (
	"io/fs"
	"net/http"
	"path"
	"strings"

	"github.com/gin-gonic/gin"
)

// web serves the front end. Every address that is no file is a place of the application,
// which decides by itself; what it shows comes from the API.
func (a *API) web(c *gin.Context) {
	if c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
		c.Status(http.StatusMethodNotAllowed)
		return
	}
	name := strings.TrimPrefix(path.Clean(c.Request.URL.Path), "/")
	if a.Web == nil || strings.HasPrefix(name, "api/") || strings.HasPrefix(name, "media/") {
		c.Status(http.StatusNotFound)
		return
	}
	info, err := fs.Stat(a.Web, name)
	if name == "" || err != nil || info.IsDir() {
		if path.Ext(name) != "" {
			c.Status(http.StatusNotFound)
			return
		}
		name = "index.html"
		c.Header("Cache-Control", "no-cache")
	} else if strings.HasPrefix(name, "assets/") {
		c.Header("Cache-Control", "public, max-age=31536000, immutable")
	}
	c.Status(http.StatusOK) // gin takes a request without a route for a 404
	http.ServeFileFS(c.Writer, c.Request, a.Web, name)
}
