package api

import (
	"context"
	"errors"
	"mime"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"

	"latelantern/internal/capture"
	"latelantern/internal/recordings"
	"latelantern/internal/roster"
)

func (a *API) originalRoutes() {
	type daysInput struct {
		OfCourse
		Body struct {
			Days int `json:"days" doc:"0 for as long as the recording"`
		}
	}
	on(a, staff, http.MethodPut, "/api/courses/{course}/originals", "keep-originals",
		"For how long the originals of foreign files are kept",
		func(ctx context.Context, p roster.Person, in *daysInput) (*body[CoursePage], error) {
			if err := a.Capture.SetOriginalDays(ctx, in.Course, in.Body.Days); err != nil {
				return nil, err
			}
			return a.coursePage(ctx, p, in.Course)
		})
	a.plain(staff, http.MethodGet, "/api/recordings/:recording/original", a.original)
}

// original sends a file as it came to those who teach its course.
func (a *API) original(c *gin.Context) {
	ctx := c.Request.Context()
	id := recordingOf(c)
	o, err := a.Capture.Original(ctx, id)
	if err != nil {
		refuse(c, err)
		return
	}
	f, err := o.Open()
	if err != nil {
		refuse(c, capture.ErrUnknown)
		return
	}
	defer f.Close()
	// Someone's bytes are never shown as a page of ours.
	c.Header("Content-Type", "application/octet-stream")
	c.Header("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": o.FileName}))
	http.ServeContent(c.Writer, c.Request, "", o.Came, f)
}

// benchFile adds what the trim bench says of a file that was made elsewhere.
func (a *API) benchFile(ctx context.Context, b *Bench, r recordings.Recording) error {
	if b.OwnCopy = r.Encoded; r.PackBeganAt != nil && b.Stopped {
		b.LeftMs = leftOf(b.LengthMs, b.ExpectedMs, a.Clock.Now().Sub(*r.PackBeganAt))
	}
	if r.Source != string(capture.File) || r.StoppedAt == nil || r.OriginalGoneAt != nil {
		return nil
	}
	// A file that holds more than this recording is not given out with it.
	if _, err := a.Capture.Original(ctx, r.ID); errors.Is(err, capture.ErrUnknown) {
		return nil
	} else if err != nil {
		return err
	}
	b.Original = true
	if !r.Encoded || r.PackedAt == nil {
		return nil
	}
	days, err := a.Capture.OriginalDays(ctx, r.CourseID)
	if err == nil && days > 0 {
		until := r.PackedAt.Add(time.Duration(days) * 24 * time.Hour)
		b.OriginalUntil = &until
	}
	return err
}
