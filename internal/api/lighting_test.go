package api_test

import (
	"net/http"
	"slices"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/api/sharing"
)

// TestWhoGivesLightToWhichCourse: a recording is given by who teaches its course, to courses that they teach; it is
// taken back by them, and from their own course by those to whom it was given, who learn of no other.
func TestWhoGivesLightToWhichCourse(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.everyone(true)
	third := uuid.Must(uuid.NewV7())
	e.Do(`insert into course (id, term_id, code, title) select $1, id, 'THI 3', 'A course' from term`, third)
	e.Do(`insert into membership (course_id, person_id, role) values ($1, $2, 'lecturer')`, third, e.Lecturer)
	body := func(lit bool, courses ...uuid.UUID) sharing.LightingText {
		return sharing.LightingText{Recordings: []uuid.UUID{id}, Courses: courses, Lit: &lit}
	}
	lecturer, colleague, coordinator := e.as("lecturer"), e.as("colleague"), e.as("coordinator")
	for _, path := range []string{"/api/lighting/preview", "/api/lighting"} {
		if s := lecturer.status(http.MethodPost, path, body(true, e.Course, e.Other)); s != http.StatusForbidden {
			t.Errorf("%s: given to a course of others: %d", path, s)
		}
		if s := lecturer.status(http.MethodPost, path, body(true, e.Course, uuid.New())); s != http.StatusForbidden {
			t.Errorf("%s: given to a course that is not there: %d", path, s)
		}
		for _, lit := range []bool{true, false} {
			if s := colleague.status(http.MethodPost, path, body(lit, e.Other)); s != http.StatusNotFound {
				t.Errorf("%s: a recording of others is there: %d", path, s)
			}
		}
	}
	said := post[sharing.LightingPreview](lecturer, "/api/lighting/preview", body(true, e.Course, third))
	if !slices.Equal(said.Gain, []string{"second", "student", "third"}) || len(said.Cells) != 2 ||
		said.Cells[0].Then != 3 || said.Cells[1].Of != 0 {
		t.Errorf("said is %+v", said)
	}
	step := post[sharing.LightingStep](lecturer, "/api/lighting", body(true, e.Course, third))
	post[sharing.LightingStep](coordinator, "/api/lighting", body(true, e.Other))
	undo := "/api/lighting/" + step.Step.String() + "/undo"
	if s := colleague.status(http.MethodPost, undo, nil); s != http.StatusNotFound {
		t.Errorf("someone else's step: %d", s)
	}
	// Now the colleague has it, and knows of their own course alone.
	said = post[sharing.LightingPreview](colleague, "/api/lighting/preview", body(false, e.Other))
	if len(said.Cells) != 1 || said.Cells[0].Course != e.Other || !said.Cells[0].Lit {
		t.Errorf("a colleague is told %+v", said)
	}
	if s := colleague.status(http.MethodPost, "/api/lighting",
		body(false, e.Other, e.Course)); s != http.StatusForbidden {
		t.Errorf("taken from a course of others: %d", s)
	}
	post[sharing.LightingStep](colleague, "/api/lighting", body(false, e.Other))
	if s := lecturer.status(http.MethodPost, "/api/lighting", body(false, e.Other)); s != http.StatusConflict {
		t.Errorf("dark already: %d", s)
	}
	if s := lecturer.status(http.MethodPost, undo, nil); s != http.StatusNoContent {
		t.Errorf("undone: %d", s)
	}
	if n := e.Count(`select count(*) from released where recording_id = $1 and lit`, id); n != 0 {
		t.Errorf("it gives light to %d courses", n)
	}
}
