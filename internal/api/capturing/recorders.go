package capturing

import (
	"bytes"
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/format/ical"
	"latelantern/internal/halls"
	"latelantern/internal/roster"
)

// RecorderBeat is what a recorder says of itself every five seconds.
type RecorderBeat struct {
	Now     string     `json:"now" doc:"by its own clock, a moment with its zone"`
	Lecture *uuid.UUID `json:"lecture,omitempty" format:"uuid" doc:"that it captures; missing while it is idle"`
	LevelDB *float64   `json:"level_db,omitempty" doc:"the loudest of the last seconds, in decibels below full scale; missing for no sound"`
	Picture string     `json:"picture" enum:"none,good,black"`
	Free    int64      `json:"free_bytes" doc:"on its own disk"`
	Unsent  int64      `json:"unsent_bytes" doc:"of captures, which are still only there"`
	Version string     `json:"version"`
}

// RecorderOrder is what someone told a recorder to do by hand. Each is followed once.
type RecorderOrder struct {
	ID      uuid.UUID  `json:"id" format:"uuid"`
	Kind    string     `json:"kind" enum:"start,stop"`
	Lecture *uuid.UUID `json:"lecture,omitempty" format:"uuid" doc:"to start"`
	Until   *time.Time `json:"until,omitempty" doc:"when it stops by itself, if it is not told before"`
}

// RecorderTold is what a recorder is answered.
type RecorderTold struct {
	Now   time.Time      `json:"now" doc:"by the clock of the college"`
	Hall  string         `json:"hall"`
	Order *RecorderOrder `json:"order,omitempty"`
}

func (a *API) recorderRoutes() {
	edge.On(a.Edge, edge.Recorders, http.MethodGet, "/api/recorder/plan.ics", "recorder-plan",
		"What a recorder is to capture by itself, as a calendar",
		func(ctx context.Context, _ roster.Person, _ *edge.Empty) (*page.Download, error) {
			d, _ := edge.DeviceOf(ctx)
			events, err := a.Halls.Plan(ctx, d)
			if err != nil {
				return nil, err
			}
			var b bytes.Buffer
			if err := ical.Write(&b, d.Hall, events); err != nil {
				return nil, err
			}
			return page.File(page.CalendarType, b.Bytes(), "plan.ics"), nil
		})
	edge.On(a.Edge, edge.Recorders, http.MethodPut, "/api/recorder/heartbeat", "recorder-heartbeat",
		"A recorder says how it is, and hears what to do",
		func(ctx context.Context, _ roster.Person, in *edge.Body[RecorderBeat]) (*edge.Body[RecorderTold], error) {
			d, _ := edge.DeviceOf(ctx)
			b := in.Body
			now, _ := time.Parse(time.RFC3339, b.Now) // what is no time is missed by the use-case
			told, err := a.Halls.Hear(ctx, d.ID,
				halls.Beat{Now: now, Capturing: b.Lecture, LevelDB: b.LevelDB, Picture: b.Picture, Free: b.Free,
					Unsent: b.Unsent, Version: b.Version})
			if err != nil {
				return nil, err
			}
			out := RecorderTold{Now: told.Now, Hall: d.Hall}
			if o := told.Order; o != nil {
				out.Order = &RecorderOrder{o.ID, string(o.Kind), o.LectureID, o.UntilAt}
			}
			return edge.Answer(out), nil
		})
	type jpegInput struct {
		RawBody []byte `contentType:"image/jpeg"`
	}
	edge.On(a.Edge, edge.Recorders, http.MethodPut, "/api/recorder/picture", "recorder-picture", "What a recorder sees",
		func(ctx context.Context, _ roster.Person, in *jpegInput) (*edge.Empty, error) {
			d, _ := edge.DeviceOf(ctx)
			return nil, a.Halls.Show(ctx, d.ID, in.RawBody)
		}, edge.UpTo(halls.MaxPicture+1))
}
