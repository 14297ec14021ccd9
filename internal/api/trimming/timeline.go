package trimming

import (
	"context"
	"fmt"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/span"
	"latelantern/internal/format/otio"
	"latelantern/internal/recordings"
	"latelantern/internal/roster"
)

// errTimeline says that a timeline cannot be taken over; the error it is wrapped with can be shown.
var errTimeline = fault.Code("timeline")

func (a *API) timelineRoutes() {
	a.Plain(edge.Staff, http.MethodGet, "/api/recordings/:recording/timeline.otio", a.timelineOut)
	type timelineInput struct {
		edge.OfRecording
		Body struct {
			Timeline string     `json:"timeline" maxLength:"8388608" doc:"OpenTimelineIO as JSON"`
			From     *uuid.UUID `json:"from,omitempty" format:"uuid" doc:"the version that is seen now; when another has changed it meanwhile, it is refused"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/recordings/{recording}/timeline", "take-timeline",
		"Take the cuts of a timeline over",
		func(ctx context.Context, p roster.Person, in *timelineInput) (*edge.Body[Bench], error) {
			if err := a.takeTimeline(ctx, p, in.Recording, in.Body.From, []byte(in.Body.Timeline)); err != nil {
				return nil, err
			}
			b, err := a.bench(ctx, p, in.Recording)
			return edge.Answer(b), err
		})
}

// timelineOut is the cut list of a recording as a file.
func (a *API) timelineOut(c *gin.Context) {
	ctx := c.Request.Context()
	id := edge.RecordingOf(c)
	b, title, err := a.timeline(ctx, id)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	edge.AsFile(c, title+".otio")
	c.Data(http.StatusOK, "application/json", b)
}

func (a *API) timeline(ctx context.Context, id uuid.UUID) (b []byte, title string, err error) {
	r, err := a.Recordings.Recording(ctx, id)
	if err != nil {
		return nil, "", err
	}
	if r.State != "ready" {
		return nil, "", recordings.ErrNotReady
	}
	cut := otio.Cut{Title: r.Title, Source: id.String(), Media: a.Public + "/recordings/" + id.String(),
		Length: r.Length, Kept: r.Cuts().Kept().Spans()}
	if cut.Title == "" {
		l, err := a.Schedule.OfRecording(ctx, r.LectureID, id)
		if err != nil {
			return nil, "", err
		}
		term, err := a.Schedule.TermOf(ctx, r.CourseID)
		if err != nil {
			return nil, "", err
		}
		cut.Title = l.SuggestedTitle(term)
	}
	markers, err := a.Capture.Markers(ctx, id)
	if err != nil {
		return nil, "", err
	}
	for _, m := range markers {
		cut.Markers = append(cut.Markers, otio.Marker{At: m.At, Word: m.Word})
	}
	b, err = otio.Write(cut)
	return b, cut.Title, err
}

// overEnd is how far a clip may reach over the end of its recording: programs round to pictures.
const overEnd = time.Second

// takeTimeline makes the cuts of a timeline those of a recording. Its error can be shown.
func (a *API) takeTimeline(ctx context.Context, p roster.Person, id uuid.UUID, from *uuid.UUID, b []byte) error {
	cut, err := otio.Read(b)
	if err != nil {
		return fmt.Errorf("%w: %w", errTimeline, err)
	}
	r, err := a.Recordings.Recording(ctx, id)
	if err != nil {
		return err
	}
	no := func(code fault.Code) error { return fmt.Errorf("%w: %w", errTimeline, code) }
	last := cut.Kept[len(cut.Kept)-1].End
	switch {
	case cut.Source != "" && cut.Source != id.String():
		return no("timeline.other")
	case cut.Source == "" && cut.Length > 0 && (cut.Length-r.Length).Abs() > overEnd:
		return no("timeline.other_length")
	case last > r.Length+overEnd:
		return no("timeline.beyond")
	}
	return a.Cuts.Keep(ctx, id, p.ID, from, span.Of(cut.Kept...))
}

var timelineProblems = edge.Problems{
	errTimeline: http.StatusUnprocessableEntity,
}
