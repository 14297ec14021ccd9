package listening

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/core/event"
	"latelantern/internal/platform/postgres"
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
	p, _ := edge.Caller(ctx)
	leave, ok := a.streams.Enter(p.ID)
	if !ok {
		a.Refuse(c, edge.ErrStreams)
		return
	}
	defer leave()
	events, cancel := a.Events.Subscribe() // before the courses are read: no change of a roster falls between
	defer cancel()
	listens, err := a.listener(ctx, p)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	h := c.Writer.Header()
	h.Set("Content-Type", "text/event-stream")
	h.Set("X-Accel-Buffering", "no")
	edge.Lasting(c, time.Minute)
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
			if !a.Holds(ctx, c, p) || a.readCourses(ctx, listens, a.recalls) != nil {
				return
			}
			if beats++; beats%beatEach == 0 {
				edge.Lasting(c, time.Minute)
				if _, err := fmt.Fprint(c.Writer, ": still here\n\n"); err != nil {
					return
				}
			}
		case n := <-events:
			if n.About == postgres.Missed {
				return
			}
			if n.About == event.Roster && a.readCourses(ctx, listens, a.knows) != nil {
				return
			}
			data, err := a.data(ctx, listens, n)
			if err != nil {
				return
			}
			if data == nil {
				continue
			}
			edge.Lasting(c, time.Minute)
			if _, err := fmt.Fprintf(c.Writer, "data: %s\n\n", data); err != nil {
				return
			}
		}
		c.Writer.Flush()
	}
}

// Event is one server-sent event, as the contract says it.
type Event struct {
	About     eventKind `json:"about" doc:"what changed"`
	Course    uuid.UUID `json:"course"`
	Lecture   uuid.UUID `json:"lecture" doc:"all zeros for none"`
	Recording uuid.UUID `json:"recording" doc:"all zeros for none"`
	Chat      *ChatNews `json:"chat,omitempty" doc:"what is new in a chat, for who is in that lecture"`
}

func eventOf(n postgres.Event) Event {
	return Event{About: eventKind(n.About), Course: n.Course, Lecture: n.Lecture, Recording: n.Recording}
}

type eventKind event.Kind

// Schema lists all kinds in the contract.
func (eventKind) Schema(huma.Registry) *huma.Schema {
	all := make([]any, len(event.Kinds))
	for i, k := range event.Kinds {
		all[i] = string(k)
	}
	return &huma.Schema{Type: huma.TypeString, Enum: all}
}

// data is an event as a listener is given it; nil for one of which they do not hear.
func (a *API) data(ctx context.Context, l *listener, n postgres.Event) ([]byte, error) {
	heard, hears, err := a.hears(ctx, l, n)
	if err != nil || !hears {
		return nil, err
	}
	if n.About == event.Chat {
		if data, err := a.chatData(ctx, l, n); data != nil || err != nil {
			return data, err
		}
	}
	return json.Marshal(eventOf(heard))
}
