package planning

import (
	"context"
	"net/http"

	"latelantern/internal/api/edge"
	"latelantern/internal/roster"
)

// CourseSettingRoutes adds what a course says of all its recordings.
func (a *API) courseSettingRoutes() {
	type trimsInput struct {
		edge.OfCourse
		Body struct {
			Trims bool `json:"trims"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/courses/{course}/trim-ends", "trim-ends",
		"Whether the ends of recordings are trimmed by themselves",
		func(ctx context.Context, p roster.Person, in *trimsInput) (*edge.Body[CoursePage], error) {
			if err := a.Cuts.SetTrimsEnds(ctx, in.Course, in.Body.Trims); err != nil {
				return nil, err
			}
			return a.coursePage(ctx, p, in.Course)
		})
	type namesInput struct {
		edge.OfCourse
		Body struct {
			Seen bool `json:"seen"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/courses/{course}/names-seen", "see-names",
		"Whether those who follow a lecture see who else does",
		func(ctx context.Context, p roster.Person, in *namesInput) (*edge.Body[CoursePage], error) {
			if err := a.Door.SetNamesSeen(ctx, in.Course, in.Body.Seen); err != nil {
				return nil, err
			}
			return a.coursePage(ctx, p, in.Course)
		})
	type remindsInput struct {
		edge.OfCourse
		Body struct {
			Reminds bool `json:"reminds"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/courses/{course}/reminds", "remind-missed",
		"Whether who missed something of a lecture gets a mail when it is lit",
		func(ctx context.Context, p roster.Person, in *remindsInput) (*edge.Body[CoursePage], error) {
			if err := a.Remind.SetRemindsMissed(ctx, in.Course, in.Body.Reminds); err != nil {
				return nil, err
			}
			return a.coursePage(ctx, p, in.Course)
		})
	type daysInput struct {
		edge.OfCourse
		Body struct {
			Days int `json:"days" doc:"0 for as long as the recording"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/courses/{course}/originals", "keep-originals",
		"For how long the originals of foreign files are kept",
		func(ctx context.Context, p roster.Person, in *daysInput) (*edge.Body[CoursePage], error) {
			if err := a.Capture.SetOriginalDays(ctx, in.Course, in.Body.Days); err != nil {
				return nil, err
			}
			return a.coursePage(ctx, p, in.Course)
		})
}
