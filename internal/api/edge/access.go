package edge

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"regexp"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/core/fault"
	"latelantern/internal/door"
	"latelantern/internal/halls"
	"latelantern/internal/roster"
)

// Access is who may call an operation. There is no default: an operation without one does not build.
type Access int

const (
	_      Access = iota
	Anyone        // also without having signed in
	// every person of the college, and guests while their link holds; what they see is up to the operation
	Inside
	SignedIn     // every person of the college; what they see is up to the operation
	Members      // who has any part in the course that the operation is about, and coordinators
	Staff        // who teaches the course that the operation is about, and coordinators
	Teachers     // who teaches some course, and coordinators; what they see is up to the operation
	Coordinators // who coordinates the college
	Recorders    // a recorder of a hall, by its token
	Senders      // a person of the college or a recorder; to which capture they may add is up to the operation
	Holders      // whoever holds the address, which says itself for whom it is and for what
)

type contextKey int

const (
	ginKey contextKey = iota
	personKey
	guestKey
	framedKey
	deviceKey
)

// identify finds out who calls, for every route. It never refuses: each route does.
func (e *Edge) identify(c *gin.Context) {
	ctx := c.Request.Context()
	tokens := e.sessionTokens(c)
	token := tokens[0]
	var err error
	ask := e.session
	if isOften(c.Request) {
		ask = e.recalled
	}
	nobody := ctx
	for n, t := range tokens {
		entered, failed := ask(nobody, t)
		_, known := Caller(entered)
		if failed == nil && (n == 0 || known) {
			ctx = entered
		}
		err = failed
		if failed != nil || known {
			break
		}
	}
	if bearer, ok := strings.CutPrefix(c.GetHeader("Authorization"), "Bearer "); ok && err == nil &&
		forRecorders(c.Request.URL.Path) {
		var d halls.Device
		if d, err = e.parts.Halls.Holder(ctx, bearer); err == nil {
			ctx = context.WithValue(ctx, deviceKey, d)
		} else if errors.Is(err, halls.ErrUnknown) {
			err = nil
		}
		token = bearer
	}
	// who cannot be asked for is not told to sign in.
	if err != nil && token != "" && needsPerson(c.Request.URL.Path) {
		e.Refuse(c, fmt.Errorf("find out who calls: %w: %w", errAway, err))
		return
	}
	ctx = context.WithValue(ctx, ginKey, c)
	c.Request = c.Request.WithContext(ctx)
	c.Next()
}

// session gives ctx the session of a token, and the person whose it is.
func (e *Edge) session(ctx context.Context, token string) (context.Context, error) {
	ctx, err := e.sessions.Load(ctx, token)
	if err != nil {
		return ctx, err
	}
	id, wrong := uuid.Parse(e.sessions.GetString(ctx, "person"))
	if wrong != nil {
		return ctx, nil
	}
	return e.enter(ctx, id)
}

// needsPerson tells the addresses that answer differently to different people.
func needsPerson(path string) bool {
	return strings.HasPrefix(path, "/api/") || isMedia(path)
}

// forRecorders tells the addresses at which the token of a recorder counts.
func forRecorders(path string) bool {
	return strings.HasPrefix(path, "/api/recorder/") || path == "/api/append" || strings.HasPrefix(path, "/api/append/")
}

// DeviceOf is the recorder that calls; ok is false for everyone else.
func DeviceOf(ctx context.Context) (d halls.Device, ok bool) {
	d, ok = ctx.Value(deviceKey).(halls.Device)
	return d, ok
}

// enter gives ctx the person of a session, unless their account was closed or all their sessions were ended since it
// began, or they are a guest whose link no longer holds.
func (e *Edge) enter(ctx context.Context, id uuid.UUID) (context.Context, error) {
	p, err := e.parts.Roster.Person(ctx, id)
	if errors.Is(err, roster.ErrUnknown) || err == nil && (p.Closed || p.SessionEra != e.sessions.GetInt(ctx, "era")) {
		return ctx, nil
	}
	if err != nil {
		return ctx, err
	}
	if beside := e.sessions.GetString(ctx, "beside"); beside != "" {
		if there, err := e.lasts(ctx, beside); err != nil || !there {
			return ctx, err
		}
		ctx = context.WithValue(ctx, framedKey, true)
	}
	if p.Guest {
		to, err := e.guest(ctx, id)
		if err != nil || to == (Guest{}) {
			return ctx, err
		}
		ctx = context.WithValue(ctx, guestKey, to)
	}
	return context.WithValue(ctx, personKey, p), nil
}

