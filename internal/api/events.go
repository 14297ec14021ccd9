package api

import (
	"encoding/json"
	"fmt"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/platform/postgres"
)

// events streams what changed in the courses of the caller, as server-sent events (HTML
// Living Standard, 9.2). An event names what changed, never what it is now. A stream that may have
// missed something ends: whoever comes again asks for everything anew.
func (a *API) events(c *gin.Context) {
	ctx := c.Request.Context()
	p, ok := caller(ctx)
	if !ok {
		c.AbortWithStatus(http.StatusUnauthorized)
		return
	}
	notices, cancel := a.Notices.Subscribe()
	defer cancel()
	h := c.Writer.Header()
	h.Set("Content-Type", "text/event-stream")
	h.Set("Cache-Control", "no-store")
	h.Set("X-Accel-Buffering", "no")
	c.Writer.WriteHeader(http.StatusOK)
	fmt.Fprint(c.Writer, "retry: 1000\n\n")
	c.Writer.Flush()
	beat := time.NewTicker(20 * time.Second)
	defer beat.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-beat.C:
			if _, err := fmt.Fprint(c.Writer, ": still here\n\n"); err != nil {
				return
			}
		case n := <-notices:
			if n.About == postgres.Missed {
				return
			}
			if n.About == "term" && !p.Guest { // concerns everyone
				if !tell(c, n) {
					return
				}
				break
			}
			if of, guest := guestOf(ctx); guest && (n.Lecture != of || n.About != "capture" && n.About != "doorway") {
				continue
			}
			if n.About == "file" { // concerns who sent it, and coordinators
				if p.Guest || ofSender(p, &n.Person) != nil {
					continue
				}
				if !tell(c, n) {
					return
				}
				break
			}
			v, err := a.Roster.Viewer(ctx, p.ID, n.Course)
			if err != nil {
				return
			}
			if !v.Coordinator && v.Part == "" && !p.Guest {
				continue
			}
			// Bytes as they are stored concern only those who teach.
			if (n.About == "stored" || n.About == "cuts") && !v.Coordinator && !v.Part.Staff() {
				continue
			}
			if !tell(c, n) {
				return
			}
		}
		c.Writer.Flush()
	}
}

// tell sends one notice and says whether it could.
func tell(c *gin.Context, n postgres.Notice) bool {
	n.Track, n.Person = uuid.Nil, uuid.Nil
	b, err := json.Marshal(n)
	if err != nil {
		return false
	}
	_, err = fmt.Fprintf(c.Writer, "data: %s\n\n", b)
	return err == nil
}
