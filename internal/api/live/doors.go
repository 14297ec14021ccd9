package live

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/core/doorway"
	"latelantern/internal/door"
	"latelantern/internal/presence"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// Standing is how someone stands at the door of a lecture.
type Standing struct {
	Enter  bool   `json:"enter"`
	Reason string `json:"reason" enum:"staff,enrolled,guest,let_in,ask,asked,closed,not_yet,called_off,sent_out,over,not_enrolled"`
	Word   string `json:"word,omitempty" doc:"what somebody said to who was sent away or out"`
}

// LecturePage is the page of a lecture, for everyone who can come to it.
type LecturePage struct {
	Lecture  page.LectureDate  `json:"lecture"`
	Zone     string            `json:"zone"`
	Now      time.Time         `json:"now"`
	Staff    bool              `json:"staff"`
	Standing Standing          `json:"standing"`
	Live     *uuid.UUID        `json:"live,omitempty" format:"uuid" doc:"the recording to follow, when who asks can come in and the lecture is captured"`
	Today    *page.LectureDate `json:"today,omitempty" doc:"the lecture of this course that is on today, when it is another one"`
	Settings *LectureSetting   `json:"settings,omitempty" doc:"only for those who teach it"`
}

// LectureSetting is what those who teach a lecture can change of it.
type LectureSetting struct {
	page.ChoicesText
	HallID *uuid.UUID `json:"hall_id,omitempty" format:"uuid"`
	Later  int        `json:"later" doc:"later lectures of its plan"`
}

// GuestLine is an outsider with a link.
type GuestLine struct {
	ID      uuid.UUID `json:"id" format:"uuid"`
	Name    string    `json:"name"`
	EndsAt  time.Time `json:"ends_at"`
	Link    string    `json:"link"`
	Expired bool      `json:"expired"`
}

// AskingLine is someone who waits at the door, was let in, or was sent out.
type AskingLine struct {
	Person  uuid.UUID `json:"person" format:"uuid"`
	Name    string    `json:"name"`
	AskedAt time.Time `json:"asked_at"`
	State   string    `json:"state" enum:"waits,let_in,sent_out"`
}

// InsideLine is someone who follows a lecture now.
type InsideLine struct {
	Person uuid.UUID `json:"person" format:"uuid"`
	Name   string    `json:"name"`
	Guest  bool      `json:"guest"`
}

// AtDoor is who is at the door of a lecture.
type AtDoor struct {
	Guests []GuestLine  `json:"guests" nullable:"false"`
	Asking []AskingLine `json:"asking" nullable:"false" doc:"in order of asking"`
	Inside []InsideLine `json:"inside" nullable:"false" doc:"who follows it now, by name, but for those who teach it"`
	Open   bool         `json:"open" doc:"where people ask: whoever comes is let in for now"`
	Ending *EndingText  `json:"ending,omitempty" doc:"of the class, for everyone, when that is due or has come"`
}

// EndingText is the end of a class for everyone.
type EndingText struct {
	DueAt time.Time `json:"due_at"`
	By    string    `json:"by" doc:"name of who ended it; empty when they are gone"`
	Over  bool      `json:"over" doc:"it has come"`
}

type guestText struct {
	Name   string `json:"name"`
	EndsAt string `json:"ends_at" doc:"a moment with its zone"`
}

func (a *API) doorRoutes() {
	edge.On(a.Edge, edge.Inside, http.MethodGet, "/api/lectures/{lecture}/page", "lecture-page",
		"The page of a lecture",
		a.lecturePage)
	edge.On(a.Edge, edge.Inside, http.MethodPost, "/api/lectures/{lecture}/ask", "ask", "Ask to be let in",
		func(ctx context.Context, p roster.Person, in *edge.OfLecture) (*edge.Body[LecturePage], error) {
			if err := a.Seen.Comes(ctx, p, in.Lecture); err != nil {
				return nil, err
			}
			if err := a.Door.Ask(ctx, p.ID, in.Lecture); err != nil {
				return nil, err
			}
			return a.lecturePage(ctx, p, in)
		})
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/lectures/{lecture}/doorway", "doorway",
		"Guests, and who asks to be let in",
		func(ctx context.Context, _ roster.Person, in *edge.OfLecture) (*edge.Body[AtDoor], error) {
			return a.doorwayAfter(ctx, in.Lecture, nil)
		})
	a.answerRoutes()
	a.openRoutes()
	a.guestRoutes()
}

