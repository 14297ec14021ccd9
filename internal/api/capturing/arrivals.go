package capturing

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/capture"
	"latelantern/internal/core/timetable"
	"latelantern/internal/roster"
)

// Arrivals is what came, and comes, as files made elsewhere.
type Arrivals struct {
	Zone  string     `json:"zone"`
	Now   time.Time  `json:"now"`
	Files []FileLine `json:"files" nullable:"false" doc:"the latest first: all that wait for their lecture, and what came in two weeks"`
}

// FileLine is one file.
type FileLine struct {
	Track      uuid.UUID    `json:"track_id" format:"uuid"`
	FileName   string       `json:"file_name"`
	By         string       `json:"by" doc:"who sent it"`
	Mine       bool         `json:"mine"`
	Stored     int64        `json:"stored_bytes"`
	Size       int64        `json:"size_bytes" doc:"0 while it is not known"`
	BegunAt    time.Time    `json:"begun_at"`
	ArrivedAt  time.Time    `json:"arrived_at" doc:"when any byte last came"`
	MadeAt     *time.Time   `json:"made_at,omitempty" doc:"its own time"`
	LengthMs   int64        `json:"length_ms" doc:"0 when it is not known"`
	State      string       `json:"state" enum:"sending,quiet,looked_into,waits,faulty,copying,ready" doc:"quiet: it has not come whole, and nothing comes; waits: for its lecture"`
	Fault      string       `json:"fault"`
	Twice      bool         `json:"twice" doc:"the same file is here elsewhere"`
	Proposals  []Proposal   `json:"proposals" nullable:"false" doc:"lectures that it may be of, the likeliest first; none once it has one"`
	Lecture    *page.Choice `json:"lecture,omitempty" doc:"of which it is"`
	Recording  *uuid.UUID   `json:"recording_id,omitempty" format:"uuid"`
	Title      string       `json:"title"`
	PlacedBy   string       `json:"placed_by" enum:",person,itself"`
	Reading    string       `json:"reading" enum:",inside,name,inside_end,inside_wall,day,file" doc:"by which of its times it went to its lecture by itself"`
	Stays      bool         `json:"stays" doc:"students are shown it, so it stays at its lecture"`
	PackedMs   int64        `json:"packed_ms" doc:"that can be watched"`
	ExpectedMs int64        `json:"expected_ms"`
	LeftMs     *int64       `json:"left_ms,omitempty" doc:"until all of it can be watched; none while that is not known"`
}

// Proposal is a lecture that a file may be of, and why.
type Proposal struct {
	page.Choice
	By          string `json:"by" enum:"inside,name,inside_end,inside_wall,day,file" doc:"which of its times speaks for it"`
	HallNamed   bool   `json:"hall_named" doc:"its name says the hall"`
	CourseNamed bool   `json:"course_named" doc:"its name says the course"`
	Captured    bool   `json:"captured" doc:"there is a recording of it already"`
}

const (
	lately    = 14 * 24 * time.Hour // that long files are listed that have a lecture
	quiet     = 30 * time.Second    // without a byte, a file is said to have stopped coming
	proposals = 4                   // at most, of a file
)

type ofLectureInput struct {
	Track uuid.UUID `path:"track" format:"uuid"`
	Body  struct {
		Lecture uuid.UUID `json:"lecture" format:"uuid"`
	}
}

func (a *API) arrivalRoutes() {
	edge.On(a.Edge, edge.Teachers, http.MethodGet, "/api/arrivals", "arrivals",
		"Files that came from elsewhere: one's own, for coordinators all",
		func(ctx context.Context, p roster.Person, _ *edge.Empty) (*edge.Body[Arrivals], error) {
			by := p.ID
			if p.Coordinator {
				by = uuid.Nil
			}
			files, err := a.Capture.Arrivals(ctx, by, a.Clock.Now().Add(-lately))
			if err != nil {
				return nil, err
			}
			return a.arrivals(ctx, p, files)
		})
	edge.On(a.Edge, edge.Teachers, http.MethodPut, "/api/arrivals/{track}/lecture", "place-file", "Say of which lecture a file is",
		func(ctx context.Context, p roster.Person, in *ofLectureInput) (*edge.Body[Arrivals], error) {
			if err := a.mayPlace(ctx, p, in.Track); err != nil {
				return nil, err
			}
			course, err := edge.OfLecture{Lecture: in.Body.Lecture}.Belongs(ctx, a.Edge)
			if err == nil {
				err = a.MayStaff(ctx, p, course)
			}
			if err == nil {
				err = a.Capture.Place(ctx, in.Track, in.Body.Lecture)
			}
			if err != nil {
				return nil, err
			}
			return a.arrivalOf(ctx, p, in.Track)
		})
	type away struct {
		Track uuid.UUID `path:"track" format:"uuid"`
	}
	put := func(gone bool) func(context.Context, roster.Person, *away) (*edge.Empty, error) {
		return func(ctx context.Context, p roster.Person, in *away) (*edge.Empty, error) {
			if err := a.mayPlace(ctx, p, in.Track); err != nil {
				return nil, err
			}
			return nil, a.Capture.PutAway(ctx, in.Track, gone)
		}
	}
	edge.On(a.Edge, edge.Teachers, http.MethodDelete, "/api/arrivals/{track}", "put-file-away",
		"Put a file away that belongs to no lecture", put(true))
	edge.On(a.Edge, edge.Teachers, http.MethodPost, "/api/arrivals/{track}/bring-back", "bring-file-back",
		"Bring a file back that was put away", put(false))
}

