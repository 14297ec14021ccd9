package watching

import (
	"context"
	"errors"
	"log/slog"
	"mime"
	"net/http"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/core/chapter"
	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/fault"
	"latelantern/internal/publication"
	"latelantern/internal/recordings"
	"latelantern/internal/roster"
)

// Copy is how far the copy of a recording is that can be taken away as one file.
type Copy struct {
	State   string `json:"state" enum:",making,ready,failed" doc:"empty before anyone asked for it"`
	Percent int    `json:"percent"`
	Bytes   int64  `json:"bytes" doc:"once it is ready"`
	Address string `json:"address" doc:"of the file; empty until it is ready"`
}

func (a *API) copyRoutes() {
	const path = "/api/watch/{recording}/copy"
	edge.On(a.Edge, edge.Inside, http.MethodGet, path, "copy", "How far the copy of a recording is",
		func(ctx context.Context, p roster.Person, in *edge.OfRecording) (*edge.Body[Copy], error) {
			x, err := a.taken(ctx, p, in.Recording)
			if err != nil {
				return nil, err
			}
			state, err := a.Publication.CopyOf(ctx, x.edition)
			return edge.Answer(x.copy(state)), err
		})
	edge.On(a.Edge, edge.Inside, http.MethodPost, path, "make-copy", "Have a copy of a recording made, unless it is there",
		func(ctx context.Context, p roster.Person, in *edge.OfRecording) (*edge.Body[Copy], error) {
			x, err := a.taken(ctx, p, in.Recording)
			if err != nil {
				return nil, err
			}
			chapters, err := a.copiedChapters(ctx, in.Recording, x)
			if err != nil {
				return nil, err
			}
			state, err := a.Publication.AskCopy(ctx, x.edition, chapters)
			return edge.Answer(x.copy(state)), err
		})
}

// errTakeaway says that a recording may be watched, and not taken away.
var errTakeaway = fault.Code("takeaway")

// taken is the edition of a recording that p may take away.
func (a *API) taken(ctx context.Context, p roster.Person, recording uuid.UUID) (opened, error) {
	x, err := a.open(ctx, p, recording)
	if err == nil && (!x.takeaway || x.edition == uuid.Nil) {
		err = errTakeaway
	}
	return x, err
}

func (x opened) copy(state publication.CopyState) Copy {
	out := Copy{State: state.State, Percent: state.Percent}
	if state.State == "ready" {
		out.Bytes, out.Address = state.Bytes, edge.CopyAddress(x.media)
	}
	return out
}

// copiedChapters are the chapters that go into a copy.
func (a *API) copiedChapters(ctx context.Context, recording uuid.UUID, x opened) ([]chapter.Published, error) {
	r, err := a.Recordings.Recording(ctx, recording)
	if err != nil {
		return nil, err
	}
	return a.Words.Carried(ctx, r, cutlist.Carrier(x.Stretches))
}

// copy sends an edition as one file to those who may take it away.
func (a *API) copy(c *gin.Context) {
	ctx := c.Request.Context()
	t, decision, ok := a.decide(c)
	if !ok {
		return
	}
	if t.Use != edge.AsPublished || !decision.Download {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	f, err := a.Publication.OpenCopy(ctx, t.Edition)
	if errors.Is(err, recordings.ErrNotReady) {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	if err != nil {
		slog.Error("a copy cannot be read", "recording", t.Recording, "error", err)
		c.AbortWithStatus(http.StatusInternalServerError)
		return
	}
	defer f.Close()
	name := "lecture"
	if r, err := a.Recordings.Recording(ctx, t.Recording); err == nil && r.Title != "" {
		name = strings.NewReplacer("/", "-", "\\", "-").Replace(r.Title)
	}
	c.Header("Cache-Control", "private, no-cache")
	c.Header("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name + ".mp4"}))
	c.Header("Content-Type", "video/mp4")
	http.ServeContent(c.Writer, c.Request, "", time.Time{}, f)
}
