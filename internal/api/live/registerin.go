package live

import (
	"context"
	"net/http"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/core/fault"
	"latelantern/internal/format/registerfile"
	"latelantern/internal/presence"
	"latelantern/internal/roster"
)

// BroughtRegister is what became of the lines of a file about who was there.
type BroughtRegister struct {
	File   uuid.UUID          `json:"file" format:"uuid" doc:"by which it is taken back"`
	Kept   int                `json:"kept" doc:"stand as the file says"`
	Stood  int                `json:"stood" doc:"stood so before"`
	ByHand int                `json:"by_hand" doc:"stay as somebody set them by hand"`
	Others int                `json:"others" doc:"lines about other lectures"`
	Left   []LeftRegisterLine `json:"left" nullable:"false" doc:"lines that are not taken; of many the first"`
	Leaves int                `json:"leaves" doc:"how many are not taken"`
}

// LeftRegisterLine is a line of a file that is not taken.
type LeftRegisterLine struct {
	Line int       `json:"line" doc:"in the file, from 1"`
	Who  string    `json:"who"`
	Why  page.Said `json:"why"`
}

// mostTold is how many lines that are not taken are named.
const mostTold = 50

func (a *API) bringRoutes() {
	type bringRegisterInput struct {
		edge.OfLecture
		Body struct {
			Data []byte `json:"data" doc:"CSV, or an address or a name in each line, in base64"`
		}
	}
	const path = "/api/lectures/{lecture}/register-file"
	edge.On(a.Edge, edge.Staff, http.MethodPost, path, "bring-register", "Keep what a file says of who was there",
		func(ctx context.Context, p roster.Person, in *bringRegisterInput) (*edge.Body[BroughtRegister], error) {
			return a.bringRegister(ctx, p, in.Lecture, in.Body.Data)
		}, edge.Changes("register"))
	type broughtInput struct {
		edge.OfLecture
		File uuid.UUID `path:"file" format:"uuid"`
	}
	edge.On(a.Edge, edge.Staff, http.MethodDelete, path+"/{file}", "take-back-register",
		"Take back what a file said of who was there",
		func(ctx context.Context, _ roster.Person, in *broughtInput) (*edge.Empty, error) {
			course, err := in.Belongs(ctx, a.Edge)
			if err != nil {
				return nil, err
			}
			return nil, a.Presence.TakeBack(ctx, course, in.Lecture, in.File)
		}, edge.Changes("register"))
}

func (a *API) bringRegister(ctx context.Context, p roster.Person, lecture uuid.UUID, data []byte) (
	*edge.Body[BroughtRegister], error) {
	course, err := edge.OfLecture{Lecture: lecture}.Belongs(ctx, a.Edge)
	if err != nil {
		return nil, err
	}
	term, err := a.Schedule.TermOf(ctx, course)
	if err != nil {
		return nil, err
	}
	roll, err := a.Presence.Roll(ctx, course, lecture)
	if err != nil {
		return nil, err
	}
	said, left, others, err := registerfile.Read(data, roll.StartsAt.In(term.Zone))
	if err != nil {
		return nil, err
	}
	got, err := a.Presence.Bring(ctx, course, lecture, p.ID, said)
	if err != nil {
		return nil, err
	}
	out := BroughtRegister{File: got.File, Kept: got.Kept, Stood: got.Stood, ByHand: got.ByHand, Others: others,
		Left: []LeftRegisterLine{}, Leaves: len(left) + len(got.Left)}
	for _, x := range left {
		got.Left = append(got.Left, presence.LeftLine{Line: x.Line, Who: x.Who, Why: x.Why})
	}
	for _, x := range got.Left[:min(len(got.Left), mostTold)] {
		out.Left = append(out.Left, LeftRegisterLine{x.Line, x.Who, page.Say(fault.Say(x.Why))})
	}
	return edge.Answer(out), nil
}
