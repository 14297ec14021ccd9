package edge

import (
	"io/fs"
	"mime"
	"net/http"
	"path"
	"strings"

	"github.com/gin-gonic/gin"
)

// Page serves the front end where an address is also that of an operation by another method.
func (e *Edge) Page(c *gin.Context) { e.web(c) }

// web serves the front end. Every address that is no file is a place of the application,
// which decides by itself; what it shows comes from the API.
func (e *Edge) web(c *gin.Context) {
	if c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
		LeaveBody(c)
		c.Status(http.StatusMethodNotAllowed)
		return
	}
	name := strings.TrimPrefix(path.Clean(c.Request.URL.Path), "/")
	if e.parts.Web == nil || strings.HasPrefix(name, "api/") || strings.HasPrefix(name, "media/") {
		c.Status(http.StatusNotFound)
		return
	}
	c.Header("Cache-Control", "no-cache")
	info, err := fs.Stat(e.parts.Web, name)
	if name == "" || err != nil || info.IsDir() {
		if path.Ext(name) != "" {
			c.Status(http.StatusNotFound)
			return
		}
		name = "index.html"
		e.discover(c)
	} else if strings.HasPrefix(name, "assets/") {
		c.Header("Cache-Control", "public, max-age=31536000, immutable")
	}
	if zipped := name + ".gz"; takesGzip(c.Request) && exists(e.parts.Web, zipped) {
		c.Header("Content-Encoding", "gzip")
		c.Header("Vary", "Accept-Encoding")
		c.Header("Content-Type", typeOf(name))
		name = zipped
	} else if path.Ext(name) == manifest {
		c.Header("Content-Type", typeOf(name))
	}
	c.Status(http.StatusOK) // gin takes a request without a route for a 404
	http.ServeFileFS(c.Writer, c.Request, e.parts.Web, name)
}

// manifest is the ending of the file by which a browser keeps the application as one of its own (W3C, Web Application
// Manifest), which not every machine knows.
const manifest = ".webmanifest"

func typeOf(name string) string {
	if path.Ext(name) == manifest {
		return "application/manifest+json"
	}
	return mime.TypeByExtension(path.Ext(name))
}

func exists(files fs.FS, name string) bool {
	_, err := fs.Stat(files, name)
	return err == nil
}

// takesGzip reports whether a caller accepts gzip (RFC 9110, 12.5.3).
func takesGzip(r *http.Request) bool {
	for part := range strings.SplitSeq(r.Header.Get("Accept-Encoding"), ",") {
		name, q, _ := strings.Cut(strings.TrimSpace(part), ";")
		if name == "gzip" && strings.TrimSpace(q) != "q=0" {
			return true
		}
	}
	return false
}

// FileName is the name of a file that is called after something, with what else is said of it.
func FileName(title string, parts ...string) string {
	return strings.Join(append([]string{strings.ReplaceAll(title, "/", "-")}, parts...), ".")
}

// AsFile has a browser keep an answer as a file of a name, and never show it as a page of ours.
func AsFile(c *gin.Context, name string) {
	c.Header("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name}))
}
