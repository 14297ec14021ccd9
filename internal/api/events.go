package api

import (
	"encoding/json"
	"fmt"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

// events streams what changed in the courses of the caller, as server-sent events (HTML
// Living Standard, 9.2). An event names what changed, never what it is now.
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
			v, err := a.Roster.Viewer(ctx, p.ID, n.Course)
			if err != nil || !v.Coordinator && v.Part == "" {
				continue
			}
			// Bytes as they are stored concern only those who teach.
			if (n.About == "stored" || n.About == "cuts") && !v.Coordinator && !v.Part.Staff() {
				continue
			}
			n.Track = uuid.Nil
			b, err := json.Marshal(n)
			if err != nil {
				return
			}
			if _, err := fmt.Fprintf(c.Writer, "data: %s\n\n", b); err != nil {
				return
			}
		}
		c.Writer.Flush()
	}
}
