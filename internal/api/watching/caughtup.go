package watching

import (
	"context"
	"errors"
	"maps"
	"net/http"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/audience"
	has "latelantern/internal/catchup"
	"latelantern/internal/core/catchup"
	"latelantern/internal/roster"
)

// CaughtUp is how the students of a course who can watch a recording stand with it; by nobody's name.
type CaughtUp struct {
	Recording uuid.UUID `json:"recording" format:"uuid"`
	Students  int       `json:"students" doc:"who can watch it"`
	There     int       `json:"there" doc:"who followed all of it live"`
	Told      bool      `json:"told" doc:"whether so many others are there that it is told how they stand"`
	Done      int       `json:"caught_up" doc:"of the others"`
	Begun     int       `json:"begun" doc:"of the others, and have not caught up"`
	Reminded  int       `json:"reminded" doc:"how many got a mail of what they missed"`
}

// WatchedCurve is what of a recording students watched, on its own clock, a figure for each minute or, of a short one,
// for each ten seconds.
type WatchedCurve struct {
	CaughtUp
	LengthMs int64     `json:"length_ms"`
	BinMs    int64     `json:"bin_ms" doc:"how long each figure is for"`
	People   []int     `json:"people" nullable:"false" doc:"how many watched it; of fewer than three 0"`
	Again    []float64 `json:"again" nullable:"false" doc:"how often it was watched again by who had watched it"`
}

// CaughtUpList is how the students of a course stand with its recordings.
type CaughtUpList struct {
	Recordings []CaughtUp `json:"recordings" nullable:"false" doc:"that anyone can watch"`
}

// short is up to how long a recording is told of by tens of seconds.
const short = 20 * time.Minute

func (a *API) caughtUpRoutes() {
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/courses/{course}/caught-up", "caught-up",
		"How the students of a course have caught up",
		func(ctx context.Context, _ roster.Person, in *edge.OfCourse) (*edge.Body[CaughtUpList], error) {
			_, groups, err := a.groups(ctx, in.Course, nil)
			return edge.Answer(CaughtUpList{groups}), err
		})
	type input struct {
		edge.OfCourse
		Recording uuid.UUID `path:"recording" format:"uuid"`
	}
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/courses/{course}/recordings/{recording}/caught-up",
		"recording-caught-up", "How the students of a course have caught up with a recording, and what they watched of it",
		func(ctx context.Context, _ roster.Person, in *input) (*edge.Body[WatchedCurve], error) {
			together, groups, err := a.groups(ctx, in.Course, &in.Recording)
			if err != nil {
				return nil, err
			}
			if len(groups) == 0 { // nobody can watch it, or there is no such recording here
				return nil, audience.ErrUnknown
			}
			r, err := a.Recordings.Recording(ctx, in.Recording)
			if err != nil {
				return nil, err
			}
			bin := time.Minute
			if r.Length < short {
				bin = 10 * time.Second
			}
			out := WatchedCurve{CaughtUp: groups[0], LengthMs: r.Length.Milliseconds(), BinMs: bin.Milliseconds(),
				Again: []float64{}}
			out.People = append([]int{}, together[in.Recording].Curve(bin, r.Length)...)
			again, err := a.CatchUp.Again(ctx, in.Recording, bin, r.Length)
			for i := range again {
				if out.People[i] == 0 { // it would be told of few
					again[i] = 0
				}
			}
			out.Again = append(out.Again, again...)
			return edge.Answer(out), err
		})
}

// groups are how the students of a course stand with what they can watch, or with one recording of that.
func (a *API) groups(ctx context.Context, course uuid.UUID, only *uuid.UUID) (map[uuid.UUID]*has.Together, []CaughtUp,
	error) {
	all, err := a.Audience.Viewers(ctx, course, only)
	if err != nil {
		return nil, nil, err
	}
	editions, people := map[uuid.UUID]uuid.UUID{}, map[uuid.UUID][]uuid.UUID{}
	for _, w := range all {
		editions[w.RecordingID], people[w.RecordingID] = w.EditionID, w.People
	}
	published, err := a.Publication.Carriers(ctx, editions)
	if err != nil {
		return nil, nil, err
	}
	together, err := a.CatchUp.Groups(ctx, published, people)
	out := []CaughtUp{}
	reminded, counted := a.Remind.Reminded(ctx, slices.Collect(maps.Keys(people)))
	for _, w := range all {
		if t, ok := together[w.RecordingID]; ok {
			x := CaughtUp{Recording: w.RecordingID, Students: t.Students, There: t.There,
				Told: t.Students-t.There >= catchup.Enough, Reminded: reminded[w.RecordingID]}
			if x.Told {
				x.Done, x.Begun = t.CaughtUp, t.Begun
			}
			out = append(out, x)
		}
	}
	return together, out, errors.Join(err, counted)
}
