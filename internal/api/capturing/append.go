package capturing

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/hex"
	"log/slog"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/capture"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/fingerprint"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/roster"
)

// The resumable append is the open tus 1.0.0 protocol: core, creation, creation-defer-length
// and termination.
const tusVersion = "1.0.0"

func (a *API) appendRoutes() {
	const path = "/api/append"
	tus := func(do gin.HandlerFunc) gin.HandlerFunc {
		return func(c *gin.Context) {
			c.Header("Tus-Resumable", tusVersion)
			if c.Request.Method != http.MethodOptions && c.GetHeader("Tus-Resumable") != tusVersion {
				c.Header("Tus-Version", tusVersion)
				edge.LeaveBody(c)
				c.AbortWithStatus(http.StatusPreconditionFailed)
				return
			}
			do(c)
		}
	}
	a.Plain(edge.Anyone, http.MethodOptions, path, tus(func(c *gin.Context) {
		c.Header("Tus-Version", tusVersion)
		c.Header("Tus-Extension", "creation,creation-defer-length,termination")
		c.Header("Tus-Max-Size", strconv.FormatInt(capture.MaxLength, 10))
		c.Status(http.StatusNoContent)
	}))
	a.Plain(edge.Senders, http.MethodPost, path, tus(a.createTrack))
	a.Plain(edge.Senders, http.MethodHead, path+"/:track", tus(a.trackOffset))
	a.Plain(edge.Senders, http.MethodPatch, path+"/:track", tus(a.appendTrack))
	a.Plain(edge.Senders, http.MethodDelete, path+"/:track", tus(a.discardTrack))
}

// appendLasts is how long one append may take; what came in it is kept, and the next one goes on.
const appendLasts = 10 * time.Minute

// metadata reads Upload-Metadata: comma-separated pairs of a key and base64.
func metadata(header string) (map[string]string, bool) {
	out := map[string]string{}
	for pair := range strings.SplitSeq(header, ",") {
		key, value, _ := strings.Cut(strings.TrimSpace(pair), " ")
		b, err := base64.StdEncoding.DecodeString(value)
		if err != nil || bytes.IndexByte(b, 0) >= 0 {
			return nil, false
		}
		out[key] = string(b)
	}
	return out, true
}

func (a *API) createTrack(c *gin.Context) {
	ctx := c.Request.Context()
	bad := func(code fault.Code) { a.Refuse(c, edge.Plainly(http.StatusBadRequest, code)) }
	meta, ok := metadata(c.GetHeader("Upload-Metadata"))
	if !ok {
		bad("append.metadata")
		return
	}
	in := capture.Start{Source: capture.File, FileName: shorten(meta["filename"], 200),
		MediaType: shorten(meta["filetype"], 200), Words: shorten(meta["words"], 500), Again: meta["again"] == "yes"}
	if !naming(meta, &in) {
		bad("append.names")
		return
	}
	if err := a.begins(ctx, meta, &in); err != nil {
		a.Refuse(c, err)
		return
	}
	if !beginning(meta, &in) {
		bad("append.names")
		return
	}
	switch length := c.GetHeader("Upload-Length"); {
	case c.GetHeader("Upload-Defer-Length") == "1" && length == "":
	case length != "":
		n, err := strconv.ParseInt(length, 10, 64)
		if err != nil || n < 0 {
			bad("append.length")
			return
		}
		in.Length = &n
	default:
		bad("append.no_length")
		return
	}
	begun, err := a.Capture.Begin(ctx, in)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	c.Header("Location", "/api/append/"+begun.Track.String())
	if begun.Recording != uuid.Nil {
		c.Header("Late-Lantern-Recording", begun.Recording.String())
	}
	c.Status(http.StatusCreated)
}

// naming reads what it is said of a file: its lecture, or the course among whose lectures its own
// is looked for, and by what it is known.
func naming(meta map[string]string, in *capture.Start) bool {
	for key, id := range map[string]*uuid.UUID{"lecture": &in.Lecture, "course": &in.Course} {
		if text := meta[key]; text != "" {
			var err error
			if *id, err = uuid.Parse(text); err != nil {
				return false
			}
		}
	}
	if text := meta["modified_ms"]; text != "" {
		n, err := strconv.ParseInt(text, 10, 64)
		if err != nil {
			return false
		}
		in.Modified = time.UnixMilli(n).UTC()
		if y := in.Modified.Year(); y < 1970 || y > 9999 {
			return false
		}
	}
	var err error
	in.Print, err = hex.DecodeString(meta["print"])
	if len(in.Print) == 0 {
		in.Print = nil
	}
	return err == nil && (in.Print == nil || len(in.Print) == fingerprint.Length)
}

// begins says who begins a capture, and refuses who may not: a recorder in its hall, or a
// person at a desk or with a file.
func (a *API) begins(ctx context.Context, meta map[string]string, in *capture.Start) error {
	if d, ok := edge.DeviceOf(ctx); ok {
		in.Print, in.Course = nil, uuid.Nil
		may, err := a.Halls.May(ctx, d, in.Lecture)
		if err == nil && !may {
			err = edge.ErrElsewhere
		}
		in.Source, in.Device, in.FileName = capture.Hall, d.ID, ""
		return err
	}
	p, _ := edge.Caller(ctx)
	in.By = p.ID
	if meta["source"] == string(capture.Desk) {
		in.Source, in.Alone, in.Print = capture.Desk, meta["alone"] == "yes", nil
	}
	course := in.Course
	if in.Lecture != uuid.Nil || in.Source != capture.File {
		var err error
		if course, err = (edge.OfLecture{Lecture: in.Lecture}).Belongs(ctx, a.Edge); err != nil {
			return err
		}
	}
	if course == uuid.Nil {
		return a.Refused(ctx, edge.Teachers, p, true, nil)
	}
	return a.MayStaff(ctx, p, course)
}

