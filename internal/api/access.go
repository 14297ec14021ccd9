package api

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

// access is who may call an operation. There is no default: an operation without one does not build.
type access int

const (
	_      access = iota
	anyone        // also without having signed in
	// every person of the college, and guests while their link holds; what they see is up to the operation
	inside
	signedIn     // every person of the college; what they see is up to the operation
	members      // who has any part in the course that the operation is about, and coordinators
	staff        // who teaches the course that the operation is about, and coordinators
	teachers     // who teaches some course, and coordinators; what they see is up to the operation
	coordinators // who coordinates the college
	recorders    // a recorder of a hall, by its token
	senders      // a person of the college or a recorder; to which capture they may add is up to the operation
	holders      // whoever holds the address, which says itself for whom it is and for what
)

type contextKey int

const (
	ginKey contextKey = iota
	personKey
	guestKey
	deviceKey
)

// identify finds out who calls, for every route. It never refuses: each route does.
func (a *API) identify(c *gin.Context) {
	ctx := c.Request.Context()
	token := ""
	var err error
	if cookie, err := c.Request.Cookie(a.sessions.Cookie.Name); err == nil {
		token = cookie.Value
	}
	if entered, err2 := a.session(ctx, token); err2 == nil {
		ctx = entered
	} else {
		err = err2
	}
	if bearer, ok := strings.CutPrefix(c.GetHeader("Authorization"), "Bearer "); ok && err == nil &&
		forRecorders(c.Request.URL.Path) {
		var d halls.Device
		if d, err = a.Halls.Holder(ctx, bearer); err == nil {
			ctx = context.WithValue(ctx, deviceKey, d)
		} else if errors.Is(err, halls.ErrUnknown) {
			err = nil
		}
		token = bearer
	}
	// Who cannot be asked for is not told to sign in.
	if err != nil && token != "" && needsPerson(c.Request.URL.Path) {
		refuse(c, fmt.Errorf("find out who calls: %w: %w", errAway, err))
		return
	}
	ctx = context.WithValue(ctx, ginKey, c)
	c.Request = c.Request.WithContext(ctx)
	c.Next()
}

// session gives ctx the session of a token, and the person whose it is.
func (a *API) session(ctx context.Context, token string) (context.Context, error) {
	ctx, err := a.sessions.Load(ctx, token)
	if err != nil {
		return ctx, err
	}
	id, wrong := uuid.Parse(a.sessions.GetString(ctx, "person"))
	if wrong != nil {
		return ctx, nil
	}
	return a.enter(ctx, id)
}

// needsPerson tells the addresses that answer differently to different people.
func needsPerson(path string) bool {
	return strings.HasPrefix(path, "/api/") || strings.HasPrefix(path, "/media/")
}

// forRecorders tells the addresses at which the token of a recorder counts.
func forRecorders(path string) bool {
	return strings.HasPrefix(path, "/api/recorder/") || path == "/api/append" || strings.HasPrefix(path, "/api/append/")
}

// deviceOf is the recorder that calls; ok is false for everyone else.
func deviceOf(ctx context.Context) (d halls.Device, ok bool) {
	d, ok = ctx.Value(deviceKey).(halls.Device)
	return d, ok
}

// enter gives ctx the person of a session, unless their account was closed or all their sessions were ended since it
// began, or they are a guest whose link no longer holds.
func (a *API) enter(ctx context.Context, id uuid.UUID) (context.Context, error) {
	p, err := a.Roster.Person(ctx, id)
	if errors.Is(err, roster.ErrUnknown) || err == nil && (p.Closed || p.SessionEra != a.sessions.GetInt(ctx, "era")) {
		return ctx, nil
	}
	if err != nil {
		return ctx, err
	}
	if p.Guest {
		lecture, err := a.Door.Holds(ctx, id)
		if errors.Is(err, door.ErrUnknown) {
			return ctx, nil
		}
		if err != nil {
			return ctx, err
		}
		ctx = context.WithValue(ctx, guestKey, lecture)
	}
	return context.WithValue(ctx, personKey, p), nil
}

// guestOf is the lecture of the guest who calls; ok is false for everyone else.
func guestOf(ctx context.Context) (lecture uuid.UUID, ok bool) {
	lecture, ok = ctx.Value(guestKey).(uuid.UUID)
	return lecture, ok
}

