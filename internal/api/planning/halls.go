package planning

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/core/timetable"
	"latelantern/internal/halls"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// HallList is the halls of the college with their recorders.
type HallList struct {
	Zone  string    `json:"zone"`
	Now   time.Time `json:"now"`
	Halls []HallNow `json:"halls" nullable:"false" doc:"by name"`
}

// HallNow is a hall, what is on in it, and its recorder.
type HallNow struct {
	ID       uuid.UUID         `json:"id" format:"uuid"`
	Name     string            `json:"name"`
	On       *page.LectureDate `json:"on,omitempty" doc:"the lecture that is on, or the next one of today"`
	StoredMs int64             `json:"stored_ms" doc:"of the capture of that lecture under way: how much is on the server"`
	By       string            `json:"by" doc:"who captures it; empty when nobody does"`
	Recorder *RecorderLine     `json:"recorder,omitempty"`
}

// RecorderLine is a recorder and how it is.
type RecorderLine struct {
	ID        uuid.UUID  `json:"id" format:"uuid"`
	Name      string     `json:"name"`
	State     string     `json:"state" enum:"new,well,trouble,taken_back" doc:"new: it was never heard of"`
	Troubles  []string   `json:"troubles" nullable:"false" enum:"not_heard,little_disk,silent,black,clock_off,behind" doc:"the worst first"`
	HeardAt   *time.Time `json:"heard_at,omitempty"`
	ClockMs   int64      `json:"clock_ms" doc:"how far its clock is ahead"`
	Capturing bool       `json:"capturing"`
	Lecture   *uuid.UUID `json:"lecture_id,omitempty" format:"uuid" doc:"that it captures"`
	LevelDB   *float64   `json:"level_db,omitempty"`
	Picture   string     `json:"picture" enum:"none,good,black"`
	Pictured  *time.Time `json:"pictured_at,omitempty" doc:"when its last picture came"`
	Free      int64      `json:"free_bytes"`
	Unsent    int64      `json:"unsent_bytes"`
	Version   string     `json:"version"`
	Ordered   string     `json:"ordered" enum:",start,stop" doc:"what it was told and has not done yet"`
}

// RecorderToken is the token of a recorder, which is shown once.
type RecorderToken struct {
	Token string `json:"token"`
}

// OfRecorder is the input of operations about a recorder.
type OfRecorder struct {
	Recorder uuid.UUID `path:"recorder" format:"uuid"`
}

func (a *API) hallRoutes() {
	edge.On(a.Edge, edge.Coordinators, http.MethodGet, "/api/recorders", "recorders", "The halls and their recorders",
		func(ctx context.Context, _ roster.Person, _ *edge.Empty) (*edge.Body[HallList], error) {
			out, err := a.hallList(ctx)
			return edge.Answer(out), err
		})
	type recorderInput struct {
		page.OfHall
		Body struct {
			Name string `json:"name"`
		}
	}
	edge.On(a.Edge, edge.Coordinators, http.MethodPost, "/api/halls/{hall}/recorder", "add-recorder",
		"Put a recorder into a hall",
		func(ctx context.Context, p roster.Person, in *recorderInput) (*edge.Body[RecorderToken], error) {
			token, err := a.Halls.Add(ctx, in.Hall, p.ID, in.Body.Name)
			return edge.Answer(RecorderToken{token}), err
		}, edge.Changes("recorder"))
	edge.On(a.Edge, edge.Coordinators, http.MethodPost, "/api/recorders/{recorder}/token", "renew-token",
		"Give a recorder another token; the old one holds no more",
		func(ctx context.Context, _ roster.Person, in *OfRecorder) (*edge.Body[RecorderToken], error) {
			token, err := a.Halls.Renew(ctx, in.Recorder)
			return edge.Answer(RecorderToken{token}), err
		}, edge.Changes("recorder"))
	edge.On(a.Edge, edge.Coordinators, http.MethodDelete, "/api/recorders/{recorder}", "remove-recorder",
		"Take a recorder out of its hall", func(ctx context.Context, _ roster.Person, in *OfRecorder) (*edge.Empty,
			error) {
			return nil, a.Halls.Remove(ctx, in.Recorder, false)
		}, edge.Changes("recorder"))
	edge.On(a.Edge, edge.Coordinators, http.MethodPost, "/api/recorders/{recorder}/bring-back", "bring-back-recorder",
		"Put a recorder that was removed back into its hall",
		func(ctx context.Context, _ roster.Person, in *OfRecorder) (*edge.Empty, error) {
			return nil, a.Halls.Remove(ctx, in.Recorder, true)
		}, edge.Changes("recorder"))
	type tokenInput struct {
		OfRecorder
		Body struct {
			Holds bool `json:"holds"`
		}
	}
	edge.On(a.Edge, edge.Coordinators, http.MethodPut, "/api/recorders/{recorder}/token", "hold-token",
		"Take the token of a recorder back, or let it hold again",
		func(ctx context.Context, _ roster.Person, in *tokenInput) (*edge.Empty, error) {
			return nil, a.Halls.TakeBack(ctx, in.Recorder, in.Body.Holds)
		}, edge.Changes("recorder"))
}

