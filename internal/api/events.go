package api

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/roster"
)

const (
	// stillIn is how often a stream looks whether its session still holds: nobody hears more for longer than that.
	stillIn = 10 * time.Second
	// beatEach is after how many such looks a stream says that it is still there.
	beatEach = 2
	// mostStreams is how many streams one person may have open in this process: one for each of their browsers.
	mostStreams = 20
)

// events streams what changed in the courses of the caller, as server-sent events (HTML
// Living Standard, 9.2). An event names what changed, never what it is now. A stream that may have
// missed something ends: whoever comes again asks for everything anew. So does one whose session has ended.
func (a *API) events(c *gin.Context) {
	ctx := c.Request.Context()
	p, _ := caller(ctx)
	leave, ok := a.streams.enter(p.ID)
	if !ok {
		refuse(c, errStreams)
		return
	}
	defer leave()
	notices, cancel := a.Notices.Subscribe()
	defer cancel()
	h := c.Writer.Header()
	h.Set("Content-Type", "text/event-stream")
	h.Set("X-Accel-Buffering", "no")
	lasting(c, time.Minute)
	c.Writer.WriteHeader(http.StatusOK)
	fmt.Fprint(c.Writer, "retry: 1000\n\n")
	c.Writer.Flush()
	look := time.NewTicker(stillIn)
	defer look.Stop()
	for beats := 1; ; {
		select {
		case <-ctx.Done():
			return
		case <-look.C:
			if !a.holds(ctx, c, p) {
				return
			}
			if beats++; beats%beatEach == 0 {
				lasting(c, time.Minute)
				if _, err := fmt.Fprint(c.Writer, ": still here\n\n"); err != nil {
					return
				}
			}
		case n := <-notices:
			if n.About == postgres.Missed {
				return
			}
			n, hears, err := a.hears(ctx, p, n)
			if err != nil {
				return
			}
			if !hears {
				continue
			}
			lasting(c, time.Minute)
			if !tell(c, n) {
				return
			}
		}
		c.Writer.Flush()
	}
}

// holds reports whether the session of a request that lasts is still one of p.
func (a *API) holds(ctx context.Context, c *gin.Context, p roster.Person) bool {
	cookie, err := c.Request.Cookie(a.sessions.Cookie.Name)
	if err != nil {
		return false
	}
	// The context of the request has the session as it was.
	fresh, cancel := context.WithTimeout(context.Background(), stillIn)
	defer cancel()
	again, err := a.session(fresh, cookie.Value)
	if err != nil {
		return ctx.Err() == nil // who cannot be asked for now is asked for again
	}
	now, ok := caller(again)
	return ok && now.ID == p.ID
}

// hears says whether p is told of a notice, and what of it: what they may not see they do not learn of.
func (a *API) hears(ctx context.Context, p roster.Person, n postgres.Notice) (postgres.Notice, bool, error) {
	of, guest := guestOf(ctx)
	switch {
	case guest:
		return n, n.Lecture == of && (n.About == "capture" || n.About == "doorway"), nil
	case n.About == "term": // concerns everyone
		return n, true, nil
	case n.About == "file": // concerns who sent it, and coordinators
		return n, ofSender(p, &n.Person) == nil, nil
	}
	v, err := a.Roster.Viewer(ctx, p.ID, n.Course)
	if err != nil || v.Coordinator || v.Part.Staff() {
		return n, err == nil, err
	}
	if v.Part == viewing.Nobody || n.About == "stored" || n.About == "cuts" { // bytes as they come concern those who teach
		return n, false, nil
	}
	return a.studentHears(ctx, p, n)
}

// studentHears is hears for a student of the course.
func (a *API) studentHears(ctx context.Context, p roster.Person, n postgres.Notice) (postgres.Notice, bool, error) {
	known := true
	var err error
	if n.Lecture != uuid.Nil {
		if known, err = a.learns(ctx, p, n.Lecture); err != nil {
			return n, false, err
		}
	}
	if n.Recording == uuid.Nil {
		return n, known, nil
	}
	door, err := a.Audience.Decide(ctx, p.ID, n.Recording)
	if err == nil && door.Watch && known {
		return n, true, nil
	}
	live, err := a.Door.Live(ctx, n.Recording)
	if err != nil {
		return n, false, err
	}
	if live.Open && !live.Alone && known {
		return n, n.About == "capture" || n.About == "doorway", nil
	}
	// Whoever could open it once learns that something changed in the course, and not what.
	was, err := a.Audience.WasLit(ctx, n.Recording)
	return postgres.Notice{About: "light", Course: n.Course}, was, err
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
