package api_test

import (
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/live"
	"latelantern/internal/api/planning"
	"latelantern/internal/api/watching"
	"latelantern/internal/capture"
	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
	"latelantern/internal/testhouse"
)

// TestWhatStaffSeeBeforeItIsLit: the cut as it would be published, and the capture only when they ask for it; in
// lists it is dark.
func TestWhatStaffSeeBeforeItIsLit(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.everyone(false)
	lecturer, watch := e.as("lecturer"), "/api/watch/"+id.String()
	if w := get[watching.Watch](lecturer, watch); !w.Unlit || len(w.Kept) != 0 {
		t.Errorf("nothing struck: unlit %v, kept %v", w.Unlit, w.Kept)
	}
	e.Must(e.Cuts.Change(t.Context(), id, e.Lecturer, cuts.Strike, span.Span{Start: time.Second, End: 2 * time.Second}))
	if w := get[watching.Watch](lecturer, watch); !w.Unlit || len(w.Kept) != 2 || w.Kept[0].End != 1000 ||
		w.Kept[1].Start != 2000 {
		t.Errorf("with a second struck: unlit %v, kept %v", w.Unlit, w.Kept)
	}
	if w := get[watching.Watch](lecturer, watch+"?uncut=true"); !w.Unlit || len(w.Kept) != 0 {
		t.Errorf("uncut: unlit %v, kept %v", w.Unlit, w.Kept)
	}
	course := "/api/courses/" + e.Course.String()
	light := func(c *caller) string {
		for _, d := range get[planning.CoursePage](c, course).Dates {
			if d.ID == e.Lecture {
				return d.Light
			}
		}
		return "not there"
	}
	if l := light(lecturer); l != "dark" {
		t.Errorf("before it is lit it looks %q", l)
	}
	e.Lit(id)
	if l := light(lecturer); l != "lit" {
		t.Errorf("lit it looks %q", l)
	}
	if l := light(e.as("student")); l != "" {
		t.Errorf("to a student it looks %q", l)
	}
	// What the rule gives to nobody else is said to be theirs alone.
	takes := func(who *caller, want string) {
		t.Helper()
		w, got := get[watching.Watch](who, watch), ""
		for _, x := range w.Takes {
			got += x.Kind + map[bool]string{true: " alone ", false: " "}[x.StaffAlone]
		}
		if got != want || w.Unlit {
			t.Errorf("they may take %q, want %q; unlit %v", got, want, w.Unlit)
		}
	}
	takes(lecturer, "video alone sound alone ")
	takes(e.as("student"), "")
	e.everyone(true)
	takes(lecturer, "video sound ")
	takes(e.as("student"), "video sound ")
}

// TestALectureSaysHowItGoes: begun, paused, broken off, and over at the moment of its stop.
func TestALectureSaysHowItGoes(t *testing.T) {
	e := newEdge(t)
	student, lecturer := e.as("student"), e.as("lecturer")
	page := "/api/lectures/" + e.Lecture.String() + "/page"
	is := func(phase, state string) {
		t.Helper()
		if l := get[live.LecturePage](student, page).Lecture; l.Phase != phase || l.State != state {
			t.Errorf("it is %q and %q, not %q and %q", l.Phase, l.State, phase, state)
		}
	}
	e.Do(`update lecture set starts_at = $2, ends_at = $3 where id = $1`, e.Lecture, testhouse.Now.Add(-10*time.Minute),
		testhouse.Now.Add(time.Hour))
	is("", "on")
	begun, err := e.Capture.Begin(t.Context(), capture.Start{Lecture: e.Lecture, By: e.Lecturer, Source: capture.Desk})
	e.Must(err)
	is("begins", "on")
	paused := "/api/tracks/" + begun.Track.String() + "/paused"
	heard := student.hears()
	if s := lecturer.status(http.MethodPut, paused, map[string]bool{"on": true}); s >= 300 {
		t.Fatalf("pausing: %d", s)
	}
	select {
	case said := <-heard:
		if !strings.Contains(said, `"about":"capture"`) {
			t.Errorf("a student hears %s", said)
		}
	case <-time.After(20 * time.Second):
		t.Error("nobody hears that it is paused")
	}
	is("paused", "on")
	e.Must(e.Capture.SetPaused(t.Context(), begun.Track, false))
	is("begins", "on")
	e.Do(`update track set arrived_at = $2 where id = $1`, begun.Track, testhouse.Now.Add(-3*time.Minute))
	is("broken", "on")
	e.Must(e.Capture.End(t.Context(), begun.Recording))
	is("over", "over")
	e.Must(e.Presence.See(t.Context(), e.Student, e.Lecture))
	e.Do(`update capture set stopped_at = $2 where id = $1`, begun.Capture, testhouse.Now.Add(-time.Hour))
	status, text := student.send(http.MethodGet, "/api/watch/"+begun.Recording.String(), nil)
	if p := problemOf(t, text); status != http.StatusForbidden || p.Type != "urn:late-lantern:door.over" ||
		!strings.HasPrefix(p.Detail, "The lecture is over. It can be watched here when ") {
		t.Errorf("an hour later: %d %s", status, text)
	}
	// Whoever could not come in learns no more than before.
	status, text = e.as("outsider").send(http.MethodGet, "/api/watch/"+begun.Recording.String(), nil)
	if p := problemOf(t, text); status != http.StatusForbidden || p.Type != "urn:late-lantern:door.not_enrolled" {
		t.Errorf("a stranger: %d %s", status, text)
	}
	e.Do(`update capture set stopped_at = $2, started_at = $2 where id = $1`, begun.Capture,
		testhouse.Now.Add(-14*time.Hour))
	status, text = student.send(http.MethodGet, "/api/watch/"+begun.Recording.String(), nil)
	if p := problemOf(t, text); status != http.StatusForbidden || p.Type != "urn:late-lantern:door.not_lit" {
		t.Errorf("a day later: %d %s", status, text)
	}
}

