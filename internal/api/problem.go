package api

import (
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"latelantern/internal/audience"
	"latelantern/internal/capture"
	"latelantern/internal/core/fault"
	"latelantern/internal/door"
	"latelantern/internal/format/captionfile"
	"latelantern/internal/halls"
	"latelantern/internal/library"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/publish"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
	"latelantern/internal/words"
)

// prefix begins the type of every problem of ours (RFC 9457); the rest is a key of the
// message catalogue.
const prefix = "urn:late-lantern:"

func problemOf(status int, kind, detail string) *huma.ErrorModel {
	return &huma.ErrorModel{Status: status, Type: prefix + kind, Title: http.StatusText(status), Detail: detail}
}

// An address with a name in it that can be nobody's leads nowhere, like one that is unknown.
func init() {
	plain := huma.NewError
	huma.NewError = func(status int, message string, errs ...error) huma.StatusError {
		inPath := func(err error) bool {
			var d huma.ErrorDetailer
			return errors.As(err, &d) && strings.HasPrefix(d.ErrorDetail().Location, "path.")
		}
		if status == http.StatusUnprocessableEntity && slices.ContainsFunc(errs, inPath) {
			return problemOf(http.StatusNotFound, "unknown", "There is nothing here.")
		}
		if p := nulProblem(errs); p != nil {
			return p
		}
		if status == http.StatusRequestTimeout {
			return problemOf(http.StatusRequestTimeout, "slow", errSlow.Error())
		}
		return plain(status, message, errs...)
	}
}

