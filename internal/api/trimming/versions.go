package trimming

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/core/cutlist"
	"latelantern/internal/cuts"
	"latelantern/internal/roster"
)

// CutVersion is one version of the cuts of a recording.
type CutVersion struct {
	ID          uuid.UUID   `json:"id" format:"uuid" doc:"the zero UUID for the recording as it was captured"`
	By          string      `json:"by" doc:"empty for one that was made by itself"`
	At          time.Time   `json:"at"`
	Struck      []page.Span `json:"struck" nullable:"false"`
	PublishedMs int64       `json:"published_ms" doc:"length of what it keeps"`
	MoreMs      int64       `json:"more_ms" doc:"how much it strikes that is not struck now"`
	LessMs      int64       `json:"less_ms" doc:"how much it keeps that is struck now"`
	Current     bool        `json:"current"`
	Published   bool        `json:"published" doc:"what is published was made of it"`
	AsOf        *time.Time  `json:"as_of,omitempty" doc:"it brought back the version of then"`
}

// Versions is the versions of the cuts of a recording.
type Versions struct {
	Versions []CutVersion `json:"versions" nullable:"false" doc:"the latest first"`
}

func (a *API) versionRoutes() {
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/recordings/{recording}/versions", "versions",
		"The versions of the cuts of a recording",
		func(ctx context.Context, _ roster.Person, in *edge.OfRecording) (*edge.Body[Versions], error) {
			list, err := a.Cuts.Versions(ctx, in.Recording)
			if err != nil {
				return nil, err
			}
			out := Versions{[]CutVersion{}}
			for _, v := range list {
				out.Versions = append(out.Versions, CutVersion{
					ID: v.ID, By: v.By, At: v.MadeAt, Struck: page.Spans(v.Struck.Spans()),
					PublishedMs: v.Published.Milliseconds(),
					MoreMs:      v.More.Milliseconds(), LessMs: v.Less.Milliseconds(), Current: v.Current,
					Published: v.Lit, AsOf: v.AsOf,
				})
			}
			return edge.Answer(out), nil
		})
	type versionInput struct {
		edge.OfRecording
		Version uuid.UUID `path:"version" format:"uuid"`
		Body    struct {
			From *uuid.UUID `json:"from,omitempty" format:"uuid" doc:"the version that is seen now; when another has changed it meanwhile, it is refused"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/recordings/{recording}/versions/{version}/bring-back", "bring-version-back",
		"Make the cuts again what they were in a version",
		func(ctx context.Context, p roster.Person, in *versionInput) (*edge.Body[Bench], error) {
			if err := a.Cuts.BringBack(ctx, in.Recording, p.ID, in.Body.From, in.Version); err != nil {
				return nil, err
			}
			b, err := a.bench(ctx, p, in.Recording)
			return edge.Answer(b), err
		})
}

var cutProblems = edge.Problems{
	cuts.ErrNoVersion:      http.StatusNotFound,
	cuts.ErrOther:          http.StatusConflict,
	cuts.ErrInvalid:        http.StatusUnprocessableEntity,
	cuts.ErrNoChange:       http.StatusConflict,
	cuts.ErrLoud:           http.StatusConflict,
	cuts.ErrQuiet:          http.StatusConflict,
	cuts.ErrOnePicture:     http.StatusConflict,
	cutlist.ErrTurned:      http.StatusConflict,
	cutlist.ErrTooShort:    http.StatusConflict,
	cutlist.ErrOutside:     http.StatusConflict,
	cutlist.ErrNothingLeft: http.StatusConflict,
	cutlist.ErrNoEdge:      http.StatusConflict,
	cutlist.ErrEdge:        http.StatusConflict,
}
