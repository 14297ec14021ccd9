package api

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/doorway"
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

// Register is who followed a lecture live.
type Register struct {
	Followers []FollowerLine `json:"followers" nullable:"false" doc:"in the order of their names"`
}

// FollowerLine is a student or a guest who followed a lecture live.
type FollowerLine struct {
	Name  string     `json:"name"`
	Guest bool       `json:"guest"`
	Stays []StayLine `json:"stays" nullable:"false" doc:"in order"`
}

// StayLine is a stretch in which somebody followed.
type StayLine struct {
	From  time.Time `json:"from"`
	Until time.Time `json:"until"`
}

func (a *API) collegeRoutes() {
	on(a, inside, http.MethodGet, "/api/college", "college", "What holds for the whole college",
		func(ctx context.Context, _ roster.Person, _ *empty) (*body[College], error) {
			text, err := a.Door.Notice(ctx)
			return answer(College{text}), err
		})
	on(a, coordinators, http.MethodPut, "/api/college", "set-college", "Change what holds for the whole college",
		func(ctx context.Context, _ roster.Person, in *collegeInput) (*empty, error) {
			return nil, a.Door.SetNotice(ctx, in.Body.CaptureNotice)
		})
	on(a, teachers, http.MethodGet, "/api/storage", "storage", "How much more can be kept on the server",
		func(ctx context.Context, _ roster.Person, _ *empty) (*body[Storage], error) {
			free, err := a.Recordings.Blobs.Free()
			return answer(Storage{free}), err
		})
	on(a, inside, http.MethodPost, "/api/lectures/{lecture}/seen-notice", "see-notice",
		"Say that one has seen that a lecture is captured",
		func(ctx context.Context, p roster.Person, in *OfLecture) (*empty, error) {
			if err := a.mayEnter(ctx, p, in.Lecture); err != nil {
				return nil, err
			}
			return nil, a.Presence.See(ctx, p.ID, in.Lecture)
		})
	type presentInput struct {
		OfLecture
		Body struct {
			InHall bool `json:"in_hall" doc:"one sits in its hall, so nothing has to play"`
		}
	}
	on(a, inside, http.MethodPut, "/api/lectures/{lecture}/present", "present", "Say that one follows a lecture now",
		func(ctx context.Context, p roster.Person, in *presentInput) (*empty, error) {
			if err := a.mayEnter(ctx, p, in.Lecture); err != nil {
				return nil, err
			}
			return nil, a.Presence.Present(ctx, p.ID, in.Lecture, in.Body.InHall)
		})
	on(a, staff, http.MethodGet, "/api/lectures/{lecture}/register", "register",
		"Who followed a lecture live, and from when to when",
		func(ctx context.Context, _ roster.Person, in *OfLecture) (*body[Register], error) {
			list, err := a.Presence.Register(ctx, in.Lecture)
			out := Register{Followers: []FollowerLine{}}
			for _, f := range list {
				x := FollowerLine{Name: f.Name, Guest: f.Guest}
				for _, stay := range f.Stays {
					x.Stays = append(x.Stays, StayLine{stay.FromAt, stay.UntilAt})
				}
				out.Followers = append(out.Followers, x)
			}
			return answer(out), err
		})
}

// mayEnter reports why a person cannot come into a lecture now.
func (a *API) mayEnter(ctx context.Context, p roster.Person, lecture uuid.UUID) error {
	at, err := a.Door.Stands(ctx, p.ID, lecture)
	if err == nil && at.Private && at.Reason != doorway.NotEnrolled {
		err = a.hidden(ctx, p, lecture)
	}
	if err != nil || at.Enter {
		return err
	}
	term, err := a.Schedule.TermOf(ctx, at.Course)
	if err != nil {
		return err
	}
	return liveProblem(at, term.Zone)
}

// noticeProblem keeps someone out who has not seen that the lecture is captured, and says so.
func (a *API) noticeProblem(ctx context.Context, p roster.Person, lecture, course uuid.UUID) error {
	if seen, err := a.Presence.Seen(ctx, p.ID, lecture); seen || err != nil {
		return err
	}
	if a.mayStaff(ctx, p, course) == nil {
		return nil
	}
	text, err := a.Door.Notice(ctx)
	if err != nil {
		return err
	}
	return &Problem{Type: prefix + "notice", Title: http.StatusText(http.StatusForbidden), Status: http.StatusForbidden,
		Detail: text, With: map[string]any{"lecture": lecture}}
}
