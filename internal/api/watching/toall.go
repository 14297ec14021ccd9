package watching

import (
	"context"
	"net/http"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/recordings"
	"latelantern/internal/roster"
	"latelantern/internal/toall"
)

// AskedIn are the questions that were put to all while a recording was captured.
type AskedIn struct {
	Questions []page.AskedQuestion `json:"questions" nullable:"false" doc:"in order of their moments, in the time of what plays"`
	Teaches   bool                 `json:"teaches" doc:"who asks"`
}

type toAllLaterInput struct {
	edge.OfRecording
	Asked uuid.UUID `path:"asked" format:"uuid"`
	Body  page.AnswerBody
}

func (a *API) toAllRoutes() {
	edge.On(a.Edge, edge.SignedIn, http.MethodGet, "/api/watch/{recording}/to-all", "asked-in",
		"The questions that were put to all while a recording was captured", a.askedIn)
	edge.On(a.Edge, edge.SignedIn, http.MethodPut, "/api/watch/{recording}/to-all/{asked}/answer", "answer-later",
		"Answer later what was put to all in a lecture", a.answerLater)
}

// asked are the questions of a recording that somebody may watch: there for those of the course of its lecture alone.
func (a *API) asked(ctx context.Context, p roster.Person, id uuid.UUID) (r recordings.Recording, teaches bool,
	list []toall.Asked, err error) {
	if r, err = a.Recordings.Recording(ctx, id); err != nil {
		return r, false, nil, err
	}
	reader, err := a.readerOf(ctx, p, r)
	if err != nil || !reader.Of {
		return r, false, nil, err
	}
	list, err = a.ToAll.Of(ctx, id, toall.Reader{Person: p.ID, Teaches: reader.Teaches})
	return r, reader.Teaches, list, err
}

func (a *API) askedIn(ctx context.Context, p roster.Person, in *chatInput) (*edge.Body[AskedIn], error) {
	shown, err := a.open(ctx, p, in.Recording)
	if err != nil {
		return nil, err
	}
	r, teaches, list, err := a.asked(ctx, p, in.Recording)
	if err != nil {
		return nil, err
	}
	_, carrier := carrierOf(r, shown, in.Uncut)
	out := AskedIn{Questions: []page.AskedQuestion{}, Teaches: teaches}
	now := a.Clock.Now()
	for _, x := range list {
		if at, ok := carrier.Moment(*x.At); ok {
			ms := at.Milliseconds()
			out.Questions = append(out.Questions, page.AskedOf(x, p.ID, teaches, true, &ms, now))
		}
	}
	return edge.Answer(out), nil
}

func (a *API) answerLater(ctx context.Context, p roster.Person, in *toAllLaterInput) (*edge.Empty, error) {
	if _, err := a.open(ctx, p, in.Recording); err != nil {
		return nil, err
	}
	r, teaches, list, err := a.asked(ctx, p, in.Recording)
	if err != nil {
		return nil, err
	}
	if !slices.ContainsFunc(list, func(x toall.Asked) bool { return x.ID == in.Asked }) {
		return nil, toall.ErrUnknown
	}
	if teaches {
		return nil, toall.ErrTeaches
	}
	return nil, a.ToAll.Answer(ctx, toall.Giving{Lecture: r.LectureID, Asked: in.Asked, Person: p.ID,
		Answer: in.Body.Answer(), Ago: time.Duration(in.Body.AgoMs) * time.Millisecond, Later: true})
}