// TestWhatWasCapturedAloneIsNotTold: that somebody recorded a lecture beforehand is nobody's business until it is lit.
func TestWhatWasCapturedAloneIsNotTold(t *testing.T) {
	e := newEdge(t)
	student, page := e.as("student"), "/api/lectures/"+e.Lecture.String()+"/page"
	before := get[live.LecturePage](student, page).Lecture
	begun, err := e.Capture.Begin(t.Context(),
		capture.Start{Lecture: e.Lecture, By: e.Lecturer, Source: capture.Desk, Alone: true})
	e.Must(err)
	watch := "/api/watch/" + begun.Recording.String()
	for range 2 { // while it is captured, and after
		if now := get[live.LecturePage](student, page).Lecture; now.Phase != "" || now.State != before.State ||
			now.Running {
			t.Errorf("a student sees %+v", now)
		}
		status, text := student.send(http.MethodGet, watch, nil)
		if p := problemOf(t, text); status != http.StatusForbidden || strings.HasSuffix(p.Type, ".over") {
			t.Errorf("a student is told %d %s", status, text)
		}
		e.Must(e.Capture.End(t.Context(), begun.Recording))
	}
}

// TestAnHourThatWasNotPlanned is on while it is captured, and over when it was stopped, whatever end it was given.
func TestAnHourThatWasNotPlanned(t *testing.T) {
	e := newEdge(t)
	room, err := e.Schedule.Room(t.Context(), e.Course, "Questions")
	e.Must(err)
	state := func() string {
		return get[live.LecturePage](e.as("student"), "/api/lectures/"+room.String()+"/page").Lecture.State
	}
	begun, err := e.Capture.Begin(t.Context(), capture.Start{Lecture: room, By: e.Lecturer, Source: capture.Desk})
	e.Must(err)
	if s := state(); s != "on" {
		t.Errorf("while it is captured it is %q", s)
	}
	e.Must(e.Capture.End(t.Context(), begun.Recording))
	if s := state(); s != "over" {
		t.Errorf("stopped it is %q", s)
	}
}

// TestADraftWithoutWordsAsksForNothing, and sound alone has no slides that are still being read.
func TestADraftWithoutWordsAsksForNothing(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.Do(`insert into caption (capture_id, language, state, drafted_by) select capture_id, 'en', 'ready', 'a captioner'
		from recording_capture where recording_id = $1`, id)
	drafted := func() bool {
		l, err := e.Schedule.OfRecording(t.Context(), e.Lecture, id)
		e.Must(err)
		return l.Drafted
	}
	if drafted() {
		t.Error("a draft without a line waits to be looked at")
	}
	e.Do(`insert into cue (id, capture_id, language, start_ms, end_ms, text)
		select $2, capture_id, 'en', 0, 1000, 'Good morning' from recording_capture where recording_id = $1`, id,
		uuid.New())
	if !drafted() {
		t.Error("a draft with a line does not wait")
	}
}
