package edge

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/texts"
)

// Prefix begins the type of every problem of ours (RFC 9457); the rest is a code of the catalogue.
const Prefix = "urn:late-lantern:"

// Problem is an answer that says what went wrong (RFC 9457). Its type and its members say it in codes; detail is the
// same as a sentence in English.
type Problem struct {
	Type   string         `json:"type,omitempty" doc:"urn:late-lantern: and a code of the catalogue"`
	Title  string         `json:"title,omitempty" doc:"the status in words"`
	Status int            `json:"status,omitempty"`
	Detail string         `json:"detail,omitempty" doc:"a sentence, for programs that have no catalogue"`
	With   map[string]any `json:"with,omitempty" doc:"what stands in the sentence, by name"`
	Errors []ProblemPart  `json:"errors,omitempty" doc:"what is wrong with which part of what was sent"`
}

// ProblemPart is what is wrong with one part of what was sent.
type ProblemPart struct {
	Location string         `json:"location,omitempty" doc:"a field as the contract names it, or where in the request it stood"`
	Code     string         `json:"code,omitempty" doc:"of the catalogue"`
	With     map[string]any `json:"with,omitempty" doc:"what stands in the sentence, by name"`
	Message  string         `json:"message,omitempty" doc:"a sentence"`
}

// Error implements error, for logs.
func (p *Problem) Error() string { return p.Type }

// GetStatus implements huma.StatusError.
func (p *Problem) GetStatus() int { return p.Status }

// ContentType implements huma.ContentTypeFilter.
func (p *Problem) ContentType(string) string { return "application/problem+json" }

// ProblemOf is a problem whose sentence is in the catalogue.
func ProblemOf(status int, t fault.Text) *Problem {
	return &Problem{Type: Prefix + string(t.Code), Title: http.StatusText(status), Status: status,
		Detail: texts.English.Say(t), With: t.With}
}

// Plainly is what is said by a code that needs nothing beside it.
func Plainly(status int, code fault.Code) *Problem { return ProblemOf(status, fault.Say(code)) }

// What the library finds wrong with a request is a problem like any other. An address with a name in it that can be
// nobody's leads nowhere, like one that is unknown.
func init() {
	huma.NewError = func(status int, message string, errs ...error) huma.StatusError {
		inPath := func(err error) bool {
			var d huma.ErrorDetailer
			return errors.As(err, &d) && strings.HasPrefix(d.ErrorDetail().Location, "path.")
		}
		switch {
		case status == http.StatusUnprocessableEntity && slices.ContainsFunc(errs, inPath):
			return Plainly(http.StatusNotFound, ErrNowhere)
		case slices.ContainsFunc(errs, speaksOfNUL):
			return Plainly(http.StatusUnprocessableEntity, errNUL)
		case status == http.StatusRequestTimeout:
			return Plainly(status, errSlow)
		}
		p := Plainly(status, "input")
		p.Detail = message
		for _, err := range errs {
			var d huma.ErrorDetailer
			part := ProblemPart{}
			if errors.As(err, &d) {
				part.Location, part.Message = d.ErrorDetail().Location, d.ErrorDetail().Message
			} else if err != nil {
				part.Message = err.Error()
			}
			p.Errors = append(p.Errors, part)
		}
		return p
	}
}

// Problems says with which status an answer says each of some codes. Each stands beside the routes that say it.
type Problems map[fault.Code]int

// Join puts tables together; it panics on a code that stands in two.
func Join(tables ...Problems) Problems {
	out := Problems{}
	for _, t := range tables {
		for code := range t {
			if _, twice := out[code]; twice {
				panic("a code with two statuses: " + string(code))
			}
		}
		maps.Copy(out, t)
	}
	return out
}

// slow says that somebody does something too often, and after how long, in whole seconds, they can do it again.
type slow interface {
	error
	Text() fault.Text
	After() time.Duration
}

// problem turns an error into what a caller is told. This is the only place that does.
func (e *Edge) problem(err error) error {
	var already huma.StatusError
	if errors.As(err, &already) {
		return err
	}
	var faults fault.Faults
	if errors.As(err, &faults) {
		return faultsProblem(faults)
	}
	var slow slow
	if errors.As(err, &slow) {
		return huma.ErrorWithHeaders(ProblemOf(http.StatusTooManyRequests, slow.Text()),
			http.Header{"Retry-After": {fmt.Sprint(int(slow.After() / time.Second))}})
	}
	// The first code says with which status, the last one why.
	for _, code := range fault.Codes(err) {
		if status, ok := e.statuses[code]; ok {
			return ProblemOf(status, fault.Of(err))
		}
	}
	if unkept(err) {
		return Plainly(http.StatusUnprocessableEntity, errNUL)
	}
	if errors.Is(err, context.Canceled) { // whoever asked has gone, and reads no answer
		slog.Info("a request was given up", "error", err)
		return Plainly(http.StatusServiceUnavailable, "internal")
	}
	slog.Error("a request failed", "error", err)
	return Plainly(http.StatusInternalServerError, "internal")
}

// faultsProblem says what is wrong with which field.
func faultsProblem(faults fault.Faults) *Problem {
	p := Plainly(http.StatusUnprocessableEntity, "fields")
	p.Detail = texts.English.Error(faults)
	for _, f := range faults {
		p.Errors = append(p.Errors,
			ProblemPart{Location: f.Field, Code: string(f.Text.Code), With: f.Text.With,
				Message: texts.English.Say(f.Text)})
	}
	return p
}
