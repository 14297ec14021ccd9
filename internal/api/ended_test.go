package api_test

import (
	"net/http"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/live"
	"latelantern/internal/capture"
	"latelantern/internal/testhouse"
)

// TestAClassIsEnded for everyone while it is captured: whoever is not in learns that it has ended, and no more.
func TestAClassIsEnded(t *testing.T) {
	e := newEdge(t, true)
	lecturer, student, second := e.as("lecturer"), e.as("student"), e.as("second")
	at := "/api/lectures/" + e.Lecture.String()
	begun, err := e.Capture.Begin(t.Context(), capture.Start{Lecture: e.Lecture, By: e.Lecturer, Source: capture.Desk})
	e.Must(err, e.Presence.See(t.Context(), e.Student, e.Lecture), e.Presence.See(t.Context(), e.Second, e.Lecture),
		e.Presence.Played(t.Context(), e.Student, e.Lecture))
	watch := "/api/watch/" + begun.Recording.String()
	heard := student.hears()

	ending := post[live.AtDoor](lecturer, at+"/end-class", nil).Ending
	if ending == nil || ending.Over || ending.By != "lecturer" {
		t.Fatalf("%+v", ending)
	}
	select {
	case <-heard:
	case <-time.After(20 * time.Second):
		t.Error("nobody hears of it")
	}
	if p := get[live.LecturePage](second, at+"/page"); !p.Standing.Enter || p.Live == nil {
		t.Errorf("before it is due: %+v", p)
	}
	later := "/api/lectures/" + e.Later.String() + "/end-class"
	if s := lecturer.status(http.MethodPost, later, nil); s != http.StatusConflict {
		t.Errorf("a class of next week is ended: %d", s)
	}
	e.Do(`update class_end set due_at = $1`, testhouse.Now.Add(-time.Second))
	e.Do(`update capture set started_at = $1`, testhouse.Now.Add(-time.Minute))
	if x := get[live.AtDoor](lecturer, at+"/doorway").Ending; x == nil || !x.Over {
		t.Errorf("when it is due: %+v", x)
	}
	if p := get[live.LecturePage](second, at+"/page"); p.Standing != (live.Standing{Reason: "over"}) || p.Live != nil {
		t.Errorf("who was not in: %+v", p)
	}
	status, text := second.send(http.MethodGet, watch, nil)
	if p := problemOf(t, text); status != http.StatusForbidden || p.Type != "urn:late-lantern:doorway.over" {
		t.Errorf("who was not in follows it: %d %s", status, text)
	}
	line := map[string]any{"id": uuid.New(), "text": "Am I late?"}
	if s := second.status(http.MethodPost, at+"/chat", line); s != http.StatusForbidden {
		t.Errorf("who was not in says something: %d", s)
	}
	if s := second.status(http.MethodPost, at+"/ask", nil); s != http.StatusConflict {
		t.Errorf("who was not in asks: %d", s)
	}
	if p := get[live.LecturePage](student, at+"/page"); !p.Standing.Enter {
		t.Errorf("who was in: %+v", p)
	}

	// Once it has stopped it is over, for all; the doorway opens again where the end is taken back.
	e.Must(e.Capture.End(t.Context(), begun.Recording))
	e.Do(`update capture set stopped_at = $1`, testhouse.Now.Add(-time.Minute))
	for name, c := range map[string]*caller{"who was in": student, "who was not": second, "who teaches": lecturer} {
		if p := get[live.LecturePage](c, at+"/page"); p.Lecture.State != "over" {
			t.Errorf("%s: %+v", name, p.Lecture)
		}
	}
	if s := lecturer.status(http.MethodDelete, at+"/end-class", nil); s != http.StatusOK {
		t.Errorf("taken back: %d", s)
	}
	if p := get[live.LecturePage](second, at+"/page"); p.Standing.Reason == "over" {
		t.Errorf("taken back: %+v", p)
	}
}