// caller is who calls; ok is false for someone who has not signed in.
func caller(ctx context.Context) (p roster.Person, ok bool) {
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

// OfTrack is the input of operations about a track of a capture.
type OfTrack struct {
	Track uuid.UUID `path:"track" format:"uuid"`
}

func (in OfCourse) course(ctx context.Context, a *API) (uuid.UUID, error) {
	c, err := a.Schedule.Course(ctx, in.Course)
	return c.ID, err
}

func (in OfLecture) course(ctx context.Context, a *API) (uuid.UUID, error) {
	rows, err := a.Schedule.Lecture(ctx, in.Lecture)
	if err != nil {
		return uuid.Nil, err
	}
	return rows[0].CourseID, nil
}

func (in OfTrack) course(ctx context.Context, a *API) (uuid.UUID, error) {
	t, err := a.Capture.Stored(ctx, in.Track)
	return t.Course, err
}

func (in OfRecording) course(ctx context.Context, a *API) (uuid.UUID, error) {
	r, err := a.Recordings.Recording(ctx, in.Recording)
	return r.CourseID, err
}

var (
	errSignIn       = fault.Code("sign_in")
	errNotStaff     = fault.Code("not_staff")
	errNotYours     = fault.Code("not_yours")
	errCoordinators = fault.Code("coordinators")
	errAway         = fault.Code("away")
	errTeachers     = fault.Code("teachers")
	errToken        = fault.Code("token")
	errElsewhere    = fault.Code("elsewhere")
	errNowhere      = fault.Code("unknown")
	errLarge        = fault.Code("too_large")
	errBusy         = fault.Code("busy")
	errSlow         = fault.Code("slow")
	errStreams      = fault.Code("streams")
)

// mayStaff reports whether p teaches the course or coordinates the college.
func (a *API) mayStaff(ctx context.Context, p roster.Person, course uuid.UUID) error {
	v, err := a.Roster.Viewer(ctx, p.ID, course)
	if err != nil {
		return err
	}
	if !v.Coordinator && !v.Part.Staff() {
		return errNotStaff
	}
	return nil
}

// empty is an input or an output of nothing.
type empty struct{}

// body is an output of JSON.
type body[T any] struct {
	Body T
}

func answer[T any](v T) *body[T] { return &body[T]{v} }

// refused says why p may not call an operation about a course; nil when they may. The course is asked for
// only where it decides.
func (a *API) refused(
	ctx context.Context, who access, p roster.Person, known bool, course func() (uuid.UUID, error),
) error {
	if who == recorders {
		if _, ok := deviceOf(ctx); !ok {
			return errToken
		}
		return nil
	}
	if _, device := deviceOf(ctx); who == senders && device {
		return nil
	}
	switch {
	case who == anyone || who == holders:
		return nil
	case !known || p.Guest && who != inside && who != senders:
		return errSignIn
	case who == inside || who == senders || who == signedIn ||
		p.Coordinator && (who == coordinators || who == teachers):
		return nil
	case who == coordinators:
		return errCoordinators
	case who == teachers:
		parts, err := a.Roster.Memberships(ctx, p.ID)
		if err == nil && !slices.ContainsFunc(parts, func(m roster.Membership) bool { return m.Part.Staff() }) {
			err = errTeachers
		}
		return err
	}
	id, err := course()
	if err != nil {
		return err
	}
	if who == staff {
		return a.mayStaff(ctx, p, id)
	}
	v, err := a.Roster.Viewer(ctx, p.ID, id)
	if err == nil && !v.Coordinator && v.Part == "" {
		err = errNotYours
	}
	return err
}

// on adds a typed operation. Who may call it is decided at its gate, before its body is read.
func on[I, O any](
	a *API, who access, method, path, id, summary string,
	do func(context.Context, roster.Person, *I) (*O, error), more ...func(*huma.Operation),
) {
	op := huma.Operation{OperationID: id, Method: method, Path: path, Summary: summary, MaxBodyBytes: smallBody,
		BodyReadTimeout: -1, // the gate sees to that
		Errors: []int{http.StatusUnauthorized, http.StatusForbidden, http.StatusNotFound, http.StatusConflict,
			http.StatusUnprocessableEntity, http.StatusTooManyRequests}}
	if who == anyone {
		op.MaxBodyBytes = strangersBody
	}
	for _, m := range more {
		m(&op)
	}
	rights, _ := op.Metadata[rightsKey].(string)
	a.guard(method, inPath.ReplaceAllString(path, ":$1"), gate{who: who, most: op.MaxBodyBytes})
	huma.Register(a.huma, op, func(ctx context.Context, in *I) (*O, error) {
		p, _ := caller(ctx)
		out, err := do(ctx, p, in)
		if err != nil {
			return nil, problem(err)
		}
		if rights != "" {
			a.noteRights(ctx, rights, id)
		}
		return out, nil
	})
}

var inPath = regexp.MustCompile(`\{([^}]*)\}`)

// upTo lets the body of an operation have this many bytes.
func upTo(bytes int64) func(*huma.Operation) {
	return func(op *huma.Operation) { op.MaxBodyBytes = bytes }
}

// rightsKey is under which an operation says that it changes what someone may do.
const rightsKey = "rights"

// changes has an operation noted in the security log: what of someone's rights it changes.
func changes(what string) func(*huma.Operation) {
	return func(op *huma.Operation) { op.Metadata = map[string]any{rightsKey: what} }
}

var accessProblems = problems{
	errSignIn:       http.StatusUnauthorized,
	errNotStaff:     http.StatusForbidden,
	errNotYours:     http.StatusForbidden,
	errCoordinators: http.StatusForbidden,
	errTeachers:     http.StatusForbidden,
	errToken:        http.StatusUnauthorized,
	errElsewhere:    http.StatusForbidden,
	errNowhere:      http.StatusNotFound,
	errLarge:        http.StatusRequestEntityTooLarge,
	errBusy:         http.StatusTooManyRequests,
	errStreams:      http.StatusTooManyRequests,
	errNUL:          http.StatusUnprocessableEntity,
	errAway:         http.StatusServiceUnavailable,
}
