package trimming

import (
	"context"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	titling "latelantern/internal/core/naming"
	"latelantern/internal/library"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// Titles are the titles of recordings as they are, and as the patterns of their courses make them.
type Titles struct {
	Zone    string        `json:"zone"`
	Courses []TitleCourse `json:"courses" nullable:"false"`
	Lines   []TitleLine   `json:"lines" nullable:"false"`
}

// TitleCourse is how the titles of a course are made.
type TitleCourse struct {
	ID      uuid.UUID `json:"id" format:"uuid"`
	Code    string    `json:"code"`
	Title   string    `json:"title"`
	Pattern string    `json:"pattern"`
}

// TitleLine is a recording with its title, and the one that is proposed.
type TitleLine struct {
	Recording uuid.UUID  `json:"recording_id" format:"uuid"`
	Course    uuid.UUID  `json:"course_id" format:"uuid"`
	Week      int        `json:"week"`
	StartsAt  *time.Time `json:"starts_at,omitempty" doc:"missing for a lesson of a whole week"`
	Title     string     `json:"title" doc:"its own; empty for none"`
	Shown     string     `json:"shown" doc:"what people see now"`
	Proposed  string     `json:"proposed"`
}

type titlesInput struct {
	Course  uuid.UUID `query:"course" format:"uuid" doc:"only of this course"`
	Pattern string    `query:"pattern" maxLength:"400" doc:"as if this were the pattern of the course"`
}

type retitleInput struct {
	Body struct {
		Titles []Retitle `json:"titles" minItems:"1" maxItems:"1000"`
	}
}

// Retitle is another title for a recording.
type Retitle struct {
	Recording uuid.UUID `json:"recording_id" format:"uuid"`
	Seen      string    `json:"seen" doc:"its own title as it was seen; empty for none"`
	Title     string    `json:"title" doc:"empty to have none of its own again"`
}

func (a *API) titleRoutes() {
	edge.On(a.Edge, edge.Teachers, http.MethodGet, "/api/titles", "titles", "Titles as they are, and as patterns make them", a.titles)
	edge.On(a.Edge, edge.Teachers, http.MethodPost, "/api/titles", "set-titles", "Give many recordings their titles: all, or none",
		a.setTitles)
	type patternInput struct {
		edge.OfCourse
		Body struct {
			Pattern string `json:"pattern" doc:"empty for as usual"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/courses/{course}/title-pattern", "set-title-pattern",
		"Say how the titles of a course are made",
		func(ctx context.Context, p roster.Person, in *patternInput) (*edge.Body[Titles], error) {
			if err := a.Schedule.SetNaming(ctx, in.Course, in.Body.Pattern); err != nil {
				return nil, err
			}
			return a.titles(ctx, p, &titlesInput{Course: in.Course})
		})
	type aboutInput struct {
		edge.OfRecording
		Body struct {
			Language string   `json:"language" doc:"BCP 47; empty for that of the course"`
			Keywords []string `json:"keywords" nullable:"false" maxItems:"200"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/recordings/{recording}/about", "set-about",
		"Say in which language a recording is, and its keywords",
		func(ctx context.Context, p roster.Person, in *aboutInput) (*edge.Body[Bench], error) {
			if err := a.Library.SetAbout(ctx, in.Recording, in.Body.Language, in.Body.Keywords); err != nil {
				return nil, err
			}
			b, err := a.bench(ctx, p, in.Recording)
			return edge.Answer(b), err
		})
}

// taught lists the courses of the term that someone teaches; for coordinators all.
func (a *API) taught(ctx context.Context, p roster.Person) ([]uuid.UUID, error) {
	term, err := a.Schedule.CurrentTerm(ctx)
	if err != nil {
		return nil, err
	}
	return a.Schedule.CourseIDs(ctx, term.ID, p.Teaches())
}

func (a *API) titles(ctx context.Context, p roster.Person, in *titlesInput) (*edge.Body[Titles], error) {
	courses, err := a.taught(ctx, p)
	if err != nil {
		return nil, err
	}
	if in.Course != uuid.Nil {
		if err := a.MayStaff(ctx, p, in.Course); err != nil {
			return nil, err
		}
		courses = []uuid.UUID{in.Course}
	}
	namings, err := a.Schedule.Namings(ctx, courses)
	if err != nil {
		return nil, err
	}
	if in.Course != uuid.Nil && in.Pattern != "" {
		namings[in.Course] = in.Pattern
	}
	patterns := map[uuid.UUID]titling.Pattern{}
	for id, text := range namings {
		if patterns[id], err = titling.Parse(text); err != nil {
			return nil, err
		}
	}
	term, err := a.Schedule.CurrentTerm(ctx)
	if err != nil {
		return nil, err
	}
	if in.Course != uuid.Nil {
		if term, err = a.Schedule.TermOf(ctx, in.Course); err != nil {
			return nil, err
		}
	}
	all, err := a.Schedule.Recorded(ctx, courses)
	if err != nil {
		return nil, err
	}
	all = slices.DeleteFunc(all, func(l schedule.Lecture) bool { return l.Failed })
	slices.SortStableFunc(all, func(x, y schedule.Lecture) int { return strings.Compare(x.Code, y.Code) })
	out := Titles{Zone: term.Zone.String(), Courses: []TitleCourse{}, Lines: []TitleLine{}}
	for _, l := range all {
		if !slices.ContainsFunc(out.Courses, func(c TitleCourse) bool { return c.ID == l.CourseID }) {
			out.Courses = append(out.Courses,
				TitleCourse{l.CourseID, l.Code, l.CourseTitle, patterns[l.CourseID].String()})
		}
		x := TitleLine{Recording: *l.RecordingID, Course: l.CourseID, Week: term.Week(l.StartsAt).Number,
			StartsAt: page.Dated(l.StartsAt, l.Ahead), Title: l.Title, Shown: l.Title,
			Proposed: patterns[l.CourseID].Title(l.Named(term))}
		if x.Shown == "" {
			x.Shown = l.SuggestedTitle(term)
		}
		out.Lines = append(out.Lines, x)
	}
	return edge.Answer(out), nil
}

func (a *API) setTitles(ctx context.Context, p roster.Person, in *retitleInput) (*edge.Body[Titles], error) {
	list := make([]library.Retitle, len(in.Body.Titles))
	for i, x := range in.Body.Titles {
		if err := a.mayChange(ctx, p, x.Recording); err != nil {
			return nil, err
		}
		list[i] = library.Retitle{Recording: x.Recording, Seen: x.Seen, Title: x.Title}
	}
	if err := a.Library.SetTitles(ctx, p.ID, list); err != nil {
		return nil, err
	}
	return a.titles(ctx, p, &titlesInput{})
}