// Guest is to what a guest can come, one of these.
type Guest struct {
	Lecture   uuid.UUID // that they were invited to
	Recording uuid.UUID // that they have a link to, the last of them
	Opening   uuid.UUID // by which they have a link to a playlist
}

// guest is to what a guest can come now; the zero value for one whose links hold no more.
func (e *Edge) guest(ctx context.Context, id uuid.UUID) (Guest, error) {
	lecture, err := e.parts.Door.Holds(ctx, id)
	if err == nil || !errors.Is(err, door.ErrUnknown) {
		return Guest{Lecture: lecture}, err
	}
	recording, opening, err := e.parts.Links.Holds(ctx, id)
	return Guest{Recording: recording, Opening: opening}, err
}

// GuestOf is to what the guest who calls can come; ok is false for everyone else.
func GuestOf(ctx context.Context) (to Guest, ok bool) {
	to, ok = ctx.Value(guestKey).(Guest)
	return to, ok
}

// Caller is who calls; ok is false for someone who has not signed in.
func Caller(ctx context.Context) (p roster.Person, ok bool) {
	p, ok = ctx.Value(personKey).(roster.Person)
	return p, ok
}

// The inputs that name what an operation is about.

// OfCourse is the input of operations about a course.
type OfCourse struct {
	Course uuid.UUID `path:"course" format:"uuid"`
}

// OfLecture is the input of operations about a lecture.
type OfLecture struct {
	Lecture uuid.UUID `path:"lecture" format:"uuid"`
}

// OfRecording is the input of operations about a recording.
type OfRecording struct {
	Recording uuid.UUID `path:"recording" format:"uuid"`
}

// Subject is the recording that an operation is about.
func (in *OfRecording) Subject() uuid.UUID { return in.Recording }

// OfTrack is the input of operations about a track of a capture.
type OfTrack struct {
	Track uuid.UUID `path:"track" format:"uuid"`
}

// Belongs is the course of the lecture. Its error says that there is no such lecture; so for all that have one.
func (in OfLecture) Belongs(ctx context.Context, e *Edge) (uuid.UUID, error) {
	return e.parts.Courses.Lecture(ctx, in.Lecture)
}

// Belongs is the course of the recording.
func (in OfRecording) Belongs(ctx context.Context, e *Edge) (uuid.UUID, error) {
	return e.parts.Courses.Recording(ctx, in.Recording)
}

// Belongs is the course of the track.
func (in OfTrack) Belongs(ctx context.Context, e *Edge) (uuid.UUID, error) {
	return e.parts.Courses.Track(ctx, in.Track)
}

var (
	errSignIn       = fault.Code("sign_in")
	ErrNotStaff     = fault.Code("not_staff")
	ErrNotYours     = fault.Code("not_yours")
	errCoordinators = fault.Code("coordinators")
	errAway         = fault.Code("away")
	errTeachers     = fault.Code("teachers")
	errToken        = fault.Code("token")
	ErrElsewhere    = fault.Code("elsewhere")
	ErrNowhere      = fault.Code("unknown")
	errLarge        = fault.Code("too_large")
	errBusy         = fault.Code("busy")
	errSlow         = fault.Code("slow")
	ErrStreams      = fault.Code("streams")
)

// MayStaff reports whether p teaches the course or coordinates the college.
func (e *Edge) MayStaff(ctx context.Context, p roster.Person, course uuid.UUID) error {
	v, err := e.parts.Roster.Viewer(ctx, p.ID, course)
	if err != nil {
		return err
	}
	if !v.Coordinator && !v.Role.Staff() {
		return ErrNotStaff
	}
	return nil
}

// Empty is an input or an output of nothing.
type Empty struct{}

// Body is an output of JSON.
type Body[T any] struct {
	Body T
}