// mayPlace refuses whoever does not teach the course that a file is in, whoever sent it; and of a file that is in none,
// whoever did not send it and is no coordinator.
func (a *API) mayPlace(ctx context.Context, p roster.Person, track uuid.UUID) error {
	f, err := a.Capture.Arrival(ctx, track)
	if err != nil {
		return err
	}
	if f.LectureID == nil {
		return ofSender(p, f.By)
	}
	course, err := edge.OfLecture{Lecture: *f.LectureID}.Belongs(ctx, a.Edge)
	if err != nil {
		return err
	}
	return a.MayStaff(ctx, p, course)
}

func (a *API) arrivalOf(ctx context.Context, p roster.Person, track uuid.UUID) (*edge.Body[Arrivals], error) {
	f, err := a.Capture.Arrival(ctx, track)
	if err != nil {
		return nil, err
	}
	return a.arrivals(ctx, p, []capture.Arrival{f})
}

// arrivals shows files with what is proposed for each that has no lecture.
func (a *API) arrivals(ctx context.Context, p roster.Person, files []capture.Arrival) (*edge.Body[Arrivals], error) {
	term, err := a.Schedule.CurrentTerm(ctx)
	if err != nil {
		return nil, err
	}
	out := Arrivals{Zone: term.Zone.String(), Now: a.Clock.Now(), Files: []FileLine{}}
	matches := make([][]timetable.Match, len(files))
	var ids []uuid.UUID
	for i, f := range files {
		if f.LectureID != nil {
			ids = append(ids, *f.LectureID)
			continue
		}
		of := uuid.Nil
		if f.CourseID != nil {
			of = *f.CourseID
		}
		if matches[i], err = a.Schedule.Matches(ctx, p.ID, of, f.Evidence()); err != nil {
			return nil, err
		}
		matches[i] = matches[i][:min(len(matches[i]), proposals)]
		for _, m := range matches[i] {
			id, err := uuid.Parse(m.ID)
			if err != nil {
				return nil, err
			}
			ids = append(ids, id)
		}
	}
	lectures, err := a.Schedule.LecturesNamed(ctx, ids)
	if err != nil {
		return nil, err
	}
	choices, titles := map[string]page.Choice{}, map[uuid.UUID]string{}
	for _, l := range lectures {
		choices[l.ID.String()] = page.ChoiceOf(term, l)
		if l.RecordingID != nil {
			if titles[*l.RecordingID] = l.Title; l.Title == "" {
				titles[*l.RecordingID] = l.SuggestedTitle(term)
			}
		}
	}
	for i, f := range files {
		x := a.fileLine(p, f)
		for _, m := range matches[i] {
			x.Proposals = append(x.Proposals, Proposal{choices[m.ID], string(m.By), m.Hall, m.Course, m.Captured})
		}
		if f.LectureID != nil {
			c := choices[f.LectureID.String()]
			x.Lecture = &c
		}
		if f.RecordingID != nil {
			x.Title = titles[*f.RecordingID]
		}
		out.Files = append(out.Files, x)
	}
	return edge.Answer(out), nil
}

func (a *API) fileLine(p roster.Person, f capture.Arrival) FileLine {
	now := a.Clock.Now()
	x := FileLine{Track: f.Track, FileName: f.FileName, By: f.ByName, Mine: f.By != nil && *f.By == p.ID,
		Stored: f.Stored, BegunAt: f.BegunAt, ArrivedAt: f.ArrivedAt, MadeAt: f.MadeAt,
		LengthMs: f.LengthMs, Fault: string(f.Fault), Twice: f.Twice, Proposals: []Proposal{}, Recording: f.RecordingID,
		PlacedBy: f.PlacedBy, Reading: string(f.Reading),
		Stays: f.Shown, PackedMs: f.PackedMs, ExpectedMs: f.ExpectedMs}
	if f.Size != nil {
		x.Size = *f.Size
	}
	switch {
	case f.CameAt == nil && now.Sub(f.ArrivedAt) > quiet:
		x.State = "quiet"
	case f.CameAt == nil:
		x.State = "sending"
	case f.Fault != "":
		x.State = "faulty"
	case f.LectureID == nil && !f.Sorted:
		x.State = "looked_into"
	case f.LectureID == nil:
		x.State = "waits"
	case f.State == "ready":
		x.State = "ready"
	default:
		x.State = "copying"
		if f.PackBeganAt != nil {
			x.LeftMs = page.LeftOf(f.PackedMs, f.ExpectedMs, now.Sub(*f.PackBeganAt))
		}
	}
	return x
}
