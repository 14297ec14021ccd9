package sharing

import (
	"context"
	"errors"
	"net/http"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/release"
	"latelantern/internal/roster"
)

// LightingText is recordings and courses: each of the recordings is lit for each of the courses, or darkened, or has
// another rule there.
type LightingText struct {
	Recordings []uuid.UUID `json:"recordings" format:"uuid" nullable:"false" minItems:"1" maxItems:"200"`
	Courses    []uuid.UUID `json:"courses" format:"uuid" nullable:"false" maxItems:"50"`
	Own        bool        `json:"own,omitempty" doc:"each for the course of its lecture as well"`
	Lit        *bool       `json:"lit,omitempty" doc:"false: they are darkened; absent: their light stays as it is"`
	Rule       *RuleText   `json:"rule,omitempty" doc:"which each of them has of its own there; absent: as it is"`
	AsCourse   bool        `json:"as_course,omitempty" doc:"they have none of their own any more"`
	Tell       bool        `json:"tell,omitempty" doc:"of those that are lit the students are told as soon as they can watch"`
	At         *time.Time  `json:"at,omitempty" doc:"the hour at which it is done; absent: at once"`
}

func (t LightingText) giving() viewing.Giving {
	g := viewing.Giving{Lit: t.Lit}
	switch {
	case t.Rule != nil:
		r := t.Rule.rule()
		g.Rule = &viewing.Ruling{Own: &r}
	case t.AsCourse:
		g.Rule = &viewing.Ruling{}
	}
	return g
}

// darkens tells whether nothing else is asked than to darken.
func (t LightingText) darkens() bool { return t.Lit != nil && !*t.Lit && t.Rule == nil && !t.AsCourse }

// LightCell is a recording in a course, now and as it would be.
type LightCell struct {
	Recording uuid.UUID  `json:"recording_id" format:"uuid"`
	Course    uuid.UUID  `json:"course_id" format:"uuid"`
	Code      string     `json:"code" doc:"of the course"`
	Lit       bool       `json:"lit" doc:"now"`
	Asked     bool       `json:"asked" doc:"it is one of those that are to be given"`
	Changes   bool       `json:"changes" doc:"its light or its rule there would be another"`
	Now       int        `json:"now" doc:"students of the course who can watch it now by that course"`
	Then      int        `json:"then" doc:"the same afterwards"`
	Of        int        `json:"of" doc:"students of the course"`
	Light     string     `json:"light" enum:"dark,part_lit,lit" doc:"its state afterwards"`
	Why       string     `json:"why,omitempty" doc:"what most of the others will lack"`
	Opens     *time.Time `json:"opens,omitempty" doc:"when it lacks time"`
}

// LightingPreview is what lighting or darkening would change.
type LightingPreview struct {
	Cells  []LightCell `json:"cells" nullable:"false" doc:"of all courses that have any of the recordings or are to have them"`
	Groups []string    `json:"groups" nullable:"false" doc:"that each of the courses has to which they are given"`
	Gain   []string    `json:"gain" nullable:"false" doc:"names of those who could watch more, by whichever course"`
	Lose   []string    `json:"lose" nullable:"false"`
	More   []Shift     `json:"more" nullable:"false" doc:"of those who can watch before and after, who could do what else"`
	Less   []Shift     `json:"less" nullable:"false" doc:"and who could no longer do it"`
}

// LightingStep is what was lit or darkened at once.
type LightingStep struct {
	Step uuid.UUID `json:"step" format:"uuid" doc:"by which all of it is taken back"`
}

type lightingInput struct{ Body LightingText }

type stepInput struct {
	Step uuid.UUID `path:"step" format:"uuid"`
}

func (a *API) lightingRoutes() {
	edge.On(a.Edge, edge.Teachers, http.MethodPost, "/api/lighting/preview", "preview-lighting",
		"What lighting recordings for courses would change, or darkening them",
		func(ctx context.Context, p roster.Person, in *lightingInput) (*edge.Body[LightingPreview], error) {
			pairs, theirs, err := a.mayLight(ctx, p, in.Body)
			if err != nil {
				return nil, err
			}
			var recordings, courses []uuid.UUID
			for _, x := range pairs {
				recordings, courses = append(recordings, x.Recording), append(courses, x.Course)
			}
			if len(pairs) == 0 { // how it stands now
				recordings, courses = in.Body.Recordings, make([]uuid.UUID, len(in.Body.Recordings))
			}
			var at time.Time
			if in.Body.At != nil {
				at = *in.Body.At
			}
			x, err := a.Audience.PreviewGiving(ctx, recordings, courses, in.Body.giving(), at)
			if err != nil {
				return nil, err
			}
			if !theirs { // where else it is lit is not theirs to know
				x.Cells = slices.DeleteFunc(x.Cells, func(c audience.Cell) bool {
					return !slices.Contains(in.Body.Courses, c.Course)
				})
			}
			return edge.Answer(lightingPreview(x)), nil
		})
	edge.On(a.Edge, edge.Teachers, http.MethodPost, "/api/lighting", "change-lighting",
		"Light recordings for courses in one step, or darken them",
		func(ctx context.Context, p roster.Person, in *lightingInput) (*edge.Body[LightingStep], error) {
			pairs, _, err := a.mayLight(ctx, p, in.Body)
			if err != nil {
				return nil, err
			}
			m := release.Many{Pairs: pairs, Giving: in.Body.giving()}
			if in.Body.Tell && m.Lit != nil && *m.Lit {
				if m.Tell, err = a.titles(ctx, in.Body.Recordings); err != nil {
					return nil, err
				}
			}
			if in.Body.At != nil {
				step, err := a.Releases.Plan(ctx, p.ID, m, *in.Body.At)
				return edge.Answer(LightingStep{step}), err
			}
			step, err := a.Releases.Change(ctx, p.ID, m)
			return edge.Answer(LightingStep{step}), err
		}, edge.Changes("light"))
	edge.On(a.Edge, edge.Teachers, http.MethodGet, "/api/lighting/planned", "planned-lighting",
		"Steps for an hour that is set, of courses that one teaches", a.planned)
	edge.On(a.Edge, edge.Teachers, http.MethodPost, "/api/lighting/{step}/undo", "undo-lighting",
		"Take a step back that one made; a coordinator, anyone's",
		func(ctx context.Context, p roster.Person, in *stepInput) (*edge.Empty, error) {
			return nil, a.Releases.TakeBack(ctx, in.Step, p.ID, p.Coordinator)
		}, edge.Changes("light"))
}