// Answer is v as an output of JSON.
func Answer[T any](v T) *Body[T] { return &Body[T]{v} }

// Refused says why p may not call an operation about a course; nil when they may. The course is asked for
// only where it decides.
func (e *Edge) Refused(
	ctx context.Context, who Access, p roster.Person, known bool, course func() (uuid.UUID, error),
) error {
	if who == Recorders {
		if _, ok := DeviceOf(ctx); !ok {
			return errToken
		}
		return nil
	}
	if _, device := DeviceOf(ctx); who == Senders && device {
		return nil
	}
	switch {
	case who == Anyone || who == Holders:
		return nil
	case !known || p.Guest && who != Inside && who != Senders || isFramed(ctx) && who != Inside:
		return errSignIn
	case who == Inside || who == Senders || who == SignedIn ||
		p.Coordinator && (who == Coordinators || who == Teachers):
		return nil
	case who == Coordinators:
		return errCoordinators
	case who == Teachers:
		parts, err := e.parts.Roster.Memberships(ctx, p.ID)
		if err == nil && !slices.ContainsFunc(parts, func(m roster.Membership) bool { return m.Role.Staff() }) {
			err = errTeachers
		}
		return err
	}
	id, err := course()
	if err != nil {
		return err
	}
	if who == Staff {
		return e.MayStaff(ctx, p, id)
	}
	v, err := e.parts.Roster.Viewer(ctx, p.ID, id)
	if err == nil && !v.Coordinator && v.Role == "" {
		err = ErrNotYours
	}
	return err
}

// On adds a typed operation. who may call it is decided at its gate, before its body is read.
func On[I, O any](
	e *Edge, who Access, method, path, id, summary string,
	do func(context.Context, roster.Person, *I) (*O, error), more ...func(*huma.Operation),
) {
	op := huma.Operation{OperationID: id, Method: method, Path: path, Summary: summary, MaxBodyBytes: smallBody,
		BodyReadTimeout: -1, // the gate sees to that
		Errors: []int{http.StatusUnauthorized, http.StatusForbidden, http.StatusNotFound, http.StatusConflict,
			http.StatusUnprocessableEntity, http.StatusTooManyRequests}}
	if who == Anyone {
		op.MaxBodyBytes = strangersBody
	}
	for _, m := range more {
		m(&op)
	}
	rights, _ := op.Metadata[rightsKey].(string)
	e.guard(method, inPath.ReplaceAllString(path, ":$1"), gate{who: who, most: op.MaxBodyBytes})
	huma.Register(e.huma, op, func(ctx context.Context, in *I) (*O, error) {
		p, _ := Caller(ctx)
		out, err := do(ctx, p, in)
		if err != nil {
			return nil, e.problem(err)
		}
		if rights != "" {
			e.noteRights(ctx, rights, id)
		}
		return out, nil
	})
}

var inPath = regexp.MustCompile(`\{([^}]*)\}`)

// UpTo lets the body of an operation have this many bytes.
func UpTo(bytes int64) func(*huma.Operation) {
	return func(op *huma.Operation) { op.MaxBodyBytes = bytes }
}

// rightsKey is under which an operation says that it changes what someone may do.
const rightsKey = "rights"

// Changes has an operation noted in the security log: what of someone's rights it changes.
func Changes(what string) func(*huma.Operation) {
	return func(op *huma.Operation) { op.Metadata = map[string]any{rightsKey: what} }
}

var accessProblems = Problems{
	errSignIn:       http.StatusUnauthorized,
	ErrNotStaff:     http.StatusForbidden,
	ErrNotYours:     http.StatusForbidden,
	errCoordinators: http.StatusForbidden,
	errTeachers:     http.StatusForbidden,
	errToken:        http.StatusUnauthorized,
	ErrElsewhere:    http.StatusForbidden,
	ErrNowhere:      http.StatusNotFound,
	errLarge:        http.StatusRequestEntityTooLarge,
	errBusy:         http.StatusTooManyRequests,
	ErrStreams:      http.StatusTooManyRequests,
	errNUL:          http.StatusUnprocessableEntity,
	errAway:         http.StatusServiceUnavailable,
}
