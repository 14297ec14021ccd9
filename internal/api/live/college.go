package live

import (
	"context"
	"net/http"
	"time"

	"latelantern/internal/api/edge"
	"latelantern/internal/roster"
)

// College is what holds for the whole college.
type College struct {
	CaptureNotice string `json:"capture_notice" doc:"what everyone who is captured is told, in the college's own words; may be empty"`
}

// Storage is how much more can be kept.
type Storage struct {
	FreeBytes int64 `json:"free_bytes"`
}

type collegeInput struct{ Body College }

// FollowerLine is a guest who followed a lecture live.
type FollowerLine struct {
	Name  string     `json:"name"`
	Stays []StayLine `json:"stays" nullable:"false" doc:"in order"`
}

// StayLine is a stretch in which somebody was there.
type StayLine struct {
	From  time.Time `json:"from"`
	Until time.Time `json:"until"`
	By    string    `json:"by" enum:"live,hall,said,answered" doc:"followed live, in the hall by its code, or heard of at a moment"`
}

func (a *API) collegeRoutes() {
	edge.On(a.Edge, edge.Inside, http.MethodGet, "/api/college", "college", "What holds for the whole college",
		func(ctx context.Context, _ roster.Person, _ *edge.Empty) (*edge.Body[College], error) {
			text, err := a.Door.Notice(ctx)
			return edge.Answer(College{text}), err
		})
	edge.On(a.Edge, edge.Coordinators, http.MethodPut, "/api/college", "set-college", "Change what holds for the whole college",
		func(ctx context.Context, _ roster.Person, in *collegeInput) (*edge.Empty, error) {
			return nil, a.Door.SetNotice(ctx, in.Body.CaptureNotice)
		})
	edge.On(a.Edge, edge.Teachers, http.MethodGet, "/api/storage", "storage", "How much more can be kept on the server",
		func(ctx context.Context, _ roster.Person, _ *edge.Empty) (*edge.Body[Storage], error) {
			free, err := a.Recordings.Blobs.Free()
			return edge.Answer(Storage{free}), err
		})
	edge.On(a.Edge, edge.Inside, http.MethodPost, "/api/lectures/{lecture}/seen-notice", "see-notice",
		"Say that one has seen that a lecture is captured",
		func(ctx context.Context, p roster.Person, in *edge.OfLecture) (*edge.Empty, error) {
			if err := a.Seen.MayEnter(ctx, p, in.Lecture); err != nil {
				return nil, err
			}
			return nil, a.Presence.See(ctx, p.ID, in.Lecture)
		})
	type presentInput struct {
		edge.OfLecture
		Body struct {
			InHall bool `json:"in_hall" doc:"one sits in its hall, so nothing has to play"`
		}
	}
	edge.On(a.Edge, edge.Inside, http.MethodPut, "/api/lectures/{lecture}/present", "present", "Say that one follows a lecture now",
		func(ctx context.Context, p roster.Person, in *presentInput) (*edge.Empty, error) {
			if err := a.Seen.MayEnter(ctx, p, in.Lecture); err != nil {
				return nil, err
			}
			return nil, a.Presence.Present(ctx, p.ID, in.Lecture, in.Body.InHall)
		})
}
