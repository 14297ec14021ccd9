package api

import (
	"context"
	"errors"
	"net/http"
	"slices"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/roster"
)

// access is who may call an operation. There is no default: an operation without one does not build.
type access int

const (
	_        access = iota
	anyone          // also without having signed in
	signedIn        // every person of the college; what they see is up to the operation
	staff           // who teaches the course that the operation is about, and coordinators
)

type contextKey int

const (
	ginKey contextKey = iota
	personKey
)

// identify finds out who calls, for every route. It never refuses: each route does.
func (a *API) identify(c *gin.Context) {
	ctx := c.Request.Context()
	token := ""
	if cookie, err := c.Request.Cookie(a.sessions.Cookie.Name); err == nil {
		token = cookie.Value
	}
	if ctx2, err := a.sessions.Load(ctx, token); err == nil {
		ctx = ctx2
		if id, err := uuid.Parse(a.sessions.GetString(ctx, "person")); err == nil {
			if p, err := a.Roster.Person(ctx, id); err == nil {
				ctx = context.WithValue(ctx, personKey, p)
			}
		}
	}
	ctx = context.WithValue(ctx, ginKey, c)
	c.Request = c.Request.WithContext(ctx)
	c.Next()
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

// scoped is an input that belongs to a course.
type scoped interface {
	course(ctx context.Context, a *API) (uuid.UUID, error)
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

func (in OfRecording) course(ctx context.Context, a *API) (uuid.UUID, error) {
	r, err := a.Library.Recording(ctx, in.Recording)
	return r.CourseID, err
}

var (
	errSignIn   = errors.New("sign in first")
	errNotStaff = errors.New("this is for those who teach the course")
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

// on adds a typed operation. Its access is checked before its handler is called.
func on[I, O any](a *API, who access, method, path, id, summary string, do func(context.Context, roster.Person, *I) (*O, error)) {
	if !slices.Contains([]access{anyone, signedIn, staff}, who) {
		panic("an operation without access: " + id)
	}
	op := huma.Operation{OperationID: id, Method: method, Path: path, Summary: summary, Errors: []int{http.StatusUnauthorized, http.StatusForbidden, http.StatusNotFound, http.StatusConflict}}
	huma.Register(a.huma, op, func(ctx context.Context, in *I) (*O, error) {
		p, ok := caller(ctx)
		if who != anyone && !ok {
			return nil, problem(errSignIn)
		}
		if who == staff {
			of, ok := any(in).(scoped)
			if !ok {
				panic("an operation for staff that belongs to no course: " + id)
			}
			course, err := of.course(ctx, a)
			if err == nil {
				err = a.mayStaff(ctx, p, course)
			}
			if err != nil {
				return nil, problem(err)
			}
		}
		out, err := do(ctx, p, in)
		if err != nil {
			return nil, problem(err)
		}
		return out, nil
	})
}
