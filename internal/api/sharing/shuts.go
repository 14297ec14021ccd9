package sharing

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/audience"
	"latelantern/internal/roster"
)

// ShutList is who is shut out of what a course has.
type ShutList struct {
	People []ShutLine `json:"people" nullable:"false"`
}

// ShutLine is someone who is shut out of all of it, or of one recording.
type ShutLine struct {
	ID        uuid.UUID  `json:"id" format:"uuid"`
	Person    uuid.UUID  `json:"person_id" format:"uuid"`
	Name      string     `json:"name" doc:"of the person"`
	Recording *uuid.UUID `json:"recording_id,omitempty" format:"uuid" doc:"none for all of it"`
	Title     string     `json:"title,omitempty" doc:"of the recording"`
	Until     *time.Time `json:"until,omitempty" doc:"none for good"`
	Note      string     `json:"note,omitempty" doc:"for those who teach"`
	By        string     `json:"by" doc:"name of who did it"`
	At        time.Time  `json:"at"`
}

type shutInput struct {
	edge.OfCourse
	Body struct {
		Person    uuid.UUID  `json:"person_id" format:"uuid" doc:"a student of the course"`
		Recording uuid.UUID  `json:"recording_id,omitempty" format:"uuid" doc:"none for all that the course has"`
		Until     *time.Time `json:"until,omitempty" doc:"none for good"`
		Note      string     `json:"note,omitempty" doc:"for those who teach"`
	}
}

// ShutEffect is what shutting someone out, or taking them off a course, would change.
type ShutEffect struct {
	Fewer int `json:"fewer" doc:"recordings that they can watch now, and then no more"`
}

type shutLook struct {
	edge.OfCourse
	Person    uuid.UUID `query:"person" format:"uuid" required:"true"`
	Recording uuid.UUID `query:"recording" format:"uuid" doc:"none for all that the course has"`
}

type oneShutInput struct {
	edge.OfCourse
	Shut uuid.UUID `path:"shut" format:"uuid"`
}

type offLook struct {
	edge.OfCourse
	Person uuid.UUID `path:"person" format:"uuid"`
}

func (a *API) offRoutes() {
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/courses/{course}/people/{person}/off", "preview-off",
		"What taking someone off a course would change; of nobody of it, nothing",
		func(ctx context.Context, _ roster.Person, in *offLook) (*edge.Body[ShutEffect], error) {
			fewer, err := a.Audience.PreviewOff(ctx, in.Course, in.Person)
			return edge.Answer(ShutEffect{len(fewer)}), err
		})
}

func (a *API) shutRoutes() {
	const path = "/api/courses/{course}/shut-outs"
	list := func(ctx context.Context, course uuid.UUID, err error) (*edge.Body[ShutList], error) {
		if err != nil {
			return nil, err
		}
		shuts, err := a.Audience.Shuts(ctx, course)
		if err != nil {
			return nil, err
		}
		out := ShutList{People: []ShutLine{}}
		for _, x := range shuts {
			out.People = append(out.People, ShutLine{x.ID, x.PersonID, x.Name, x.RecordingID, x.Title, x.UntilAt,
				x.Note,
				x.By, x.MadeAt})
		}
		return edge.Answer(out), nil
	}
	edge.On(a.Edge, edge.Staff, http.MethodGet, path, "shut-outs", "Who is shut out of what a course has",
		func(ctx context.Context, _ roster.Person, in *edge.OfCourse) (*edge.Body[ShutList], error) {
			return list(ctx, in.Course, nil)
		})
	edge.On(a.Edge, edge.Staff, http.MethodGet, path+"/preview", "preview-shut-out", "What shutting a student out would change",
		func(ctx context.Context, _ roster.Person, in *shutLook) (*edge.Body[ShutEffect], error) {
			fewer, err := a.Audience.PreviewShut(ctx, audience.Scope{Course: in.Course, Recording: in.Recording},
				in.Person)
			return edge.Answer(ShutEffect{len(fewer)}), err
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, path, "shut-out", "Shut a student out, whatever a rule says",
		func(ctx context.Context, p roster.Person, in *shutInput) (*edge.Body[ShutList], error) {
			_, err := a.Audience.ShutOut(ctx, p.ID, audience.ShutForm{Person: in.Body.Person, Until: in.Body.Until,
				Scope: audience.Scope{Course: in.Course, Recording: in.Body.Recording}, Note: in.Body.Note})
			return list(ctx, in.Course, err)
		}, edge.Changes("shut_out"))
	edge.On(a.Edge, edge.Staff, http.MethodDelete, path+"/{shut}", "let-in", "Let a student in again",
		func(ctx context.Context, p roster.Person, in *oneShutInput) (*edge.Body[ShutList], error) {
			return list(ctx, in.Course, a.Audience.LetIn(ctx, in.Course, in.Shut, p.ID, false))
		}, edge.Changes("shut_out"))
	edge.On(a.Edge, edge.Staff, http.MethodPost, path+"/{shut}/bring-back", "shut-out-again",
		"Shut a student out again as before", func(ctx context.Context, p roster.Person,
			in *oneShutInput) (*edge.Body[ShutList], error) {
			return list(ctx, in.Course, a.Audience.LetIn(ctx, in.Course, in.Shut, p.ID, true))
		}, edge.Changes("shut_out"))
}
