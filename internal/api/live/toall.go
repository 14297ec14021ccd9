package live

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/core/doorway"
	"latelantern/internal/format/questionfile"
	"latelantern/internal/roster"
	"latelantern/internal/toall"
)

// ToAll are the questions that were put to all in a lecture.
type ToAll struct {
	Teaches   bool                 `json:"teaches" doc:"who asks"`
	Questions []page.AskedQuestion `json:"questions" nullable:"false" doc:"in order; of those that were withdrawn others than who teaches learn nothing"`
}

// OfAsked is the input of operations about a question that was put to all.
type OfAsked struct {
	edge.OfLecture
	Asked uuid.UUID `path:"asked" format:"uuid"`
}

type toAllInput struct {
	OfAsked // which the page makes, so that it is asked once
	Body    struct {
		Question page.QuestionText `json:"question"`
		Seconds  int               `json:"seconds" minimum:"0" maximum:"86400" doc:"for how long it is open; 0 until it is closed"`
	}
}

type toAllChangeInput struct {
	OfAsked
	Body struct {
		Close     bool  `json:"close,omitempty"`
		Seconds   int   `json:"seconds,omitempty" minimum:"0" maximum:"86400" doc:"it is open for so long from now on"`
		Shown     *bool `json:"shown,omitempty" doc:"all see what was answered"`
		Withdrawn *bool `json:"withdrawn,omitempty"`
	}
}

type toAllAnswerInput struct {
	OfAsked
	Body page.AnswerBody
}

func (a *API) toAllRoutes() {
	edge.On(a.Edge, edge.Inside, http.MethodGet, "/api/lectures/{lecture}/to-all", "to-all",
		"The questions that were put to all in a lecture", a.toAll)
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/lectures/{lecture}/to-all/{asked}", "put-to-all",
		"Put a question to all; one that is open is closed by it",
		func(ctx context.Context, p roster.Person, in *toAllInput) (*edge.Empty, error) {
			return nil, a.ToAll.Ask(ctx, toall.Asking{ID: in.Asked, Lecture: in.Lecture, By: p.ID,
				Question: in.Body.Question.Question(), For: time.Duration(in.Body.Seconds) * time.Second})
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/lectures/{lecture}/to-all/{asked}/change", "change-to-all",
		"Close a question, open it for longer, show or withdraw it",
		func(ctx context.Context, _ roster.Person, in *toAllChangeInput) (*edge.Empty, error) {
			return nil, a.ToAll.Change(ctx, in.Lecture, in.Asked, toall.Change{Close: in.Body.Close,
				More: time.Duration(in.Body.Seconds) * time.Second, Shown: in.Body.Shown, Withdrawn: in.Body.Withdrawn})
		})
	edge.On(a.Edge, edge.Inside, http.MethodPut, "/api/lectures/{lecture}/to-all/{asked}/answer", "answer-to-all",
		"Answer a question to all",
		func(ctx context.Context, p roster.Person, in *toAllAnswerInput) (*edge.Empty, error) {
			at, err := a.Seen.Enters(ctx, p, in.Lecture)
			if err == nil && at.Reason == doorway.AsStaff {
				err = toall.ErrTeaches
			}
			if err != nil {
				return nil, err
			}
			return nil, a.ToAll.Answer(ctx, toall.Giving{Lecture: in.Lecture, Asked: in.Asked, Person: p.ID,
				Answer: in.Body.Answer(), Ago: time.Duration(in.Body.AgoMs) * time.Millisecond})
		})
	type hideInput struct {
		OfAsked
		Person uuid.UUID `path:"person" format:"uuid"`
		Body   struct {
			Hidden bool `json:"hidden"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/lectures/{lecture}/to-all/{asked}/answers/{person}/hidden",
		"hide-answer", "Take words that somebody answered out of what all see",
		func(ctx context.Context, _ roster.Person, in *hideInput) (*edge.Empty, error) {
			return nil, a.ToAll.Hide(ctx, in.Lecture, in.Asked, in.Person, in.Body.Hidden)
		})
}

func (a *API) toAll(ctx context.Context, p roster.Person, in *edge.OfLecture) (*edge.Body[ToAll], error) {
	at, err := a.Seen.Enters(ctx, p, in.Lecture)
	if err != nil {
		return nil, err
	}
	reader := toall.Reader{Person: p.ID, Teaches: at.Reason == doorway.AsStaff}
	all, err := a.ToAll.In(ctx, in.Lecture, reader)
	if err != nil {
		return nil, err
	}
	now := a.Clock.Now()
	out := ToAll{Teaches: reader.Teaches, Questions: []page.AskedQuestion{}}
	for i, x := range all {
		if x.Withdrawn && !out.Teaches {
			continue
		}
		q := page.AskedOf(x, p.ID, out.Teaches, false, nil, now)
		if out.Teaches && i == len(all)-1 && !x.Withdrawn {
			if q.Missing, err = a.ToAll.Missing(ctx, x); err != nil {
				return nil, err
			}
		}
		out.Questions = append(out.Questions, q)
	}
	return edge.Answer(out), nil
}

var toAllProblems = edge.Problems{
	toall.ErrUnknown: http.StatusNotFound,
	toall.ErrTaken:   http.StatusConflict,
	toall.ErrClosed:  http.StatusConflict,
	toall.ErrGiven:   http.StatusConflict,
	toall.ErrTeaches: http.StatusConflict,
	toall.ErrMany:    http.StatusConflict,

	questionfile.ErrBroken:  http.StatusUnprocessableEntity,
	questionfile.ErrEmpty:   http.StatusUnprocessableEntity,
	questionfile.ErrLong:    http.StatusUnprocessableEntity,
	questionfile.ErrOutside: http.StatusUnprocessableEntity,
}