// titles are what recordings are called.
func (a *API) titles(ctx context.Context, recordings []uuid.UUID) (map[uuid.UUID]string, error) {
	out := map[uuid.UUID]string{}
	for _, id := range recordings {
		r, err := a.Recordings.Recording(ctx, id)
		if err != nil {
			return nil, err
		}
		if out[id] = r.Title; r.Title != "" {
			continue
		}
		lecture, err := a.Schedule.OfRecording(ctx, r.LectureID, id)
		if err != nil {
			return nil, err
		}
		term, err := a.Schedule.TermOf(ctx, r.CourseID)
		if err != nil {
			return nil, err
		}
		out[id] = lecture.SuggestedTitle(term)
	}
	return out, nil
}

// mayLight says why p may not do this, else to what it is done, and whether all the recordings are theirs. Who teaches
// the course of a recording gives it to any course that they teach too, and takes it back from any; who teaches another
// takes it back from that one, and makes its rule there. Of a recording that is not theirs people learn nothing.
func (a *API) mayLight(ctx context.Context, p roster.Person, in LightingText) (pairs []release.Pair, theirs bool,
	err error) {
	theirs = true
	asked := map[uuid.UUID]bool{} // courses, and whether they are theirs: most recordings are of one
	for _, id := range in.Recordings {
		course, err := edge.OfRecording{Recording: id}.Belongs(ctx, a.Edge)
		if err != nil {
			return nil, false, err
		}
		if in.Own {
			pairs = append(pairs, release.Pair{Recording: id, Course: course})
		}
		if _, known := asked[course]; known {
			continue
		}
		err = a.MayStaff(ctx, p, course)
		if err != nil && !errors.Is(err, edge.ErrNotStaff) {
			return nil, false, err
		}
		asked[course] = err == nil
		theirs = theirs && asked[course]
	}
	if !theirs && (in.Own || in.Lit != nil && *in.Lit) {
		return nil, false, release.ErrUnknown
	}
	pairs = release.Once(append(pairs, release.Every(in.Recordings, in.Courses)...))
	if theirs && in.darkens() {
		return pairs, true, nil
	}
	for _, course := range in.Courses {
		if err := a.MayStaff(ctx, p, course); err != nil {
			return nil, false, err
		}
	}
	if !theirs {
		return pairs, false, a.haveAll(ctx, in)
	}
	return pairs, true, nil
}

// haveAll says that recordings are unknown of which none of the courses has one.
func (a *API) haveAll(ctx context.Context, in LightingText) error {
	for _, id := range in.Recordings {
		has := false
		for _, course := range in.Courses {
			was, err := a.Releases.WasLit(ctx, course, id)
			if err != nil {
				return err
			}
			has = has || was
		}
		if !has {
			return release.ErrUnknown
		}
	}
	return nil
}

func lightingPreview(x audience.Lighting) LightingPreview {
	out := LightingPreview{Cells: []LightCell{}, Groups: append([]string{}, x.Groups...), Gain: namesOf(x.Gain),
		Lose: namesOf(x.Lose), More: shiftsOf(x.More), Less: shiftsOf(x.Less)}
	for _, c := range x.Cells {
		cell := LightCell{Recording: c.Recording, Course: c.Course, Code: c.Code, Lit: c.Lit, Asked: c.Asked,
			Changes: c.Changes, Now: c.Now, Then: c.Then, Of: c.Of,
			Light: string(page.LightOf(c.Then, c.Of)), Why: string(c.Why)}
		if !c.Opens.IsZero() {
			cell.Opens = &c.Opens
		}
		out.Cells = append(out.Cells, cell)
	}
	return out
}

var lightingProblems = edge.Problems{
	release.ErrNothing: http.StatusConflict,
}