// beginning reads what a live capture says of its beginning.
func beginning(meta map[string]string, in *capture.Start) bool {
	for key, id := range map[string]*uuid.UUID{"track": &in.Track, "beside": &in.Beside} {
		if text := meta[key]; text != "" {
			var err error
			if *id, err = uuid.Parse(text); err != nil {
				return false
			}
		}
	}
	for key, d := range map[string]*time.Duration{"age_ms": &in.Age, "lag_ms": &in.Lag} {
		if text := meta[key]; text != "" {
			n, err := strconv.ParseInt(text, 10, 32)
			if err != nil {
				return false
			}
			*d = time.Duration(n) * time.Millisecond
		}
	}
	return true
}

func shorten(text string, most int) string {
	r := []rune(strings.ToValidUTF8(text, ""))
	return string(r[:min(len(r), most)])
}

// held is the track that a request is about, if the caller may append to it.
func (a *API) held(c *gin.Context) (uuid.UUID, capture.Progress, bool) {
	ctx := c.Request.Context()
	id, err := uuid.Parse(c.Param("track"))
	if err != nil {
		a.Refuse(c, capture.ErrUnknown)
		return id, capture.Progress{}, false
	}
	progress, err := a.Capture.Stored(ctx, id)
	if err == nil {
		err = a.mayAppend(ctx, progress)
	}
	if err != nil {
		a.Refuse(c, err)
		return id, progress, false
	}
	return id, progress, true
}

// ofSender refuses everyone a file without a lecture, but who sent it and coordinators.
func ofSender(p roster.Person, by *uuid.UUID) error {
	if !p.Coordinator && (by == nil || *by != p.ID) {
		return edge.ErrNotStaff
	}
	return nil
}

// mayAppend refuses whoever calls unless they teach the course, sent the file without a lecture,
// or are the recorder that began.
func (a *API) mayAppend(ctx context.Context, progress capture.Progress) error {
	if d, ok := edge.DeviceOf(ctx); ok {
		if progress.Device == nil || *progress.Device != d.ID {
			return edge.ErrElsewhere
		}
		return nil
	}
	p, _ := edge.Caller(ctx)
	if progress.Course == uuid.Nil {
		return ofSender(p, progress.By)
	}
	return a.MayStaff(ctx, p, progress.Course)
}

func sayProgress(c *gin.Context, p capture.Progress) {
	c.Header("Cache-Control", "no-store")
	c.Header("Upload-Offset", strconv.FormatInt(p.Stored, 10))
	if p.Length != nil && !p.GivenUp {
		c.Header("Upload-Length", strconv.FormatInt(*p.Length, 10))
	} else {
		c.Header("Upload-Defer-Length", "1")
	}
}

func (a *API) trackOffset(c *gin.Context) {
	if _, progress, ok := a.held(c); ok {
		sayProgress(c, progress)
		c.Status(http.StatusOK)
	}
}

func (a *API) appendTrack(c *gin.Context) {
	id, _, ok := a.held(c)
	if !ok {
		return
	}
	if c.ContentType() != "application/offset+octet-stream" {
		a.Refuse(c, edge.Plainly(http.StatusUnsupportedMediaType, "append.type"))
		return
	}
	offset, err := strconv.ParseInt(c.GetHeader("Upload-Offset"), 10, 64)
	if err != nil || offset < 0 {
		a.Refuse(c, edge.Plainly(http.StatusBadRequest, "append.offset"))
		return
	}
	var length *int64
	if h := c.GetHeader("Upload-Length"); h != "" {
		n, err := strconv.ParseInt(h, 10, 64)
		if err != nil || n < 0 {
			a.Refuse(c, edge.Plainly(http.StatusBadRequest, "append.length"))
			return
		}
		length = &n
	}
	// A line that says next to nothing for minutes is lost; what came is kept.
	control := http.NewResponseController(c.Writer)
	_ = control.SetReadDeadline(time.Now().Add(appendLasts))
	_ = control.SetWriteDeadline(time.Now().Add(appendLasts + time.Minute))
	stored, err := a.Capture.Append(c.Request.Context(), id, offset, length, c.Request.Body)
	if err != nil {
		slog.Info("an append broke off", "track", id, "stored", stored, "error", err)
		a.Refuse(c, err)
		return
	}
	c.Header("Upload-Offset", strconv.FormatInt(stored, 10))
	c.Status(http.StatusNoContent)
}

func (a *API) discardTrack(c *gin.Context) {
	id, _, ok := a.held(c)
	if !ok {
		return
	}
	if err := a.Capture.Discard(c.Request.Context(), id); err != nil {
		a.Refuse(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

var appendProblems = edge.Problems{
	capture.ErrUnknown:  http.StatusNotFound,
	capture.ErrLecture:  http.StatusNotFound,
	capture.ErrTooLarge: http.StatusRequestEntityTooLarge,
	capture.ErrHere:     http.StatusConflict,
	capture.ErrBeside:   http.StatusConflict,
	capture.ErrTaken:    http.StatusUnprocessableEntity,
	capture.ErrOffset:   http.StatusConflict,
	capture.ErrLength:   http.StatusConflict,
	capture.ErrComplete: http.StatusConflict,
	blobs.ErrFull:       http.StatusInsufficientStorage,
}
