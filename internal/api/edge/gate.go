package edge

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
	who  Access
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
func (e *Edge) guard(method, path string, g gate) {
	if g.who < Anyone || g.who > Holders {
		panic("a route without access: " + method + " " + path)
	}
	if (g.who == Staff || g.who == Members) && scopeOf(path) == "" {
		panic("a route for people of a course that belongs to none: " + method + " " + path)
	}
	e.gates[method+" "+path] = g
}

// Plain adds a route that is no typed operation.
func (e *Edge) Plain(who Access, method, path string, do gin.HandlerFunc) {
	e.guard(method, path, gate{who: who})
	e.engine.Handle(method, path, do)
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
func (e *Edge) courseOf(ctx context.Context, c *gin.Context) (uuid.UUID, error) {
	name := scopeOf(c.FullPath())
	id, err := uuid.Parse(c.Param(name))
	if err != nil {
		return id, ErrNowhere
	}
	to := e.parts.Courses
	of := map[string]func(context.Context, uuid.UUID) (uuid.UUID, error){"course": to.Course, "lecture": to.Lecture,
		"recording": to.Recording, "track": to.Track}
	return of[name](ctx, id)
}

// RecordingOf is the recording that a route is about, whose gate has looked at it.
func RecordingOf(c *gin.Context) uuid.UUID {
	id, _ := uuid.Parse(c.Param("recording"))
	return id
}

// admission stands before every route: it decides who may come, and only then lets the body be read, which it
// counts and times.
func (e *Edge) admission(c *gin.Context) {
	if c.FullPath() == "" { // no route: a file of the front end, or nothing
		c.Next()
		return
	}
	g, ok := e.gates[c.Request.Method+" "+c.FullPath()]
	if !ok {
		slog.Error("a route has no gate", "route", c.FullPath())
		e.Refuse(c, ErrNowhere)
		return
	}
	if strings.ContainsRune(c.Request.URL.Path, 0) || strings.Contains(c.Request.URL.RawQuery, "%00") {
		e.Refuse(c, errNUL)
		return
	}
	ctx := c.Request.Context()
	p, known := Caller(ctx)
	err := e.Refused(ctx, g.who, p, known, func() (uuid.UUID, error) { return e.courseOf(ctx, c) })
	if err != nil {
		e.noteRefusal(ctx, c.FullPath(), err)
		e.Refuse(c, err)
		return
	}
	if g.most == 0 {
		c.Next()
		return
	}
	if c.Request.ContentLength > g.most {
		e.Refuse(c, errLarge)
		return
	}
	if g.most > smallBody {
		leave, ok := e.large.Enter(p.ID)
		if !ok {
			e.Refuse(c, errBusy)
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

// Streamed is the body of a request that is written away as it comes: as long as it keeps coming at a pace at which
// most bytes are there in time.
func Streamed(c *gin.Context, most int64) io.Reader {
	control := http.NewResponseController(c.Writer)
	_ = control.SetWriteDeadline(time.Now().Add(time.Duration(most/largeRate)*time.Second + time.Minute))
	return &timed{from: c.Request.Body, c: c, rate: largeRate, began: time.Now()}
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

// Lasting lets a request take as long as it takes: each of its writes has this much time. Events, media and appends
// are such; everything else has the limits of the server.
func Lasting(c *gin.Context, write time.Duration) {
	control := http.NewResponseController(c.Writer)
	_ = control.SetReadDeadline(time.Time{})
	_ = control.SetWriteDeadline(time.Now().Add(write))
}

var accessNames = map[Access]string{Anyone: "anyone", Inside: "inside", SignedIn: "signed in", Members: "members",
	Staff: "staff", Teachers: "teachers",
	Coordinators: "coordinators", Recorders: "recorders", Senders: "senders", Holders: "holders"}

// Gates says for each route who may come there.
func (e *Edge) Gates() map[string]string {
	out := map[string]string{}
	for route, g := range e.gates {
		out[route] = accessNames[g.who]
	}
	return out
}
