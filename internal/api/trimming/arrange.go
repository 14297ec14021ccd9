package trimming

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/library"
	"latelantern/internal/roster"
)

// Arranged is the last split or join of a recording, as long as it can be undone.
type Arranged struct {
	ID     uuid.UUID  `json:"id" format:"uuid"`
	Kind   string     `json:"kind" enum:"split,join"`
	By     string     `json:"by"`
	At     time.Time  `json:"at"`
	First  bool       `json:"first" doc:"this recording was split, or was joined to"`
	Other  *uuid.UUID `json:"other,omitempty" format:"uuid" doc:"the other recording, if there still is one"`
	Course string     `json:"course" doc:"code of the course of the other"`
	Title  string     `json:"title" doc:"of the other"`
}

// LectureAfter is a lecture to which the end of a recording may belong.
type LectureAfter struct {
	page.Choice
	Captured bool `json:"captured" doc:"something was captured of it already"`
}

// LecturesAfter is the lectures to which the end of a recording may belong.
type LecturesAfter struct {
	Lectures []LectureAfter `json:"lectures" nullable:"false"`
}

// SplitDone is a recording after its end was split off.
type SplitDone struct {
	Bench Bench     `json:"bench"`
	Rest  uuid.UUID `json:"rest" format:"uuid" doc:"the recording that holds the end now"`
}

type splitInput struct {
	edge.OfRecording
	Body struct {
		AtMs    int64      `json:"at_ms" doc:"on the clock of the recording; moved to the nearest picture that can begin one"`
		Lecture *uuid.UUID `json:"lecture,omitempty" format:"uuid" doc:"to which the end belongs; the same one when missing"`
	}
}

type joinInput struct {
	edge.OfRecording
	Body struct {
		Other uuid.UUID `json:"other" format:"uuid" doc:"the recording that is added, and is gone then"`
	}
}

type rearrangementInput struct {
	edge.OfRecording
	Rearrangement uuid.UUID `path:"rearrangement" format:"uuid"`
}

// after is how long after the end of a recording a lecture may begin whose beginning it holds.
const after = time.Hour

func (a *API) arrangeRoutes() {
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/recordings/{recording}/lectures-after", "lectures-after",
		"Lectures to which the end of a recording may belong", a.lecturesAfter)
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/recordings/{recording}/split", "split",
		"Make two recordings of one",
		func(ctx context.Context, p roster.Person, in *splitInput) (*edge.Body[SplitDone], error) {
			to := uuid.Nil
			if in.Body.Lecture != nil {
				to = *in.Body.Lecture
				course, err := edge.OfLecture{Lecture: to}.Belongs(ctx, a.Edge)
				if err == nil {
					err = a.MayStaff(ctx, p, course)
				}
				if err != nil {
					return nil, err
				}
			}
			rest, err := a.Library.Split(ctx, in.Recording, p.ID, time.Duration(in.Body.AtMs)*time.Millisecond, to)
			if err != nil {
				return nil, err
			}
			b, err := a.bench(ctx, p, in.Recording)
			return edge.Answer(SplitDone{b, rest}), err
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/recordings/{recording}/join", "join",
		"Add another recording to one",
		func(ctx context.Context, p roster.Person, in *joinInput) (*edge.Body[Bench], error) {
			course, err := edge.OfRecording{Recording: in.Body.Other}.Belongs(ctx, a.Edge)
			if err == nil {
				err = a.MayStaff(ctx, p, course)
			}
			if err == nil {
				err = a.Library.Join(ctx, in.Recording, in.Body.Other, p.ID)
			}
			if err != nil {
				return nil, err
			}
			b, err := a.bench(ctx, p, in.Recording)
			return edge.Answer(b), err
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/recordings/{recording}/rearrangements/{rearrangement}/undo",
		"undo-rearrangement", "Undo a split or a join",
		func(ctx context.Context, p roster.Person, in *rearrangementInput) (*edge.Body[SplitDone], error) {
			first, err := a.mayUndo(ctx, p, in.Recording, in.Rearrangement)
			if err == nil {
				err = a.Library.UndoArrangement(ctx, in.Recording, in.Rearrangement, p.ID)
			}
			if err != nil {
				return nil, err
			}
			b, err := a.bench(ctx, p, first)
			return edge.Answer(SplitDone{b, first}), err
		})
}

// mayUndo gives the recording that was split or joined to, if p teaches the courses of both.
func (a *API) mayUndo(ctx context.Context, p roster.Person, recording, rearrangement uuid.UUID) (uuid.UUID, error) {
	x, err := a.Library.Rearranged(ctx, recording)
	if err != nil {
		return uuid.Nil, err
	}
	if x == nil || x.ID != rearrangement {
		return uuid.Nil, library.ErrChanged
	}
	for _, id := range []uuid.UUID{x.First, x.Second} {
		course, err := a.Recordings.CourseOf(ctx, id)
		if err == nil {
			err = a.MayStaff(ctx, p, course)
		}
		if err != nil {
			return uuid.Nil, err
		}
	}
	return x.First, nil
}

func (a *API) lecturesAfter(ctx context.Context, p roster.Person,
	in *edge.OfRecording) (*edge.Body[LecturesAfter], error) {
	out := LecturesAfter{[]LectureAfter{}}
	r, err := a.Recordings.Recording(ctx, in.Recording)
	if err != nil {
		return nil, err
	}
	taught := &p.ID
	if p.Coordinator {
		taught = nil
	}
	list, err := a.Schedule.Between(ctx, r.StartedAt, r.StartedAt.Add(r.Length+after), taught)
	if err != nil {
		return nil, err
	}
	term, err := a.Schedule.TermOf(ctx, r.CourseID)
	if err != nil {
		return nil, err
	}
	here, err := a.Schedule.Lecture(ctx, r.LectureID)
	if err != nil {
		return nil, err
	}
	for _, l := range list {
		// The next class was in the same hall, or was held by the same people.
		if l.ID == r.LectureID || l.CalledOff ||
			l.CourseID != r.CourseID && (l.HallID == nil || here[0].HallID == nil || *l.HallID != *here[0].HallID) {
			continue
		}
		out.Lectures = append(out.Lectures, LectureAfter{page.ChoiceOf(term, l), l.RecordingID != nil})
	}
	return edge.Answer(out), nil
}

// arranged is the last split or join of a recording; nil when there is none that can be undone.
func (a *API) arranged(ctx context.Context, id uuid.UUID) (*Arranged, error) {
	x, err := a.Library.Rearranged(ctx, id)
	if err != nil || x == nil {
		return nil, err
	}
	out := &Arranged{ID: x.ID, Kind: x.Kind, By: x.By, At: x.MadeAt, First: x.First == id}
	other := x.First
	if out.First {
		other = x.Second
	}
	r, err := a.Recordings.Recording(ctx, other)
	if err != nil || r.Deleted {
		return out, nil // it is gone into the one
	}
	l, err := a.Schedule.OfRecording(ctx, r.LectureID, r.ID)
	if err != nil {
		return nil, err
	}
	term, err := a.Schedule.TermOf(ctx, r.CourseID)
	if err != nil {
		return nil, err
	}
	if out.Title = r.Title; out.Title == "" {
		out.Title = l.SuggestedTitle(term)
	}
	out.Other, out.Course = &r.ID, l.Code
	return out, nil
}

var arrangeProblems = edge.Problems{
	library.ErrSplit:     http.StatusConflict,
	library.ErrJoinSame:  http.StatusConflict,
	library.ErrJoinShown: http.StatusConflict,
	library.ErrChanged:   http.StatusConflict,
	library.ErrShown:     http.StatusConflict,
}