// recorderRoutes are about what a recorder does now.
func (a *API) recorderRoutes() {
	type tellInput struct {
		OfRecorder
		Body struct {
			Kind    string     `json:"kind" enum:"start,stop"`
			Lecture *uuid.UUID `json:"lecture,omitempty" format:"uuid" doc:"to start"`
		}
	}
	edge.On(a.Edge, edge.Coordinators, http.MethodPost, "/api/recorders/{recorder}/order", "order-recorder",
		"Tell a recorder to start or to stop",
		func(ctx context.Context, p roster.Person, in *tellInput) (*edge.Empty, error) {
			var lecture uuid.UUID
			if in.Body.Lecture != nil {
				lecture = *in.Body.Lecture
			}
			return nil, a.Halls.Tell(ctx, in.Recorder, p.ID, halls.Kind(in.Body.Kind), lecture)
		})
	edge.On(a.Edge, edge.Coordinators, http.MethodGet, "/api/recorders/{recorder}/picture", "recorder-saw",
		"What a recorder saw last",
		func(_ context.Context, _ roster.Person, in *OfRecorder) (*page.Download, error) {
			b, err := a.Halls.Picture(in.Recorder)
			return page.File("image/jpeg", b, "hall.jpg"), err
		})
}

// hallList is each hall with what is on in it, and its recorder.
func (a *API) hallList(ctx context.Context) (HallList, error) {
	term, err := a.Schedule.CurrentTerm(ctx)
	if err != nil {
		return HallList{}, err
	}
	all, err := a.Schedule.Halls(ctx)
	if err != nil {
		return HallList{}, err
	}
	states, err := a.Halls.States(ctx)
	if err != nil {
		return HallList{}, err
	}
	now := a.Clock.Now()
	today := timetable.DayOf(now, term.Zone)
	lectures, err := a.Schedule.Between(ctx, timetable.On(today, 0, term.Zone),
		timetable.On(today.AddDate(0, 0, 1), 0, term.Zone), nil)
	if err != nil {
		return HallList{}, err
	}
	on, courses := map[uuid.UUID]schedule.Lecture{}, []uuid.UUID{}
	for _, l := range lectures {
		if l.HallID == nil || l.CalledOff || !l.Running && !now.Before(l.EndsAt) {
			continue
		}
		if was, ok := on[*l.HallID]; !ok || l.Running && !was.Running {
			on[*l.HallID] = l
			courses = append(courses, l.CourseID)
		}
	}
	running, err := a.Capture.Running(ctx, courses)
	if err != nil {
		return HallList{}, err
	}
	out := HallList{Zone: term.Zone.String(), Now: now, Halls: []HallNow{}}
	for _, h := range all {
		x := HallNow{ID: h.ID, Name: h.Name}
		if l, ok := on[h.ID]; ok {
			d := page.DateOf(term, l, now)
			x.On, x.By, x.StoredMs = &d, running[l.ID].By, running[l.ID].Stored.Milliseconds()
		}
		if s, ok := states[h.ID]; ok {
			r := recorderLine(s, now)
			x.Recorder = &r
		}
		out.Halls = append(out.Halls, x)
	}
	return out, nil
}

func recorderLine(s halls.State, now time.Time) RecorderLine {
	out := RecorderLine{ID: s.ID, Name: s.Name, State: "well", Troubles: []string{}, HeardAt: s.HeardAt,
		ClockMs: s.ClockMs, Capturing: s.Doing == "capturing", Lecture: s.LectureID,
		LevelDB: s.LevelDB, Picture: s.Picture, Pictured: s.PicturedAt, Free: s.FreeBytes, Unsent: s.Unsent,
		Version: s.Version}
	for _, t := range s.Troubles(now) {
		out.State, out.Troubles = "trouble", append(out.Troubles, string(t))
	}
	switch {
	case s.TakenBack:
		out.State = "taken_back"
	case s.HeardAt == nil:
		out.State = "new"
	}
	if s.Ordered != nil {
		out.Ordered = *s.Ordered
	}
	return out
}

var hallProblems = edge.Problems{
	halls.ErrUnknown: http.StatusNotFound,
	halls.ErrTwice:   http.StatusConflict,
	halls.ErrPicture: http.StatusUnprocessableEntity,
}
