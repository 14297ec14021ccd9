package api

import (
	"context"
	"errors"
	"io"
	"log/slog"
	"net/http"
	"os"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

// gate is who may come to a route, and what they may bring. Every route has one: a route without stays shut.
type gate struct {
	who  access
	most int64 // bytes of its body; 0 for a body that the operation reads in its own way
}

// The most bytes of a body, unless an operation says otherwise.
const (
	smallBody     = 1 << 20
	strangersBody = 16 << 10 // where no one has to say who they are
)

// largeAtOnce is how many bodies over smallBody are taken at the same time, one of each person: each is held in memory,
// and more than once while it is read.
const largeAtOnce = 3

// guard puts a gate before a route. It panics on a route for the people of a course that names none.
func (a *API) guard(method, path string, g gate) {
	if g.who < anyone || g.who > holders {
		panic("a route without access: " + method + " " + path)
	}
	if (g.who == staff || g.who == members) && scopeOf(path) == "" {
		panic("a route for people of a course that belongs to none: " + method + " " + path)
	}
	a.gates[method+" "+path] = g
}

// plain adds a route that is no typed operation.
func (a *API) plain(who access, method, path string, do gin.HandlerFunc) {
	a.guard(method, path, gate{who: who})
	a.engine.Handle(method, path, do)
}

// scopeOf is the name of the parameter that says which course a route is about; "" for none.
func scopeOf(path string) string {
	for part := range strings.SplitSeq(path, "/") {
		switch part {
		case ":course", ":lecture", ":recording", ":track":
			return part[1:]
		}
	}
	return ""
}

// courseOf is the course that a request is about, by its path.
func (a *API) courseOf(ctx context.Context, c *gin.Context) (uuid.UUID, error) {
	name := scopeOf(c.FullPath())
	id, err := uuid.Parse(c.Param(name))
	if err != nil {
		return id, errNowhere
	}
	switch name {
	case "course":
		return OfCourse{id}.course(ctx, a)
	case "lecture":
		return OfLecture{id}.course(ctx, a)
	case "recording":
		return OfRecording{id}.course(ctx, a)
	}
	return OfTrack{id}.course(ctx, a)
}

// recordingOf is the recording that a route is about, whose gate has looked at it.
func recordingOf(c *gin.Context) uuid.UUID {
	id, _ := uuid.Parse(c.Param("recording"))
	return id
}

// admission stands before every route: it decides who may come, and only then lets the body be read, which it
// counts and times.
func (a *API) admission(c *gin.Context) {
	if c.FullPath() == "" { // no route: a file of the front end, or nothing
		c.Next()
		return
	}
	g, ok := a.gates[c.Request.Method+" "+c.FullPath()]
	if !ok {
		slog.Error("a route has no gate", "route", c.FullPath())
		refuse(c, errNowhere)
		return
	}
	if strings.ContainsRune(c.Request.URL.Path, 0) || strings.Contains(c.Request.URL.RawQuery, "%00") {
		refuse(c, errNUL)
		return
	}
	ctx := c.Request.Context()
	p, known := caller(ctx)
	err := a.refused(ctx, g.who, p, known, func() (uuid.UUID, error) { return a.courseOf(ctx, c) })
	if err != nil {
		a.noteRefusal(ctx, c.FullPath(), err)
		refuse(c, err)
		return
	}
	if g.most == 0 {
		c.Next()
		return
	}
	if c.Request.ContentLength > g.most {
		refuse(c, errLarge)
		return
	}
	if g.most > smallBody {
		leave, ok := a.large.enter(p.ID)
		if !ok {
			refuse(c, errBusy)
			return
		}
		defer leave()
	}
	if c.Request.ContentLength != 0 {
		rate := int64(leastRate)
		if g.most > smallBody {
			rate = largeRate
		}
		c.Request.Body = &timed{from: http.MaxBytesReader(c.Writer, c.Request.Body, g.most), c: c, rate: rate,
			began: time.Now()}
	}
	c.Next()
}

// The least that a body must bring: this many bytes a second, after a first while; more where it may be large, since
// others wait for its place.
const (
	leastRate  = 1 << 10
	largeRate  = 32 << 10
	firstWhile = 5 * time.Second
)

// timed is a body that must keep coming: whoever sends less than its rate does not hold a place for long.
type timed struct {
	from  io.ReadCloser
	c     *gin.Context
	rate  int64 // bytes a second
	began time.Time
	got   int64
}

// due is by when the next bytes must be there.
func (t *timed) due() time.Time {
	return t.began.Add(firstWhile + time.Duration(t.got/t.rate+1)*time.Second)
}

func (t *timed) Read(b []byte) (int, error) {
	// Where a connection has no deadlines, as in a test without one, the limit of the server holds.
	_ = http.NewResponseController(t.c.Writer).SetReadDeadline(t.due())
	n, err := t.from.Read(b)
	t.got += int64(n)
	if errors.Is(err, io.EOF) {
		// It is all there: what is done with it may take longer.
		_ = http.NewResponseController(t.c.Writer).SetReadDeadline(time.Time{})
	}
	if errors.Is(err, os.ErrDeadlineExceeded) {
		t.c.Header("Connection", "close")
	}
	return n, err
}

func (t *timed) Close() error { return t.from.Close() }

// lasting lets a request take as long as it takes: each of its writes has this much time. Events, media and appends
// are such; everything else has the limits of the server.
func lasting(c *gin.Context, write time.Duration) {
	control := http.NewResponseController(c.Writer)
	_ = control.SetReadDeadline(time.Time{})
	_ = control.SetWriteDeadline(time.Now().Add(write))
}

var accessNames = map[access]string{anyone: "anyone", inside: "inside", signedIn: "signed in", members: "members",
	staff: "staff", teachers: "teachers",
	coordinators: "coordinators", recorders: "recorders", senders: "senders", holders: "holders"}

// Gates says for each route who may come there.
func (a *API) Gates() map[string]string {
	out := map[string]string{}
	for route, g := range a.gates {
		out[route] = accessNames[g.who]
	}
	return out
}
