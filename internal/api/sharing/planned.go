package sharing

import (
	"context"
	"errors"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/recordings"
	"latelantern/internal/release"
	"latelantern/internal/roster"
)

// PlannedSteps are steps for an hour that is set, the next first.
type PlannedSteps struct {
	Steps []PlannedStep `json:"steps" nullable:"false"`
}

// PlannedStep is what is done to recordings in courses at an hour.
type PlannedStep struct {
	Step       uuid.UUID   `json:"step" format:"uuid" doc:"by which it is taken back"`
	At         time.Time   `json:"at"`
	By         string      `json:"by" doc:"who asked for it"`
	Lit        *bool       `json:"lit,omitempty" doc:"lit, or darkened; absent: as it is"`
	Rule       bool        `json:"rule" doc:"another rule holds from then on"`
	Tell       bool        `json:"tell" doc:"the students are told"`
	Recordings []uuid.UUID `json:"recordings" format:"uuid" nullable:"false"`
	First      string      `json:"first" doc:"what one of them is called"`
	Courses    []string    `json:"courses" nullable:"false" doc:"their codes"`
	Mine       bool        `json:"mine" doc:"one can take it back"`
	GaveUp     string      `json:"gave_up,omitempty" doc:"why it could not be done at its hour: a code of the catalogue"`
}

// taughtNow are the courses of the term that someone teaches, by their codes; for coordinators all.
func (a *API) taughtNow(ctx context.Context, p roster.Person) (map[uuid.UUID]string, error) {
	term, err := a.Schedule.CurrentTerm(ctx)
	if err != nil {
		return nil, err
	}
	list, err := a.Schedule.Courses(ctx, term.ID, p.Teaches())
	if err != nil {
		return nil, err
	}
	out := map[uuid.UUID]string{}
	for _, c := range list {
		out[c.ID] = c.Code
	}
	return out, nil
}

func (a *API) planned(ctx context.Context, p roster.Person, _ *edge.Empty) (*edge.Body[PlannedSteps], error) {
	codes, err := a.taughtNow(ctx, p)
	if err != nil {
		return nil, err
	}
	var ids []uuid.UUID
	for id := range codes {
		ids = append(ids, id)
	}
	list, err := a.Releases.Planned(ctx, ids)
	if err != nil {
		return nil, err
	}
	out := PlannedSteps{Steps: []PlannedStep{}}
	for _, x := range list {
		step, err := a.plannedStep(ctx, p, x, codes)
		if err != nil {
			return nil, err
		}
		out.Steps = append(out.Steps, step)
	}
	return edge.Answer(out), nil
}

// plannedStep is a step as someone sees it who teaches the courses whose codes are given: of others they learn nothing.
func (a *API) plannedStep(ctx context.Context, p roster.Person, x release.Planned,
	codes map[uuid.UUID]string) (PlannedStep, error) {
	out := PlannedStep{Step: x.ID, At: x.At, By: x.By, Lit: x.Asked.Lit, Rule: x.Asked.Rule != nil,
		Tell: len(x.Asked.Tell) > 0, Recordings: x.Theirs, Courses: []string{},
		Mine: p.Coordinator || x.MadeBy != nil && *x.MadeBy == p.ID, GaveUp: x.GaveUp}
	for _, c := range x.Courses() {
		if code, theirs := codes[c]; theirs {
			out.Courses = append(out.Courses, code)
		}
	}
	slices.Sort(out.Courses)
	for _, id := range out.Recordings {
		titles, err := a.titles(ctx, []uuid.UUID{id})
		if errors.Is(err, recordings.ErrUnknown) {
			continue // it was taken away for good
		}
		if err != nil {
			return out, err
		}
		out.First = titles[id]
		break
	}
	return out, nil
}