// problem turns an error into what a caller is told. This is the only place that does.
func problem(err error) error {
	var already huma.StatusError
	if errors.As(err, &already) {
		return err
	}
	if cut, ok := library.CutError(err); ok {
		return problemOf(http.StatusConflict, "cut", cut.Error())
	}
	if no, ok := library.ArrangeError(err); ok {
		return problemOf(http.StatusConflict, "arrange", no.Error())
	}
	var faults fault.Faults
	if errors.As(err, &faults) {
		p := problemOf(http.StatusUnprocessableEntity, "fields", faults.Error())
		for _, f := range faults {
			p.Errors = append(p.Errors, &huma.ErrorDetail{Location: f.Field, Message: f.Text})
		}
		return p
	}
	var slow roster.Slow
	if errors.As(err, &slow) {
		return huma.ErrorWithHeaders(problemOf(http.StatusTooManyRequests, "slow_sign_in", slow.Error()),
			http.Header{"Retry-After": {fmt.Sprint(int(slow.Wait/time.Second) + 1)}})
	}
	var other library.Other
	if errors.As(err, &other) {
		p := problemOf(http.StatusConflict, "other_cut", other.Error())
		p.Errors = append(p.Errors, &huma.ErrorDetail{Location: "by", Message: other.By}, &huma.ErrorDetail{Location: "at", Message: other.At.Format(time.RFC3339)})
		return p
	}
	for _, e := range []struct {
		is     error
		status int
		kind   string
	}{
		{errSignIn, http.StatusUnauthorized, "sign_in"},
		{errNowhere, http.StatusNotFound, "unknown"},
		{errLarge, http.StatusRequestEntityTooLarge, "too_large"},
		{errTakeaway, http.StatusForbidden, "takeaway"},
		{door.ErrAbsent, http.StatusConflict, "absent"},
		{errBusy, http.StatusTooManyRequests, "busy"},
		{errStreams, http.StatusTooManyRequests, "streams"},
		{errNUL, http.StatusUnprocessableEntity, "nul"},
		{roster.ErrSignIn, http.StatusUnauthorized, "wrong_password"},
		{roster.ErrClosed, http.StatusForbidden, "closed"},
		{roster.ErrParts, http.StatusForbidden, "parts"},
		{roster.ErrTooMany, http.StatusTooManyRequests, "too_many"},
		{roster.ErrKey, http.StatusGone, "key"},
		{roster.ErrNoPost, http.StatusConflict, "no_post"},
		{roster.ErrLast, http.StatusConflict, "last_coordinator"},
		{roster.ErrStale, http.StatusConflict, "stale"},
		{roster.ErrFaulty, http.StatusUnprocessableEntity, "faulty"},
		{schedule.ErrInUse, http.StatusConflict, "in_use"},
		{schedule.ErrChanged, http.StatusConflict, "changed"},
		{door.ErrNotAsked, http.StatusConflict, "not_asked"},
		{door.ErrUnknown, http.StatusNotFound, "unknown"},
		{errToken, http.StatusUnauthorized, "token"},
		{errElsewhere, http.StatusForbidden, "elsewhere"},
		{halls.ErrUnknown, http.StatusNotFound, "unknown"},
		{halls.ErrTwice, http.StatusConflict, "twice"},
		{halls.ErrPicture, http.StatusUnprocessableEntity, "picture"},
		{errNotStaff, http.StatusForbidden, "not_staff"},
		{errNotYours, http.StatusForbidden, "not_yours"},
		{errCoordinators, http.StatusForbidden, "coordinators"},
		{errTeachers, http.StatusForbidden, "teachers"},
		{schedule.ErrUnknown, http.StatusNotFound, "unknown"},
		{library.ErrNoVersion, http.StatusNotFound, "unknown"},
		{library.ErrUnknown, http.StatusNotFound, "unknown"},
		{audience.ErrUnknown, http.StatusNotFound, "unknown"},
		{publish.ErrUnknown, http.StatusNotFound, "unknown"},
		{capture.ErrUnknown, http.StatusNotFound, "unknown"},
		{capture.ErrLecture, http.StatusNotFound, "unknown"},
		{roster.ErrUnknown, http.StatusNotFound, "unknown"},
		{library.ErrInvalid, http.StatusUnprocessableEntity, "invalid"},
		{audience.ErrInvalid, http.StatusUnprocessableEntity, "invalid"},
		{publish.ErrInvalid, http.StatusUnprocessableEntity, "invalid"},
		{errAway, http.StatusServiceUnavailable, "away"},
		{blobs.ErrFull, http.StatusInsufficientStorage, "full"},
		{capture.ErrTooLarge, http.StatusRequestEntityTooLarge, "too_large"},
		{capture.ErrHere, http.StatusConflict, "here"},
		{words.ErrUnknown, http.StatusNotFound, "unknown"},
		{words.ErrNothing, http.StatusConflict, "nothing"},
		{words.ErrChanged, http.StatusConflict, "other_line"},
		{words.ErrInvalid, http.StatusUnprocessableEntity, "invalid"},
		{captionfile.ErrNot, http.StatusUnprocessableEntity, "captions"},
		{errTimeline, http.StatusUnprocessableEntity, "timeline"},
		{library.ErrShown, http.StatusConflict, "shown"},
		{capture.ErrBeside, http.StatusConflict, "beside"},
		{capture.ErrTaken, http.StatusUnprocessableEntity, "taken"},
		{capture.ErrOffset, http.StatusConflict, "offset"},
		{capture.ErrLength, http.StatusConflict, "length"},
		{capture.ErrComplete, http.StatusConflict, "complete"},
	} {
		if errors.Is(err, e.is) {
			return problemOf(e.status, e.kind, said(err, e.is))
		}
	}
	if unkept(err) {
		return problemOf(http.StatusUnprocessableEntity, "nul", errNUL.Error())
	}
	slog.Error("a request failed", "error", err)
	return problemOf(http.StatusInternalServerError, "internal", "Something went wrong here. What was kept before is still there.")
}

// said is the plain sentence of err: for an invalid value the reason that it wraps.
func said(err, is error) string {
	var many interface{ Unwrap() []error }
	if errors.As(err, &many) {
		if all := many.Unwrap(); len(all) > 1 && errors.Is(all[0], is) {
			return all[1].Error()
		}
	}
	return is.Error()
}