// answerRoutes adds what is answered to those who ask.
func (a *API) answerRoutes() {
	type answerInput struct {
		edge.OfLecture
		Person uuid.UUID `path:"person" format:"uuid"`
		Body   struct {
			LetIn bool   `json:"let_in"`
			Word  string `json:"word,omitempty" maxLength:"2000" doc:"to who is sent away or out"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/lectures/{lecture}/asking/{person}", "answer-asking",
		"Let someone in, or not",
		func(ctx context.Context, p roster.Person, in *answerInput) (*edge.Body[AtDoor], error) {
			return a.doorwayAfter(ctx, in.Lecture, a.Door.Answer(ctx, in.Lecture, in.Person, p.ID, in.Body.LetIn,
				in.Body.Word))
		}, edge.Changes("doorway"))
	type allInput struct {
		edge.OfLecture
		Body struct {
			LetIn bool `json:"let_in" enum:"true"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/lectures/{lecture}/asking", "let-all-in",
		"Let everyone in who waits",
		func(ctx context.Context, p roster.Person, in *allInput) (*edge.Body[AtDoor], error) {
			return a.doorwayAfter(ctx, in.Lecture, a.Door.LetAllIn(ctx, in.Lecture, p.ID))
		}, edge.Changes("doorway"))
}

// openRoutes adds what opens a door for all, and what ends a class.
func (a *API) openRoutes() {
	type openInput struct {
		edge.OfLecture
		Body struct {
			Open bool `json:"open"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/lectures/{lecture}/doorway-open", "keep-door-open",
		"Where people ask, let everyone in from now on, or have them ask again",
		func(ctx context.Context, p roster.Person, in *openInput) (*edge.Body[AtDoor], error) {
			return a.doorwayAfter(ctx, in.Lecture, a.Door.KeepOpen(ctx, in.Lecture, p.ID, in.Body.Open))
		}, edge.Changes("doorway"))
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/lectures/{lecture}/end-class", "end-class",
		"End a class for everyone, in a moment",
		func(ctx context.Context, p roster.Person, in *edge.OfLecture) (*edge.Body[AtDoor], error) {
			return a.doorwayAfter(ctx, in.Lecture, a.Door.End(ctx, in.Lecture, p.ID))
		}, edge.Changes("class_end"))
	edge.On(a.Edge, edge.Staff, http.MethodDelete, "/api/lectures/{lecture}/end-class", "take-back-end",
		"Take the end of a class back",
		func(ctx context.Context, _ roster.Person, in *edge.OfLecture) (*edge.Body[AtDoor], error) {
			return a.doorwayAfter(ctx, in.Lecture, a.Door.TakeBackEnd(ctx, in.Lecture))
		}, edge.Changes("class_end"))
}

// guestRoutes adds what is done to the links of guests.
func (a *API) guestRoutes() {
	type guestInput struct {
		edge.OfLecture
		Body guestText
	}
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/lectures/{lecture}/guests", "invite-guest",
		"Make a link for a named outsider",
		func(ctx context.Context, p roster.Person, in *guestInput) (*edge.Body[AtDoor], error) {
			ends, _ := time.Parse(time.RFC3339, in.Body.EndsAt) // what is no time lies in the past
			_, err := a.Door.Invite(ctx, in.Lecture, p.ID,
				door.GuestForm{Name: in.Body.Name, Role: doorway.Listener, EndsAt: ends})
			return a.doorwayAfter(ctx, in.Lecture, err)
		}, edge.Changes("guest"))
	type ofGuest struct {
		edge.OfLecture
		Guest uuid.UUID `path:"guest" format:"uuid"`
	}
	edge.On(a.Edge, edge.Staff, http.MethodDelete, "/api/lectures/{lecture}/guests/{guest}", "take-back-guest",
		"Take a guest's link back",
		func(ctx context.Context, _ roster.Person, in *ofGuest) (*edge.Body[AtDoor], error) {
			return a.doorwayAfter(ctx, in.Lecture, a.Door.TakeBack(ctx, in.Lecture, in.Guest, false))
		}, edge.Changes("guest"))
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/lectures/{lecture}/guests/{guest}/bring-back",
		"bring-back-guest",
		"Let a guest's link hold again",
		func(ctx context.Context, _ roster.Person, in *ofGuest) (*edge.Body[AtDoor], error) {
			return a.doorwayAfter(ctx, in.Lecture, a.Door.TakeBack(ctx, in.Lecture, in.Guest, true))
		}, edge.Changes("guest"))
}

func (a *API) lecturePage(ctx context.Context, p roster.Person, in *edge.OfLecture) (*edge.Body[LecturePage], error) {
	if err := a.Seen.Comes(ctx, p, in.Lecture); err != nil {
		return nil, err
	}
	rows, err := a.Schedule.Lecture(ctx, in.Lecture)
	if err != nil {
		return nil, err
	}
	l := rows[0]
	term, err := a.Schedule.TermOf(ctx, l.CourseID)
	if err != nil {
		return nil, err
	}
	at, err := a.Door.Stands(ctx, p.ID, l.ID)
	if err != nil {
		return nil, err
	}
	dates, err := a.Seen.DatesOf(ctx, p, term, rows[:1])
	if err != nil {
		return nil, err
	}
	out := LecturePage{Lecture: dates[0], Zone: term.Zone.String(), Now: a.Clock.Now(),
		Staff: at.Reason == doorway.AsStaff, Standing: Standing{at.Enter, string(at.Reason), at.Word}}
	if l.Running {
		out.Lecture.RecordingID = nil
		if at.Enter {
			out.Live = l.RecordingID
		}
	}
	if p.Guest {
		return edge.Answer(out), nil
	}
	all, err := a.Schedule.Lectures(ctx, []uuid.UUID{l.CourseID})
	if err == nil {
		all, err = a.Seen.Known(ctx, p, all)
	}
	if err != nil {
		return nil, err
	}
	if near := schedule.Nearest(all, out.Now, term.Zone); near != nil && near.ID != l.ID && !l.Unplanned &&
		page.SameDay(near.StartsAt, out.Now, term.Zone) {
		d := page.DateOf(term, *near, out.Now)
		out.Today = &d
	}
	if out.Staff {
		out.Settings = &LectureSetting{page.ChoicesText{Doorway: string(l.Doorway), OpensMin: l.OpensMin,
			CaptureAuto: l.CaptureAuto, LeadMin: l.LeadMin, TailMin: l.TailMin}, l.HallID, 0}
		for _, x := range all {
			if l.PlanID != nil && x.PlanID != nil && *x.PlanID == *l.PlanID && x.StartsAt.After(l.StartsAt) {
				out.Settings.Later++
			}
		}
	}
	return edge.Answer(out), nil
}

// doorwayAfter is the doorway of a lecture as something left it that may have failed.
func (a *API) doorwayAfter(ctx context.Context, lecture uuid.UUID, err error) (*edge.Body[AtDoor], error) {
	if err != nil {
		return nil, err
	}
	return a.doorway(ctx, lecture)
}

func (a *API) doorway(ctx context.Context, lecture uuid.UUID) (*edge.Body[AtDoor], error) {
	guests, err := a.Door.Guests(ctx, lecture)
	if err != nil {
		return nil, err
	}
	asking, err := a.Door.Asks(ctx, lecture)
	if err != nil {
		return nil, err
	}
	inside, err := a.Door.Insiders(ctx, lecture)
	if err != nil {
		return nil, err
	}
	ending, err := a.Door.Ending(ctx, lecture)
	if err != nil {
		return nil, err
	}
	out := AtDoor{Guests: []GuestLine{}, Asking: []AskingLine{}, Inside: []InsideLine{}}
	if out.Open, err = a.Door.Open(ctx, lecture); err != nil {
		return nil, err
	}
	if ending != nil {
		out.Ending = &EndingText{ending.DueAt, ending.By, ending.Over}
	}
	for _, x := range inside {
		out.Inside = append(out.Inside, InsideLine{x.PersonID, x.Name, x.Guest})
	}
	for _, g := range guests {
		out.Guests = append(out.Guests, GuestLine{g.ID, g.Name, g.EndsAt, g.Link, g.Expired})
	}
	for _, x := range asking {
		state := "waits"
		switch {
		case x.SentOut:
			state = "sent_out"
		case x.LetIn:
			state = "let_in"
		}
		out.Asking = append(out.Asking, AskingLine{x.PersonID, x.Name, x.AskedAt, state})
	}
	return edge.Answer(out), nil
}

var doorProblems = edge.Problems{
	door.ErrUnknown:    http.StatusNotFound,
	door.ErrNotAsked:   http.StatusConflict,
	door.ErrNotOn:      http.StatusConflict,
	presence.ErrAbsent: http.StatusConflict,
}
